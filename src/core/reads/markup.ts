import type { MarkupLanguage } from '../files/languages.js';
import { type InlineScript, inlineScripts } from '../syntax/inline-scripts.js';
import { readsInJavaScript } from './javascript.js';
import type { FileReads, Import, Read } from './read.js';

/** A stretch of code in a file that is mostly something else. */
interface Piece extends InlineScript {
  /** How much of the code is not in the file. */
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
  const aliases: string[] = [];
  const take = (piece: Piece) => {
    const found = readsInJavaScript(piece.code, piece.kind, objects);
    const own = found.reads.filter(({ start }) => start >= (piece.added ?? 0));
    reads.push(...own.map((read) => moved(read, piece.start)));
    imports.push(
      ...found.imports.map((one) => ({ ...one, start: one.start + piece.start, end: one.end + piece.start })),
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
  return { reads: reads.sort((a, b) => a.start - b.start), imports, ...(problem && { problem }) };
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

/** The scripts of a file, and what is left of it. */
function parts(text: string, kind: MarkupLanguage): { code: Piece[]; template: string } {
  const front = kind === 'astro' ? /^(\s*---\r?\n)([\s\S]*?)\r?\n---/.exec(text) : null;
  const first: Piece[] = front ? [{ code: front[2] ?? '', kind: 'ts', start: (front[1] ?? '').length }] : [];
  // The front matter is blanked, so that offsets stay.
  const rest = front ? ' '.repeat(front[0].length) + text.slice(front[0].length) : text;
  return { code: [...first, ...inlineScripts(rest)], template: withoutScripts(rest) };
}

/** Scripts and styles blanked out, so that what is left is template. */
function withoutScripts(text: string): string {
  return text.replace(/<(script|style)\b[\s\S]*?<\/\1\s*>/gi, (all) => ' '.repeat(all.length));
}

/**
 * `{{ expression }}` and bound attributes, `{expression}`: each is parsed alone, and only where it names an environment.
 * @param aliases what the scripts call objects, as statements
 */
function expressions(
  text: string,
  kind: MarkupLanguage,
  objects: readonly string[],
  aliases: readonly string[],
): Piece[] {
  const prelude = aliases.join('');
  const mentions = new RegExp(['env', ...objects.map(firstWord), ...aliases.map(nameOf)].map(asWord).join('|'));
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
      const head = /^\s*(?:[#:/@]\w+\s)?/.exec(code)?.[0] ?? '';
      const body = code.slice(head.length);
      const before = `${prelude}(`;
      return [
        {
          code: `${before}${body}\n)`,
          kind: 'tsx' as const,
          start: start + head.length - before.length,
          added: before.length,
        },
      ];
    }),
  );
}

/** `useRuntimeConfig` of `useRuntimeConfig().public.*`, and what stands before the name in `__*__`. */
function firstWord(entry: string): string {
  return /^[\w$]*/.exec(entry)?.[0] ?? '';
}

/** The name that a statement gives an object. */
function nameOf(statement: string): string {
  return /^(?:const|import \{ env as) ([\w$]+)/.exec(statement)?.[1] ?? '';
}

/** Where a word begins; one may begin with a sign that is no letter. */
function asWord(word: string): string {
  return word === '' ? '\\$env' : `(?<![\\w$])${word.replaceAll('$', '\\$')}`;
}

/** `<script src="/src/main.ts">`: where a page starts. */
function scriptSources(text: string): Import[] {
  return [...text.matchAll(/<script\b[^>]*?\ssrc=(["'])([^"']+)\1/dgi)].map(({ 2: specifier = '', indices }) => {
    const [start = 0, end = 0] = indices?.[2] ?? [];
    return { specifier, start, end, isDynamic: false };
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
