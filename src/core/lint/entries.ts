import type { Bundle } from '../contract/contract.js';
import { isPage } from '../files/languages.js';
import { hasClientMark } from '../files/side.js';
import { toolchainOf } from '../toolchains/index.js';
import type { SourceText } from './model.js';

/**
 * The entry modules of a bundle: the contract's, or those that pages load, or those of the toolchain's rule. If nothing
 * tells, every file is one, because a false finding is better than a missed one.
 * @param files the bundle's browser code
 * @param loadedByPages files that the scripts of the bundle's pages load
 */
export function entriesOf(bundle: Bundle, files: readonly SourceText[], loadedByPages: readonly string[]): string[] {
  if (bundle.entry.length > 0) return [...bundle.entry];
  const paths = files.map(({ path }) => path);
  const { entries } = toolchainOf(bundle);
  if (entries === 'every file') return paths;
  if (typeof entries === 'object')
    return paths.filter((path) =>
      'pattern' in entries ? entries.pattern.test(path) : path.endsWith(entries.extension),
    );
  if (entries === 'pages and client modules') {
    const marked = files.filter(({ text }) => hasClientMark(text)).map(({ path }) => path);
    return [...marked, ...paths.filter((path) => /(^|\/)pages\//.test(path))];
  }
  // A page has reads of its own: in its text and its inline scripts.
  const pages = paths.filter(isPage);
  if (loadedByPages.length > 0) return [...loadedByPages, ...pages];
  const usual = withUsualNames(paths);
  return usual.length > 0 ? [...usual, ...pages] : paths;
}

function withUsualNames(paths: readonly string[]): string[] {
  const depthOf = (path: string) => path.split('/').length;
  const top = Math.min(...paths.map(depthOf), Number.POSITIVE_INFINITY);
  return paths.filter(
    (path) =>
      /(^|\/)(main|index|app|client|entry|entry-client|bootstrap)\.([cm]?[jt]sx?|dart|vue|svelte)$/i.test(path) &&
      depthOf(path) <= top + 1,
  );
}
