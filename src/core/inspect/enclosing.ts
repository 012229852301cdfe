import type { ScriptLanguage } from '../files/languages.js';
import { BinaryMissing } from '../syntax/binary-missing.js';
import { type Node, parseSyntax, type Syntax } from '../syntax/parse.js';
import { walk } from '../syntax/walk.js';

/** The innermost names say most. */
const MOST_NAMES = 3;
/** Longer names are texts, such as keys of a dictionary. */
const LONGEST_NAME = 60;
/** A minifier gives variables and functions shorter names. Names of properties mostly stay. */
const SHORTEST_NAME = 3;

/**
 * Names of functions, variables and properties around places of a script, from the outside inwards.
 * @returns names around a place, by line and column from 1 (UTF-16 code units); none if the script cannot be parsed
 */
export function enclosingNames(
  text: string,
  language: ScriptLanguage,
): (at: { line: number; column: number }) => string[] {
  const syntax = parsed(text, language);
  if (!syntax || syntax.problem) return () => [];
  const { program } = syntax;
  const starts = [0, ...[...text.matchAll(/\n/g)].map(({ index }) => index + 1)];
  return ({ line, column }) => {
    const offset = (starts[line - 1] ?? 0) + column - 1;
    const names: string[] = [];
    walk(program, (node) => {
      if (offset < node.start || node.end <= offset) return false;
      const name = nameOf(node, offset);
      if (name !== undefined && name !== names.at(-1)) names.push(name);
      return undefined;
    });
    return names.filter(({ length }) => length <= LONGEST_NAME).slice(-MOST_NAMES);
  };
}

/** Names are a detail of a report, which is made without the parser as well. */
function parsed(text: string, language: ScriptLanguage): Syntax | undefined {
  try {
    return parseSyntax(text, language);
  } catch (error) {
    if (error instanceof BinaryMissing) return undefined;
    throw error;
  }
}

/** The name that a node gives to what is at an offset in it. */
function nameOf(node: Node, offset: number): string | undefined {
  const isIn = (part: unknown) => {
    const { start, end } = (part ?? { start: 0, end: 0 }) as Node;
    return start <= offset && offset < end;
  };
  switch (node.type) {
    case 'Property':
    case 'PropertyDefinition':
    case 'MethodDefinition':
      return isIn(node.value) && !node.computed ? keyOf(node.key as Node) : undefined;
    case 'VariableDeclarator':
      return isIn(node.init) ? longName(node.id as Node) : undefined;
    case 'AssignmentExpression':
      return isIn(node.right) ? targetOf(node.left as Node) : undefined;
    case 'FunctionDeclaration':
    case 'FunctionExpression':
    case 'ClassDeclaration':
    case 'ClassExpression':
      return isIn(node.body) && node.id ? longName(node.id as Node) : undefined;
    default:
      return undefined;
  }
}

function keyOf({ type, name, value }: Node): string | undefined {
  if (type === 'Identifier' || type === 'PrivateIdentifier') return name as string;
  return type === 'Literal' && typeof value === 'string' ? value : undefined;
}

function longName({ type, name }: Node): string | undefined {
  return type === 'Identifier' && (name as string).length >= SHORTEST_NAME ? (name as string) : undefined;
}

/** `window.config` for an assignment to it. */
function targetOf(node: Node): string | undefined {
  if (node.type !== 'MemberExpression' || node.computed) return longName(node);
  const property = keyOf(node.property as Node);
  const object = targetOf(node.object as Node);
  return property === undefined ? undefined : object === undefined ? property : `${object}.${property}`;
}
