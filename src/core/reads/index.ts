import { scriptEndings, scriptKind, TOO_DEEP } from '../syntax/parse.js';
import { table } from '../text/table.js';
import { readsInDart } from './dart.js';
import { readsInJavaScript } from './javascript.js';
import { type MarkupKind, readsInMarkup } from './markup.js';
import { type FileReads, nothingRead } from './read.js';

type Language = { of: 'markup'; kind: MarkupKind } | { of: 'dart' };

/** What a file's ending says of its language, besides those of scripts. One line an ending. */
const languages: Readonly<Record<string, Language>> = table({
  html: { of: 'markup', kind: 'html' },
  htm: { of: 'markup', kind: 'html' },
  vue: { of: 'markup', kind: 'vue' },
  svelte: { of: 'markup', kind: 'svelte' },
  astro: { of: 'markup', kind: 'astro' },
  dart: { of: 'dart' },
});

/** The objects that values are read from where a contract says nothing. */
export const usualObjects = ['import.meta.env', 'process.env', 'globalThis.process.env', 'window.process.env'] as const;

/** Whether reads can be told from a file of this name. */
export function isSource(path: string): boolean {
  return (scriptKind(path) ?? languageOf(path)) !== undefined && !/\.d\.[cm]?ts$|\.min\.js$/.test(path);
}

/** The endings of {@link isSource}, for globs. */
export const sourceEndings: readonly string[] = [...scriptEndings, ...Object.keys(languages)];

/**
 * What a source text reads from the environment, and what it loads. Never throws.
 * @param path tells the language
 */
export function readsIn(path: string, text: string, objects: readonly string[] = usualObjects): FileReads {
  try {
    return readsOf(path, text, objects);
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    return { ...nothingRead, problem: { message: TOO_DEEP, offset: 0 } };
  }
}

function readsOf(path: string, text: string, objects: readonly string[]): FileReads {
  const kind = scriptKind(path);
  if (kind) return readsInJavaScript(text, kind, objects);
  const language = languageOf(path);
  if (!language) return nothingRead;
  return language.of === 'dart' ? readsInDart(text) : readsInMarkup(text, language.kind, objects);
}

function languageOf(path: string): Language | undefined {
  return languages[path.slice(path.lastIndexOf('.') + 1).toLowerCase()];
}
