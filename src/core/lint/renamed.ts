import { scriptLanguage } from '../files/languages.js';
import type { Read } from '../reads/read.js';
import { type InlineScript, inlineScripts } from '../syntax/inline-scripts.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { declarationOf } from '../syntax/scopes.js';
import { walk } from '../syntax/walk.js';
import type { Edit, SourceText } from './model.js';

/**
 * An import under its right name, with every use of it: identifiers that are bound to the import, never other text. Exported
 * names and keys of objects keep their names. Where the right name is taken, or markup may use the old one, the import gets
 * an alias instead.
 */
export function renamedImport(file: Pick<SourceText, 'path' | 'text'>, read: Read, right: string): Edit[] {
  const { path, text } = file;
  const { name = '', nameStart, nameEnd } = read;
  if (text.slice(nameStart, nameEnd) !== name) return [];
  const hasAlias = /^\s+as\s/.test(text.slice(nameEnd, nameEnd + 20));
  if (hasAlias) return [{ path, start: nameStart, end: nameEnd, text: right }];
  const script = scriptOf(file, name, nameStart);
  const uses = script && usesOf(parseSyntax(script.code, script.kind).program, name, right);
  if (!script || !uses) return [{ path, start: nameStart, end: nameEnd, text: `${right} as ${name}` }];
  return uses.map(({ start, end, before = '', after = '' }) => ({
    path,
    start: start + script.start,
    end: end + script.start,
    text: before + right + after,
  }));
}

/** The script with an import. Undefined if another part of a component, such as its markup, may use the name. */
function scriptOf(
  { path, text }: Pick<SourceText, 'path' | 'text'>,
  name: string,
  at: number,
): InlineScript | undefined {
  const kind = scriptLanguage(path);
  if (kind) return { code: text, kind, start: 0 };
  const own = inlineScripts(text, true).find(({ start, code }) => start <= at && at < start + code.length);
  const count = (part: string) => part.split(name).length;
  return own && count(own.code) === count(text) ? own : undefined;
}

interface Use {
  start: number;
  end: number;
  before?: string;
  after?: string;
}

/** Undefined if some scope has the new name already. */
function usesOf(program: Node, name: string, right: string): Use[] | undefined {
  const uses: Use[] = [];
  let isTaken = false;
  walk(program, (node, ancestors) => {
    if (node.type !== 'Identifier' && node.type !== 'JSXIdentifier') return undefined;
    if (node.name === right) isTaken = true;
    if (node.name !== name || !isBound(node, ancestors)) return undefined;
    const { start, end } = node;
    // The two nodes of a shorthand have one place.
    if (uses.some((use) => use.start === start)) return undefined;
    const parent = ancestors.at(-1);
    if (parent?.type === 'Property' && parent.shorthand) uses.push({ start, end, before: `${name}: ` });
    else if (parent?.type === 'ExportSpecifier' && (parent.exported as Node).start === start)
      uses.push({ start, end, after: ` as ${name}` });
    else uses.push({ start, end });
    return undefined;
  });
  return isTaken ? undefined : uses;
}

/** Tells whether an identifier refers to an import, and is not the key or property of something else. */
function isBound(node: Node, ancestors: readonly Node[]): boolean {
  const parent = ancestors.at(-1);
  if (parent?.type === 'ImportSpecifier') return true;
  const isMember = parent?.type === 'MemberExpression' && parent.property === node && !parent.computed;
  const isKey =
    /^(Property|PropertyDefinition|MethodDefinition|TSPropertySignature|TSEnumMember|ImportAttribute)$/.test(
      parent?.type ?? '',
    ) &&
    (parent?.key === node || parent?.id === node) &&
    !parent?.computed &&
    !parent?.shorthand;
  const isExported =
    parent?.type === 'ExportSpecifier' &&
    (parent.exported as Node).start === node.start &&
    (parent.local as Node).start !== node.start;
  const isFrom = ancestors.at(-2)?.type === 'ExportNamedDeclaration' && Boolean(ancestors.at(-2)?.source);
  if (isMember || isKey || isExported || isFrom) return false;
  return declarationOf(node.name as string, ancestors)?.type === 'ImportSpecifier';
}
