import type { Read } from '../../reads/read.js';
import { type Node, parseSyntax, type SourceKind } from '../../syntax/parse.js';
import { declarationOf } from '../../syntax/scopes.js';
import { isTypeOnly, isWrapper, unwrap, walk } from '../../syntax/walk.js';
import { type LintContext, type LintFinding, placed, type SourceText } from '../model.js';

/** The whole object where it reaches the browser, and values of the server where code hands them on to it. */
export function flowRules(context: LintContext): LintFinding[] {
  return [...context.files.values()].flatMap((file) => {
    const code = context.bundles.find(({ reached }) => reached.has(file.path));
    if (code && code.bundle.runs !== 'server') return wholeObjects(context, file, code.bundle.name);
    return file.reads.length > 0 && isScript(file) ? new Flow(context, file).findings() : [];
  });
}

function isScript({ path }: SourceText): boolean {
  return /\.[cm]?[jt]sx?$/.test(path);
}

function wholeObjects(context: LintContext, file: SourceText, bundle: string): LintFinding[] {
  return file.reads
    .filter(({ kind }) => kind === 'whole' || kind === 'spread')
    .map(({ object, start, end }) => ({
      code: 'code/whole-object',
      bundle,
      message: `all of ${object} is used here: the build puts every value that it has into the bundle, or leaves nothing there`,
      remedy: `read the names that are needed, one by one`,
      ...placed(context, file, start, end),
    }));
}

/** What an expression carries: a read, of a name or of the whole object. */
type Cargo = Read & { isWhole: boolean };

/**
 * Follows values of the environment within one file: through assignments, templates, objects, calls that only change their
 * form. What a function of one's own makes of a value is not followed: a signature is no key.
 */
class Flow {
  readonly #reads = new Map<string, Cargo>();
  /** Declarations to the names that they bind, to what those carry. */
  readonly #carried = new Map<Node, Map<string, Cargo>>();
  readonly #found: LintFinding[] = [];
  readonly #told = new Set<string>();

  constructor(
    readonly context: LintContext,
    readonly file: SourceText,
  ) {
    const { variables } = context.contract;
    for (const read of file.reads) {
      const isWhole = read.kind === 'whole' || read.kind === 'spread';
      const isNarrow =
        read.name !== undefined && variables.has(read.name) && variables.get(read.name)?.reach !== 'public';
      if (isWhole || isNarrow) this.#reads.set(`${read.start}:${read.end}`, { ...read, isWhole });
    }
  }

  findings(): LintFinding[] {
    if (this.#reads.size === 0) return [];
    const ending = /\.[cm]?([jt]sx?)$/.exec(this.file.path)?.[1];
    const { program } = parseSyntax(this.file.text, (ending === 'js' ? 'jsx' : ending) as SourceKind);
    walk(program, (node, ancestors) => {
      if (isTypeOnly(node)) return false;
      if (node.type === 'VariableDeclarator') this.#declare(node, ancestors);
      return undefined;
    });
    walk(program, (node, ancestors) => {
      if (isTypeOnly(node)) return false;
      this.#sink(node, ancestors);
      return undefined;
    });
    return this.#found;
  }

  #declare(node: Node, ancestors: readonly Node[]): void {
    const id = node.id as Node;
    if (id.type === 'Identifier') {
      const cargo = node.init ? this.#cargo(node.init as Node, ancestors) : undefined;
      if (cargo) this.#carried.set(node, new Map([[id.name as string, cargo]]));
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

  /** What an expression carries on, if anything. */
  #cargo(node: Node, ancestors: readonly Node[]): Cargo | undefined {
    const inner = unwrap(node);
    const own = this.#reads.get(`${inner.start}:${inner.end}`);
    if (own) return own;
    const first = (nodes: readonly (Node | null | undefined)[]) => {
      for (const one of nodes) {
        const cargo = one ? this.#cargo(one, ancestors) : undefined;
        if (cargo) return cargo;
      }
      return undefined;
    };
    switch (inner.type) {
      case 'Identifier': {
        const declaration = declarationOf(inner.name as string, ancestors);
        return declaration && this.#carried.get(declaration)?.get(inner.name as string);
      }
      case 'TemplateLiteral':
        return first(inner.expressions as Node[]);
      case 'BinaryExpression':
        return inner.operator === '+' ? first([inner.left as Node, inner.right as Node]) : undefined;
      case 'LogicalExpression':
        return first([inner.left as Node, inner.right as Node]);
      case 'ConditionalExpression':
        return first([inner.consequent as Node, inner.alternate as Node]);
      case 'ObjectExpression':
        return first(
          (inner.properties as Node[]).map((one) => (one.type === 'SpreadElement' ? one.argument : one.value) as Node),
        );
      case 'ArrayExpression':
        return first(
          (inner.elements as (Node | null)[]).map((one) =>
            one?.type === 'SpreadElement' ? (one.argument as Node) : one,
          ),
        );
      case 'AwaitExpression':
        return first([inner.argument as Node]);
      case 'CallExpression':
        return this.#throughCall(inner, ancestors);
      default:
        return undefined;
    }
  }

  /** Calls that give the same text back in another form. */
  #throughCall(node: Node, ancestors: readonly Node[]): Cargo | undefined {
    const callee = unwrap(node.callee as Node);
    const [argument] = node.arguments as Node[];
    const name = calleeName(callee);
    if (
      argument &&
      /^(JSON\.stringify|String|btoa|encodeURIComponent|Object\.(entries|fromEntries|assign|keys|values)|Buffer\.from)$/.test(
        name,
      )
    )
      return this.#cargo(argument, ancestors);
    const isForm =
      callee.type === 'MemberExpression' &&
      /\.(trim|slice|toString|concat|replace|toLowerCase|toUpperCase|substring|padEnd|padStart)$/.test(
        `.${(callee.property as Node).name}`,
      );
    return isForm ? this.#cargo(callee.object as Node, ancestors) : undefined;
  }

