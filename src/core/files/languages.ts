import { table } from '../text/table.js';

/** The language of a script, as parsers name it. */
export type ScriptLanguage = 'js' | 'jsx' | 'ts' | 'tsx';

/** File extension to language. One line per extension. `.js` files may contain JSX. */
const scripts: Readonly<Record<string, ScriptLanguage>> = table({
  js: 'jsx',
  mjs: 'js',
  cjs: 'js',
  jsx: 'jsx',
  ts: 'ts',
  mts: 'ts',
  cts: 'ts',
  tsx: 'tsx',
});

/** Components and pages: files with scripts inside of markup. */
const markup: Readonly<Record<string, MarkupLanguage>> = table({
  html: 'html',
  htm: 'html',
  vue: 'vue',
  svelte: 'svelte',
  astro: 'Astro',
});

export type MarkupLanguage = 'html' | 'vue' | 'svelte' | 'Astro';

/** Extensions without the dot, in the order in which bundlers try them. */
export const scriptExtensions: readonly string[] = ['ts', 'tsx', 'mts', 'cts', 'js', 'jsx', 'mjs', 'cjs'];
export const markupExtensions: readonly string[] = Object.keys(markup);

/** The language of a script, by its file extension or the media type of a data: URI; undefined if the file is no script. */
export function scriptLanguage(path: string): ScriptLanguage | undefined {
  return scripts[extensionOf(path)] ?? (scriptData.test(path) ? 'js' : undefined);
}

export function markupLanguage(path: string): MarkupLanguage | undefined {
  return markup[extensionOf(path)] ?? (/^data:text\/html\b/.test(path) ? 'html' : undefined);
}

/** Bundlers put small scripts, such as those of workers, into such URIs. */
const scriptData = /^data:(?:text|application)\/(?:x-)?(?:java|ecma)script\b/;

export function isDart(path: string): boolean {
  return /\.dart$/i.test(path);
}

/** A page as browsers load it. */
export function isPage(path: string): boolean {
  return markupLanguage(path) === 'html';
}

/** Tells whether a file of this name can contain reads. */
export function isSource(path: string): boolean {
  const isKnown = scriptLanguage(path) !== undefined || markupLanguage(path) !== undefined || isDart(path);
  return isKnown && !/\.d\.[cm]?ts$|\.min\.js$/.test(path);
}

/** In lower case, without the dot. */
export function extensionOf(path: string): string {
  return path.slice(path.lastIndexOf('.') + 1).toLowerCase();
}
