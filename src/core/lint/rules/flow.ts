import { type ScriptLanguage, scriptLanguage } from '../../files/languages.js';
import { finding } from '../../findings/finding.js';
import type { Read } from '../../reads/read.js';
import { joinedName } from '../../resolve/keyed.js';
import { type Node, parseSyntax } from '../../syntax/parse.js';
import { declarationOf } from '../../syntax/scopes.js';
import { isTypeOnly, isWrapper, unwrap, walk } from '../../syntax/walk.js';
import { toolchainOf } from '../../toolchains/index.js';
import { readFrom } from '../../toolchains/read-from.js';
import type { Destination } from '../../words/code.js';
import { type LintContext, type LintFinding, placed, type SourceText } from '../model.js';

/** Finds the whole object in browser code, and server values that code passes to the browser. */
export function flowRules(context: LintContext): LintFinding[] {
  return [...context.files.values()].flatMap((file) => {
    const code = context.bundles.find(({ shipped }) => shipped.has(file.path));
    if (code && code.bundle.runs !== 'server') return wholeObjects(context, file, code.bundle.name);
    const kind = scriptLanguage(file.path);
    // Server code without reads of its own may send what it imports.
    const matters = file.reads.length > 0 || context.bundles.some(({ onServer }) => onServer.has(file.path));
    return matters && kind ? new Flow(context, file).findings(kind) : [];
  });
}

function wholeObjects(context: LintContext, file: SourceText, bundle: string): LintFinding[] {
  return file.reads
    .filter(({ kind }) => kind === 'whole' || kind === 'spread')
    .map(({ object, start, end }) =>
      finding('code/whole-object', 'browser', { object }, { bundle, ...placed(context, file, start, end) }),
    );
}

/** What an expression carries: a read, of a name, of the whole object, or of a name that is chosen at run time. */
type Cargo = Read & { isWhole: boolean };

interface Carried {
  cargo: Cargo;
  at: Node;
}

/** How many imports are followed, and how deep expressions. */
const [MOST_STEPS, DEEPEST] = [4, 200];

/**
 * Follows values of the environment: through assignments, templates, objects, calls that only change their form, arguments
 * and results of the project's own functions, and imports of its own files. What a foreign function makes of an argument is
 * not followed: a signature is not a key.
 */
class Flow {
  readonly #reads = new Map<string, Cargo>();
  /** Imported names of virtual environment modules. */
  readonly #imported = new Map<string, Cargo>();
  /** Declarations to the names that they bind, to what those carry. */
  readonly #carried = new Map<Node, Map<string, Cargo>>();
  readonly #found: LintFinding[] = [];
  readonly #reported = new Set<Node>();
  /** Files that this one imports, each parsed once. */
  readonly #others = new Map<string, Flow>();
  #program: Node | undefined;
  #level = 0;
  /** Functions whose results are being followed, which may call each other. */
  readonly #calls = new Set<Node>();

  constructor(
    readonly context: LintContext,
    readonly file: SourceText,
    readonly depth = 0,
  ) {
    const { variables } = context.contract;
    for (const read of file.reads) {
      const isWhole = /^(whole|spread)$/.test(read.kind) || (read.kind === 'computed' && read.name === undefined);
      const name = this.#variableRead(read);
      const isSecret = name !== undefined && variables.has(name) && variables.get(name)?.reach !== 'public';
      if (!isWhole && !isSecret) continue;
      const cargo = { ...read, isWhole, ...(name !== undefined && { name }) };
      this.#reads.set(`${read.start}:${read.end}`, cargo);
      if (read.kind === 'import' && read.name !== undefined) this.#imported.set(read.name, cargo);
    }
  }

