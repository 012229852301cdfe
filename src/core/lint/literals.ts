import { scriptLanguage } from '../files/languages.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { walk } from '../syntax/walk.js';
import { oncePer } from '../text/once.js';
import { countAtMost } from '../text/sorted.js';
import type { SourceText } from './model.js';

/** A string literal in code. Offsets are UTF-16 code units, including the quotes. */
export interface Literal {
  start: number;
  end: number;
  /** Its text; of a template only the part between two expressions. */
  text: string;
  /** `expression`: a string that a read can replace. */
  role: 'expression' | 'attribute' | 'template' | 'other';
}

/** The string literals of a script, in text order; undefined for other files, whose whole text counts. */
export const literalsOf: (file: SourceText) => readonly Literal[] | undefined = oncePer(find);

function find({ path, text }: SourceText): Literal[] | undefined {
  const kind = scriptLanguage(path);
  if (kind === undefined) return undefined;
  const { program } = parseSyntax(text, kind);
  const found: Literal[] = [];
  walk(program, (node, ancestors) => {
    if (node.type === 'Literal' && typeof node.value === 'string')
      found.push(literal(node, node.value, role(node, ancestors.at(-1))));
    else if (node.type === 'TemplateElement') {
      const { cooked, raw } = node.value as { cooked: string | null; raw: string };
      const template = ancestors.at(-1);
      const isWhole =
        (template?.expressions as Node[] | undefined)?.length === 0 &&
        ancestors.at(-2)?.type !== 'TaggedTemplateExpression';
      found.push(literal(isWhole && template ? template : node, cooked ?? raw, isWhole ? 'expression' : 'template'));
    } else if (node.type === 'JSXText') found.push(literal(node, node.value as string, 'other'));
    return undefined;
  });
  // The parts of a template are visited before what is between them.
  return found.sort((a, b) => a.start - b.start);
}

function literal({ start, end }: Node, text: string, role: Literal['role']): Literal {
  return { start, end, text, role };
}

function role(node: Node, parent: Node | undefined): Literal['role'] {
  if (!parent) return 'other';
  if (parent.type === 'JSXAttribute') return 'attribute';
  if (/^(Import|Export)|^TS|^ExpressionStatement$/.test(parent.type)) return 'other';
  const isKey = (parent.type === 'Property' || parent.type === 'PropertyDefinition') && parent.key === node;
  return isKey ? 'other' : 'expression';
}

const startsOf = oncePer((literals: readonly Literal[]) => literals.map(({ start }) => start));

/** The string that holds an offset. @param literals in the order of the text */
export function literalAt(literals: readonly Literal[], offset: number): Literal | undefined {
  const found = literals[countAtMost(startsOf(literals), offset) - 1];
  return found && offset < found.end ? found : undefined;
}

/** Tells whether an offset is in a string, and not in a comment. */
export function isText(file: SourceText, offset: number): boolean {
  const literals = literalsOf(file);
  if (literals) return literalAt(literals, offset) !== undefined;
  const line = file.text.slice(file.text.lastIndexOf('\n', offset) + 1, offset);
  return !/^\s*(\/\/|\*|<!--)/.test(line) && !line.includes('// ');
}
