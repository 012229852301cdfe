import MagicString from 'magic-string';
import type { MarkupLanguage } from '../files/languages.js';
import { type InlineScript, inlineScripts, rawElements, splitFrontMatter } from '../syntax/inline-scripts.js';
import { readsInJavaScript } from './javascript.js';
import type { FileReads, Import, ObjectUse, Read } from './read.js';

/** Code embedded in markup. */
interface Piece extends InlineScript {
  /** Length of a prefix of the code that is not in the file. */
  added?: number;
}

/**
 * The reads of a page or a single-file component: its scripts, the expressions of its template, and placeholders.
 * Offsets are those of the whole file.
 */
export function readsInMarkup(text: string, kind: MarkupLanguage, objects: readonly string[]): FileReads {
  const reads: Read[] = [];
  const imports: Import[] = [];
  let problem: FileReads['problem'];
  const sources: ObjectUse[] = [];
  const aliases: string[] = [];
  const take = (piece: Piece) => {
    const found = readsInJavaScript(piece.code, piece.kind, objects, true);
    const own = found.reads.filter(({ start }) => start >= (piece.added ?? 0));
    reads.push(...own.map((read) => moved(read, piece.start)));
    imports.push(
      ...found.imports.map((one) => ({ ...one, start: one.start + piece.start, end: one.end + piece.start })),
    );
    sources.push(
      ...(found.objectUses ?? [])
        .filter(({ start }) => start >= (piece.added ?? 0))
        .map((one) => ({ ...one, start: one.start + piece.start, end: one.end + piece.start })),
    );
    aliases.push(...(found.aliases ?? []));
    if (found.problem && !problem) problem = { ...found.problem, offset: found.problem.offset + piece.start };
  };
  const { code, template } = parts(text, kind);
  code.forEach(take);
  if (kind !== 'html') expressions(template, kind, objects, [...aliases]).forEach(take);
  if (kind === 'html') {
    reads.push(...placeholders(text));
    imports.push(...scriptSources(text));
  }
  return { reads: reads.sort((a, b) => a.start - b.start), imports, objectUses: sources, ...(problem && { problem }) };
}

function moved(read: Read, by: number): Read {
  const { fallback } = read;
  return {
    ...read,
    start: read.start + by,
    end: read.end + by,
    nameStart: read.nameStart + by,
    nameEnd: read.nameEnd + by,
    ...(fallback && { fallback: { ...fallback, start: fallback.start + by, end: fallback.end + by } }),
  };
}

/** The scripts of a file, and its template. */
function parts(text: string, kind: MarkupLanguage): { code: Piece[]; template: string } {
  const { code, start, template } = kind === 'Astro' ? splitFrontMatter(text) : { start: 0, template: text };
  const first: Piece[] = code === undefined ? [] : [{ code, kind: 'ts', start }];
  const isComponent = kind !== 'html';
  return { code: [...first, ...inlineScripts(template, isComponent)], template: withoutScripts(template, isComponent) };
}

/** The template: scripts and styles replaced by spaces, so that offsets stay. */
function withoutScripts(text: string, isComponent: boolean): string {
  const template = new MagicString(text);
  for (const { start, end } of rawElements(text, isComponent)) template.update(start, end, ' '.repeat(end - start));
  return template.toString();
}

/**
 * `{{ expression }}` and bound attributes, `{expression}`: each is parsed alone, and only if it names an environment.
 * @param aliases statements of the scripts that give objects other names
 */
function expressions(
  text: string,
  kind: MarkupLanguage,
  objects: readonly string[],
  aliases: readonly string[],
): Piece[] {
  const prelude = aliases.join('');
  const mentions = new RegExp(['env', ...objects.map(firstWord), ...aliases.map(aliasName)].map(asWord).join('|'));
  const patterns =
    kind === 'vue'
      ? [/\{\{([\s\S]*?)\}\}/dg, /\s(?:v-[\w:.-]+|[:@#][\w:.[\]-]+)="([^"]*)"/dg]
      : [/\{([^{}]*(?:\{[^{}]*\}[^{}]*)*)\}/dg];
  return patterns.flatMap((pattern) =>
    [...text.matchAll(pattern)].flatMap((match) => {
      const code = match[1] ?? '';
      const [start = 0] = match.indices?.[1] ?? [];
      if (!mentions.test(code)) return [];
      // A block's head, as in {#if x}, is read as its expression.
      const head = /^\s*(?:[#:/@](?:else\s+)?\w+\s)?/.exec(code)?.[0] ?? '';
      const body = code.slice(head.length);
      const isTest = /^\s*[#:](else\s+)?if\s/.test(code) || /\sv-(else-)?(if|show)="/.test(match[0]);
      const before = `${prelude}${isTest ? 'if ' : ''}(`;
      return [
        {
          code: `${before}${body}\n);`,
          kind: 'tsx' as const,
          start: start + head.length - before.length,
          added: before.length,
        },
      ];
    }),
  );
}

/** `useRuntimeConfig` of `useRuntimeConfig().public.*`, and the part before the name in `__*__`. */
function firstWord(entry: string): string {
  return /^[\w$]*/.exec(entry)?.[0] ?? '';
}

/** The name that a statement gives an object. */
function aliasName(statement: string): string {
  return /^(?:const|import \{ env as) ([\w$]+)/.exec(statement)?.[1] ?? '';
}

/** Matches the start of a word, which may start with `$`. */
function asWord(word: string): string {
  return word === '' ? '\\$env' : `(?<![\\w$])${word.replaceAll('$', '\\$')}`;
}

/** `<script src="/src/main.ts">`: an entry of the page. */
function scriptSources(text: string): Import[] {
  return rawElements(text, false).flatMap(({ name, attributes, start, contentStart }) => {
    const specifier = attributes.src;
    if (name !== 'script' || !specifier) return [];
    const at = Math.max(start, text.slice(0, contentStart).lastIndexOf(specifier));
    return [{ specifier, start: at, end: at + specifier.length, isDynamic: false }];
  });
}

/** `%NAME%`, which build tools replace in pages. */
function placeholders(text: string): Read[] {
  return [...text.matchAll(/%([A-Z][A-Z0-9_]*)%/g)].map(({ 0: all, 1: name = '', index }) => ({
    kind: 'placeholder',
    name,
    object: 'import.meta.env',
    optional: false,
    start: index,
    end: index + all.length,
    nameStart: index + 1,
    nameEnd: index + 1 + name.length,
  }));
}