  /** The variable of a read; a key of a runtime configuration has one that overrides it. */
  #variableRead({ name, object }: Read): string | undefined {
    if (name === undefined || readFrom(object)?.kind !== 'config') return name;
    const { bundles } = this.context;
    const prefix = bundles.flatMap(({ bundle }) => toolchainOf(bundle).runtimePrefix ?? [])[0];
    return prefix === undefined
      ? name
      : prefix + joinedName([...object.matchAll(/\.(public)\b/g)].map(() => 'public').concat(name.split('.')));
  }

  findings(kind: ScriptLanguage): LintFinding[] {
    const program = this.#parsed(kind);
    walk(program, (node, ancestors) => {
      if (isTypeOnly(node)) return false;
      this.#sink(node, ancestors);
      return undefined;
    });
    return this.#found;
  }

  /** What an export of this file carries. @param name `default` for the default export */
  exported(name: string): Cargo | undefined {
    const kind = scriptLanguage(this.file.path);
    if (!kind) return undefined;
    const program = this.#parsed(kind);
    for (const statement of program.body as Node[]) {
      const isDefault = statement.type === 'ExportDefaultDeclaration';
      if (!isDefault && statement.type !== 'ExportNamedDeclaration') continue;
      const declaration = statement.declaration as Node | null;
      if (isDefault && name === 'default' && declaration) return this.#result(declaration, [program, statement]);
      if (declaration?.type === 'FunctionDeclaration' && (declaration.id as Node).name === name)
        return this.#result(declaration, [program, statement]);
      if (declaration?.type !== 'VariableDeclaration') continue;
      const found = (declaration.declarations as Node[]).find(({ id }) => (id as Node).name === name);
      if (found?.init) return this.#result(found.init as Node, [program, statement, declaration, found]);
    }
    return undefined;
  }

  #parsed(kind: ScriptLanguage): Node {
    if (this.#program) return this.#program;
    this.#program = parseSyntax(this.file.text, kind).program;
    walk(this.#program, (node, ancestors) => {
      if (isTypeOnly(node)) return false;
      if (node.type === 'VariableDeclarator') this.#declare(node, ancestors);
      return undefined;
    });
    walk(this.#program, (node, ancestors) => {
      if (isTypeOnly(node)) return false;
      if (node.type === 'CallExpression') this.#bindParameters(node, ancestors);
      return undefined;
    });
    return this.#program;
  }

  /** Arguments of the file's own functions are values of their parameters. */
  #bindParameters(node: Node, ancestors: readonly Node[]): void {
    const callee = unwrap(node.callee as Node);
    const declaration = callee.type === 'Identifier' ? declarationOf(callee.name as string, ancestors) : undefined;
    const target = declaration?.type === 'VariableDeclarator' ? (declaration.init as Node | null) : declaration;
    if (!target || !/Function/.test(target.type)) return;
    for (const [index, parameter] of (target.params as Node[]).entries()) {
      const argument = (node.arguments as Node[])[index];
      const [first] = argument && parameter.type === 'Identifier' ? this.#carriedBy(argument, ancestors) : [];
      if (first) this.#carried.set(parameter, new Map([[parameter.name as string, first.cargo]]));
    }
  }

  /** What a value is, or what a function returns. */
  #result(node: Node, ancestors: readonly Node[]): Cargo | undefined {
    const inner = unwrap(node);
    if (!/Function/.test(inner.type)) return this.#carriedBy(inner, ancestors)[0]?.cargo;
    const within = [...ancestors, inner];
    if (inner.type === 'ArrowFunctionExpression' && inner.expression)
      return this.#carriedBy(inner.body as Node, within)[0]?.cargo;
    let found: Cargo | undefined;
    walk(inner.body as Node, (one, above) => {
      if (found || /Function|^Class/.test(one.type)) return false;
      if (one.type === 'ReturnStatement' && one.argument)
        found = this.#carriedBy(one.argument as Node, [...within, ...above])[0]?.cargo;
      return undefined;
    });
    return found;
  }

  #declare(node: Node, ancestors: readonly Node[]): void {
    const id = node.id as Node;
    if (id.type === 'Identifier') {
      const [first] = node.init ? this.#carriedBy(node.init as Node, ancestors) : [];
      if (first) this.#carried.set(node, new Map([[id.name as string, first.cargo]]));
      return;
    }
    if (id.type !== 'ObjectPattern') return;
    const names = new Map<string, Cargo>();
    for (const property of id.properties as Node[]) {
      const cargo = this.#reads.get(`${property.start}:${property.end}`);
      const target = (property.type === 'RestElement' ? property.argument : property.value) as Node;
      const local = target.type === 'AssignmentPattern' ? (target.left as Node) : target;
      if (cargo && local.type === 'Identifier') names.set(local.name as string, cargo);
    }
    if (names.size > 0) this.#carried.set(node, names);
  }

  /** What an expression carries on, each with the place at which it enters. */
  #carriedBy(node: Node, ancestors: readonly Node[]): Carried[] {
    // A sum of thousands of strings is as deep as it is long.
    if (this.#level > DEEPEST) return [];
    this.#level++;
    const found = this.#cargoOf(node, ancestors);
    this.#level--;
    return found;
  }

  #cargoOf(node: Node, ancestors: readonly Node[]): Carried[] {
    const at = unwrap(node);
    const own = this.#reads.get(`${at.start}:${at.end}`);
    if (own) return [{ cargo: own, at }];
    const all = (nodes: readonly (Node | null | undefined)[]) =>
      nodes.flatMap((one) => (one ? this.#carriedBy(one, ancestors) : []));
    switch (at.type) {
      case 'Identifier': {
        const declaration = declarationOf(at.name as string, ancestors);
        const cargo = declaration && this.#declared(declaration, at.name as string);
        return cargo ? [{ cargo, at }] : [];
      }
      case 'TemplateLiteral':
        return all(at.expressions as Node[]);
      case 'BinaryExpression':
        return at.operator === '+' ? all([at.left as Node, at.right as Node]) : [];
      case 'LogicalExpression':
        return all([at.left as Node, at.right as Node]);
      case 'ConditionalExpression':
        return all([at.consequent as Node, at.alternate as Node]);
      case 'ObjectExpression':
        return all(
          (at.properties as Node[]).map((one) => (one.type === 'SpreadElement' ? one.argument : one.value) as Node),
        );
      case 'ArrayExpression':
        return all(
          (at.elements as (Node | null)[]).map((one) => (one?.type === 'SpreadElement' ? (one.argument as Node) : one)),
        );
      case 'AwaitExpression':
        return all([at.argument as Node]);
      case 'CallExpression':
        return this.#throughCall(at, ancestors);
      default:
        return [];
    }
  }

  /** What a name carries: a local one, one of a virtual environment module, or one of another file of the project. */
  #declared(declaration: Node, name: string): Cargo | undefined {
    const own = this.#carried.get(declaration)?.get(name);
    if (own || !/^Import(Default)?Specifier$/.test(declaration.type)) return own;
    const imported = declaration.type === 'ImportSpecifier' ? nameOfImport(declaration) : 'default';
    const specifier = (declaration.source as Node | undefined)?.value as string | undefined;
    if (specifier === undefined) return undefined;
    if (/^(\$env|astro:env)\//.test(specifier)) return this.#imported.get(imported);
    return this.#ofFile(specifier, imported);
  }

  #ofFile(specifier: string, name: string): Cargo | undefined {
    if (this.depth >= MOST_STEPS) return undefined;
    const path = this.context.resolve(this.file.path, specifier);
    const file = path === undefined || path === this.file.path ? undefined : this.context.files.get(path);
    // Most files read nothing, and import nothing that does.
    if (!file || (file.reads.length === 0 && file.imports.length === 0)) return undefined;
    const other = this.#others.get(file.path) ?? new Flow(this.context, file, this.depth + 1);
    this.#others.set(file.path, other);
    return other.exported(name);
  }

  /** Calls that return the same text in another form, and calls of the project's own functions. */
  #throughCall(node: Node, ancestors: readonly Node[]): Carried[] {
    const callee = unwrap(node.callee as Node);
    const [argument] = node.arguments as Node[];
    if (argument && sameText.test(calleeName(callee))) return this.#carriedBy(argument, ancestors);
    if (callee.type === 'Identifier') return this.#throughFunction(node, callee.name as string, ancestors);
    const isForm = callee.type === 'MemberExpression' && sameTextMethod.test((callee.property as Node).name as string);
    return isForm ? this.#carriedBy(callee.object as Node, ancestors) : [];
  }

  #throughFunction(node: Node, name: string, ancestors: readonly Node[]): Carried[] {
    const declaration = declarationOf(name, ancestors);
    if (!declaration || this.#calls.has(declaration)) return [];
    this.#calls.add(declaration);
    const isOwn = declaration.type === 'FunctionDeclaration';
    const init = declaration.type === 'VariableDeclarator' ? (declaration.init as Node | null) : null;
    const isFunction = init !== null && /Function/.test(unwrap(init).type);
    const cargo = isOwn
      ? this.#result(declaration, ancestors)
      : isFunction
        ? this.#result(init, ancestors)
        : this.#declared(declaration, name);
    this.#calls.delete(declaration);
    return cargo ? [{ cargo, at: node }] : [];
  }

  #sink(node: Node, ancestors: readonly Node[]): void {
    switch (node.type) {
      case 'CallExpression':
        this.#call(node, ancestors);
        break;
      case 'NewExpression':
        if (calleeName(node.callee as Node) === 'Response') this.#args(node, ancestors, 'response');
        break;
      case 'ReturnStatement':
        if (node.argument && answers(ancestors)) this.#report(node.argument as Node, ancestors, 'result');
        break;
      case 'ArrowFunctionExpression':
        if (node.expression && answers([...ancestors, node]))
          this.#report(node.body as Node, [...ancestors, node], 'result');
        break;
      case 'JSXAttribute':
      case 'JSXSpreadAttribute':
        this.#attribute(node, ancestors);
        break;
      case 'JSXExpressionContainer':
        if (ancestors.at(-1)?.type === 'JSXElement') this.#report(node.expression as Node, ancestors, 'markup');
        break;
      case 'TemplateLiteral':
        if ((node.quasis as { value: { raw: string } }[]).some(({ value }) => /<\/?[a-z][\w-]*[\s>]/i.test(value.raw)))
          this.#report(node, ancestors, 'markup');
        break;
    }
  }

  #call(node: Node, ancestors: readonly Node[]): void {
    const callee = unwrap(node.callee as Node);
    const name = calleeName(callee);
    if (/^console\.\w+$|(^|\.)(log|logger)\.\w+$/.test(name)) this.#args(node, ancestors, 'log', true);
    else if (/^(NextResponse|Response)\.json$|^json$/.test(name)) this.#args(node, ancestors, 'response');
    else if (callee.type === 'MemberExpression') {
      const method = (callee.property as Node).name as string;
      const isAnswer = /^(json|send|jsonp|render)$/.test(method) && !/^(axios|fetch|client|http|api)\b/i.test(name);
      const isStream =
        /^(end|write)$/.test(method) && /(^|\.)(res|response|reply|answer)\.\w+$|\)\.\w+$/.test(`${name}`);
      if (isAnswer || isStream) this.#args(node, ancestors, 'response');
    }
  }

  #args(node: Node, ancestors: readonly Node[], to: Destination, wholeOnly = false): void {
    for (const argument of node.arguments as Node[])
      this.#report(
        (argument.type === 'SpreadElement' ? argument.argument : argument) as Node,
        ancestors,
        to,
        wholeOnly,
      );
  }

  #attribute(node: Node, ancestors: readonly Node[]): void {
    const value = node.type === 'JSXSpreadAttribute' ? (node.argument as Node) : (node.value as Node | null);
    const expression = value?.type === 'JSXExpressionContainer' ? (value.expression as Node) : value;
    if (expression && expression.type !== 'Literal') this.#report(expression, ancestors, 'props');
  }

  #report(expression: Node, ancestors: readonly Node[], to: Destination, wholeOnly = false): void {
    for (const { cargo, at } of this.#carriedBy(expression, ancestors)) {
      // An inner expression is part of an outer one, which was already reported.
      if ((wholeOnly && !cargo.isWhole && !this.#isOnServer()) || this.#reported.has(at)) continue;
      this.#reported.add(at);
      this.#found.push(this.#finding(cargo, at, to));
    }
  }

  #isOnServer(): boolean {
    return this.context.bundles.some(({ onServer }) => onServer.has(this.file.path));
  }

  #finding({ isWhole, kind, object, name = '' }: Cargo, { start, end }: Node, to: Destination): LintFinding {
    const bundle = this.context.bundles.find(({ onServer }) => onServer.has(this.file.path))?.bundle.name;
    const at = { ...(bundle && { bundle }), ...placed(this.context, this.file, start, end) };
    if (isWhole) {
      const about = { object, isComputed: kind === 'computed', to };
      return finding('code/whole-object', 'sent', about, { ...at, level: 'error' });
    }
    const reach = this.context.contract.variables.get(name)?.reach ?? 'server';
    const level = to === 'log' ? { level: 'warning' as const } : {};
    return finding('code/server-read', 'sent', { variable: name, reach, to }, { ...level, ...at });
  }
}

