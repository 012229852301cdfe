import { scriptLanguage } from '../files/languages.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { walk } from '../syntax/walk.js';
import { mentions } from '../text/mentions.js';
import type { Range } from '../text/ranges.js';
import type { SourceText } from './model.js';

/** Expressions that a bundler keeps although nobody uses the value. */
const EFFECT =
  /^(CallExpression|NewExpression|ImportExpression|AwaitExpression|YieldExpression|UpdateExpression|AssignmentExpression|TaggedTemplateExpression)$/;

/**
 * The parts of a module that a bundler leaves out: exported functions and values without effects whose names no other module
 * mentions. A value that only they read is in no output.
 * @param others all other modules that ship
 */
export function unusedExports(file: SourceText, others: readonly SourceText[]): Range[] {
  const language = scriptLanguage(file.path);
  if (language === undefined) return [];
  const body = parseSyntax(file.text, language).program.body as Node[];
  return body
    .flatMap((statement) => exportsOf(statement))
    .flatMap(({ name, start, end }) => {
      const isUsed = mentions(file.text, name, true) > 1 || others.some(({ text }) => mentions(text, name, true) > 0);
      return isUsed ? [] : [{ start, end }];
    });
}

/** The exports of a statement that have no effect, by name. */
function exportsOf({ type, declaration }: Node): (Range & { name: string })[] {
  const declared = declaration as Node | null | undefined;
  if (type !== 'ExportNamedDeclaration' || !declared) return [];
  if (declared.type === 'FunctionDeclaration') return [named(declared)];
  if (declared.type !== 'VariableDeclaration') return [];
  const declarators = (declared.declarations as Node[]).filter(({ id }) => (id as Node).type === 'Identifier');
  return declarators.filter((one) => !hasEffect(one)).map(named);
}

function named(node: Node): Range & { name: string } {
  return { name: String((node.id as Node).name), start: node.start, end: node.end };
}

/** A function has none until it is called. */
function hasEffect(node: Node): boolean {
  let found = false;
  walk(node, ({ type }) => {
    if (/Function/.test(type)) return false;
    found ||= EFFECT.test(type);
    return found ? false : undefined;
  });
  return found;
}
