import { scriptLanguage } from '../../files/languages.js';
import { finding } from '../../findings/finding.js';
import type { Read } from '../../reads/read.js';
import { type Node, parseSyntax } from '../../syntax/parse.js';
import { assignedValues, declarationOf } from '../../syntax/scopes.js';
import { unwrap, walk } from '../../syntax/walk.js';
import { isIn } from '../../text/ranges.js';
import { type LintContext, type LintFinding, placed, type SourceText } from '../model.js';

/** Finds server code in which a request chooses the name that is read: whoever sends it can ask for every variable. */
export function requestNameRules(context: LintContext): LintFinding[] {
  return [...context.files.values()].flatMap((file) => {
    const kind = scriptLanguage(file.path);
    const computed = file.reads.filter(
      (read) => read.kind === 'computed' && read.name === undefined && isOnServer(context, file, read),
    );
    if (kind === undefined || computed.length === 0) return [];
    const { program } = parseSyntax(file.text, kind);
    const bundle = context.bundles.find(({ onServer: paths }) => paths.has(file.path))?.bundle.name;
    return computed
      .filter((read) => isChosenByRequest(program, read))
      .map(({ object, start, end }) => {
        const more = { level: 'error' as const, ...(bundle && { bundle }), ...placed(context, file, start, end) };
        return finding('code/whole-object', 'request', { object }, more);
      });
  });
}

function isOnServer({ bundles }: LintContext, { path }: SourceText, { start }: Read): boolean {
  return bundles.every(
    ({ bundle, shipped, serverParts }) =>
      bundle.runs === 'server' || !shipped.has(path) || isIn(serverParts.get(path) ?? [], start),
  );
}

function isChosenByRequest(program: Node, { start, end }: Read): boolean {
  let isChosen = false;
  walk(program, (node, ancestors) => {
    if (node.type === 'MemberExpression' && node.start === start && node.end === end) {
      const name = node.property as Node;
      isChosen = comesFromRequest(name, ancestors, new Set()) && !isChecked(name, ancestors);
    }
    return isChosen ? false : undefined;
  });
  return isChosen;
}

/** Names that frameworks and servers give the parameters that describe a request. */
const requestParameter =
  /^_?(req|request|ctx|context|event|evt|params|query|searchParams|body|url|headers|cookies|message|msg|input)$/i;

/** Tells whether an expression contains anything of a function's request parameters, followed through local variables. */
function comesFromRequest(expression: Node, ancestors: readonly Node[], seen: Set<Node>): boolean {
  let found = false;
  walk(expression, (node, inner) => {
    if (found || /Function/.test(node.type)) return false;
    const owner = inner.at(-1);
    const isKey = owner?.type === 'MemberExpression' && owner.property === node && !owner.computed;
    if (node.type !== 'Identifier' || isKey) return undefined;
    const around = [...ancestors, ...inner];
    const declaration = declarationOf(node.name as string, around);
    if (!declaration || seen.has(declaration)) return undefined;
    seen.add(declaration);
    found =
      declaration.type === 'VariableDeclarator'
        ? assignedValues(declaration, around).some((value) => comesFromRequest(value.node, value.ancestors, seen))
        : isRequest(declaration);
    return undefined;
  });
  return found;
}

/** `request`, `{ params }`, and typed or defaulted variants of both. */
function isRequest(parameter: Node): boolean {
  const inner = parameter.type === 'AssignmentPattern' ? (parameter.left as Node) : parameter;
  if (inner.type === 'Identifier') return requestParameter.test(inner.name as string);
  if (inner.type !== 'ObjectPattern') return false;
  return (inner.properties as Node[]).some((one) => {
    const key = (one.type === 'RestElement' ? one.argument : one.key) as Node;
    return requestParameter.test((key.name as string | undefined) ?? '');
  });
}

/** Tells whether the code around compares the name with a list of names, as in `allowed.includes(name)` or `name in allowed`. */
function isChecked(name: Node, ancestors: readonly Node[]): boolean {
  const at = unwrap(name);
  const owner = ancestors.findLast(({ type }) => /Function|Program/.test(type));
  if (at.type !== 'Identifier' || !owner) return false;
  const isSame = (node: unknown) => {
    const inner = unwrap(node as Node);
    return inner.type === 'Identifier' && inner.name === at.name;
  };
  let isFound = false;
  walk(owner, (node) => {
    if (node.type === 'CallExpression') {
      const callee = unwrap(node.callee as Node);
      const method = callee.type === 'MemberExpression' ? ((callee.property as Node).name as string) : '';
      if (/^(includes|has|indexOf|hasOwn|hasOwnProperty|test|find|some|parse|safeParse)$/.test(method))
        isFound ||= (node.arguments as Node[]).some(isSame);
    } else if (node.type === 'BinaryExpression') {
      if (node.operator === 'in' || /^[!=]==?$/.test(node.operator as string)) isFound ||= isSame(node.left);
    } else if (node.type === 'SwitchStatement') isFound ||= isSame(node.discriminant);
    return undefined;
  });
  return isFound;
}