function nameOfImport({ imported }: Node): string {
  const node = imported as Node;
  return (node.name ?? node.value) as string;
}

const sameText =
  /^(JSON\.stringify|String|btoa|encodeURIComponent|Object\.(entries|fromEntries|assign|keys|values)|Buffer\.from)$/;
const sameTextMethod = /^(trim|slice|toString|concat|replace|toLowerCase|toUpperCase|substring|padEnd|padStart)$/;

function calleeName(node: Node): string {
  const inner = unwrap(node);
  if (inner.type === 'Identifier') return inner.name as string;
  if (inner.type === 'MemberExpression' && !inner.computed) {
    const object = calleeName(inner.object as Node);
    return `${object}.${(inner.property as Node).name as string}`;
  }
  if (inner.type === 'CallExpression') return `${calleeName(inner.callee as Node)}()`;
  return '';
}

const handlers =
  /^(load|loader|action|getServerSideProps|getStaticProps|getInitialProps|GET|POST|PUT|PATCH|DELETE|handler|onRequest)$/;

/** Whether the nearest function around a place is one whose result goes to the browser. */
function answers(ancestors: readonly Node[]): boolean {
  const at = ancestors.findLastIndex(({ type }) => /Function/.test(type));
  const owner = ancestors[at];
  if (!owner) return false;
  const own = (owner.id as Node | null | undefined)?.name as string | undefined;
  const parent = ancestors.slice(0, at).findLast((one) => !isWrapper(one));
  const declared =
    parent?.type === 'VariableDeclarator'
      ? ((parent.id as Node).name as string)
      : parent?.type === 'Property'
        ? ((parent.key as Node).name as string)
        : undefined;
  const isWrapped =
    parent?.type === 'CallExpression' && /^(define)?(cached)?eventHandler$/i.test(calleeName(parent.callee as Node));
  return isWrapped || handlers.test(own ?? declared ?? '');
}
