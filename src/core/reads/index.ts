import { isDart, markupLanguage, scriptLanguage } from '../files/languages.js';
import { TOO_DEEP } from '../syntax/parse.js';
import { readsInDart } from './dart.js';
import { readsInJavaScript } from './javascript.js';
import { readsInMarkup } from './markup.js';
import { type FileReads, nothingRead } from './read.js';

export { mayRead, readPattern } from './javascript.js';
export { addIndirectReads, indirectReads } from './lookups.js';

/** The objects that values are read from by default. */
export const usualObjects = ['import.meta.env', 'process.env', 'globalThis.process.env', 'window.process.env'] as const;

/**
 * Finds the reads of the environment in a source text, and its imports. Never throws.
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
  const script = scriptLanguage(path);
  if (script) return readsInJavaScript(text, script, objects);
  const markup = markupLanguage(path);
  if (markup) return readsInMarkup(text, markup, objects);
  return isDart(path) ? readsInDart(text, objects) : nothingRead;
}
