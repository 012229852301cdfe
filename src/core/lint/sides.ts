import type { Bundle } from '../contract/contract.js';
import type { SourceText } from './model.js';

/** On which side of a bundle a file runs, as far as its path and its first lines say. */
export type FileSide = 'browser' | 'server' | 'build' | 'test';

const testFile =
  /(^|\/)(tests?|__tests__|__mocks__|e2e|cypress|playwright|fixtures)\/|\.(test|spec|stories|cy)\.[a-z]+$/;
const buildFile =
  /(^|\/)[\w.-]+\.config\.[cm]?[jt]s$|(^|\/)(gatsby-(config|node|ssr)|gulpfile|gruntfile|metro\.transform)\.[cm]?[jt]s$/i;
const serverFile =
  /(^|\/)server\/|\.server\.[cm]?[jt]sx?$|(^|\/)\+(server|page\.server|layout\.server)\.[cm]?[jt]s$|(^|\/)hooks\.server\.|(^|\/)(pages|app)\/api\/|(^|\/)route\.[cm]?[jt]s$|(^|\/)middleware\.[cm]?[jt]s$|(^|\/)entry-server\.|(^|\/)netlify\/functions\//;

/**
 * @param isServerCode whether the contract says that the path is server code
 */
export function fileSide({ path, text }: Pick<SourceText, 'path' | 'text'>, isServerCode: boolean): FileSide {
  if (testFile.test(path)) return 'test';
  if (buildFile.test(path)) return 'build';
  if (isServerCode || serverFile.test(path) || hasServerMark(text)) return 'server';
  return 'browser';
}

/** `"use server"` as the first statement, or an import that refuses to be in a browser bundle. */
function hasServerMark(text: string): boolean {
  const head = text.slice(0, 2000);
  return beginsWith(head, 'use server') || /^\s*import\s+['"]server-only['"]/m.test(head);
}

/** Whether a file says that it, and what it loads, runs in the browser. */
export function hasClientMark(text: string): boolean {
  return beginsWith(text.slice(0, 2000), 'use client');
}

/**
 * Where a bundle starts, among the files of its code: what the contract says, or what pages load, or the usual names, or
 * the rules of the framework. Where nothing tells, every file is taken for one: rather one finding too many.
 * @param loadedByPages files that the scripts of the bundle's pages load
 */
export function entriesOf(
  bundle: Bundle,
  browserFiles: readonly SourceText[],
  loadedByPages: readonly string[],
): string[] {
  if (bundle.entry.length > 0) return [...bundle.entry];
  const paths = browserFiles.map(({ path }) => path);
  if (bundle.toolchain === 'next') {
    const marked = browserFiles.filter(({ text }) => hasClientMark(text)).map(({ path }) => path);
    return [...marked, ...paths.filter((path) => /(^|\/)pages\//.test(path))];
  }
  if (bundle.toolchain === 'astro') return paths.filter((path) => path.endsWith('.astro'));
  if (/^(nuxt|sveltekit|gatsby|angular)$/.test(bundle.toolchain)) return paths;
  if (loadedByPages.length > 0) return [...loadedByPages, ...paths.filter((path) => /\.html?$/.test(path))];
  const top = Math.min(...paths.map((path) => path.split('/').length), Number.POSITIVE_INFINITY);
  const usual = paths.filter(
    (path) =>
      /(^|\/)(main|index|app|client|entry|entry-client|bootstrap)\.([cm]?[jt]sx?|dart|vue|svelte)$/i.test(path) &&
      path.split('/').length <= top + 1,
  );
  return usual.length > 0 ? usual : paths;
}

/** White space and comments. Each character matches only one branch, so the expression cannot backtrack. */
const blanks = /^(?:\s|\/\/[^\n]*\n|\/\*(?:[^*]|\*(?!\/))*\*\/)*/;

/** Whether the first statement of a text is a directive. */
function beginsWith(text: string, directive: string): boolean {
  const at = blanks.exec(text)?.[0].length ?? 0;
  return (
    text.startsWith(directive, at + 1) && /['"]/.test(text[at] ?? '') && text[at] === text[at + 1 + directive.length]
  );
}