  #sink(node: Node, ancestors: readonly Node[]): void {
    switch (node.type) {
      case 'CallExpression':
        this.#call(node, ancestors);
        break;
      case 'NewExpression':
        if (calleeName(node.callee as Node) === 'Response') this.#args(node, ancestors, 'is put into a response');
        break;
      case 'ReturnStatement':
        if (node.argument && answers(ancestors))
          this.#tell(node.argument as Node, ancestors, 'is in what this handler answers');
        break;
      case 'ArrowFunctionExpression':
        if (node.expression && answers([...ancestors, node]))
          this.#tell(node.body as Node, [...ancestors, node], 'is in what this handler answers');
        break;
      case 'JSXAttribute':
      case 'JSXSpreadAttribute':
        this.#attribute(node, ancestors);
        break;
      case 'JSXExpressionContainer':
        if (ancestors.at(-1)?.type === 'JSXElement')
          this.#tell(node.expression as Node, ancestors, 'is put into markup');
        break;
      case 'TemplateLiteral':
        if ((node.quasis as { value: { raw: string } }[]).some(({ value }) => /<\/?[a-z][\w-]*[\s>]/i.test(value.raw)))
          this.#tell(node, ancestors, 'is put into markup');
        break;
    }
  }

  #call(node: Node, ancestors: readonly Node[]): void {
    const callee = unwrap(node.callee as Node);
    const name = calleeName(callee);
    if (/^console\.\w+$|(^|\.)(log|logger)\.\w+$/.test(name)) this.#args(node, ancestors, 'is logged', true);
    else if (/^(NextResponse|Response)\.json$|^json$/.test(name)) this.#args(node, ancestors, 'is put into a response');
    else if (callee.type === 'MemberExpression') {
      const method = (callee.property as Node).name as string;
      const isAnswer = /^(json|send|jsonp|render)$/.test(method) && !/^(axios|fetch|client|http|api)\b/i.test(name);
      const isStream =
        /^(end|write)$/.test(method) && /(^|\.)(res|response|reply|answer)\.\w+$|\)\.\w+$/.test(`${name}`);
      if (isAnswer || isStream) this.#args(node, ancestors, 'is put into a response');
    }
  }

  #args(node: Node, ancestors: readonly Node[], where: string, wholeOnly = false): void {
    for (const argument of node.arguments as Node[])
      this.#tell(
        (argument.type === 'SpreadElement' ? argument.argument : argument) as Node,
        ancestors,
        where,
        wholeOnly,
      );
  }

  #attribute(node: Node, ancestors: readonly Node[]): void {
    const value = node.type === 'JSXSpreadAttribute' ? (node.argument as Node) : (node.value as Node | null);
    const expression = value?.type === 'JSXExpressionContainer' ? (value.expression as Node) : value;
    if (expression && expression.type !== 'Literal')
      this.#tell(expression, ancestors, 'is put into props, which go to the browser with the page');
  }

  #tell(expression: Node, ancestors: readonly Node[], where: string, wholeOnly = false): void {
    const cargo = this.#cargo(expression, ancestors);
    if (!cargo || (wholeOnly && !cargo.isWhole)) return;
    const key = `${cargo.start} ${expression.start}`;
    // An inner expression is a part of an outer one that was told before.
    if (this.#told.has(key) || [...this.#told].some((one) => one === `${cargo.start} *`)) return;
    this.#told.add(key);
    this.#told.add(`${cargo.start} *`);
    const bundle = this.context.bundles.find(({ onServer }) => onServer.has(this.file.path))?.bundle.name;
    const { start, end } = unwrap(expression);
    const at = placed(this.context, this.file, start, end);
    if (cargo.isWhole) {
      const message = `all of ${cargo.object} ${where}: every secret of this process with it`;
      this.#found.push({
        code: 'code/whole-object',
        level: 'error',
        ...(bundle && { bundle }),
        message,
        remedy: 'name the values that are needed, one by one',
        ...at,
      });
      return;
    }
    const { name = '' } = cargo;
    const reach = this.context.contract.variables.get(name)?.reach;
    const message = `${name} is for the ${reach} alone, and ${where} here`;
    this.#found.push({
      code: 'code/server-read',
      variable: name,
      ...(bundle && { bundle }),
      message,
      remedy: 'answer with what the browser needs to know, and never with the value itself',
      ...at,
    });
  }
}

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
  return handlers.test(own ?? declared ?? '');
}
