import { finding, type RawFinding } from '../findings/finding.js';
import { fileOf, isValues, readPage } from './page.js';

/** Schemes, hosts and templates, whose files nobody looks for in an output. */
const elsewhere = /^(?:[a-z][a-z0-9+.-]*:|\/\/|[?#]|$)|[{}<>%$]/i;

/** Whatever may be the source of a script, also in a comment. */
const anySource = /<script\b[^>]*?\ssrc\s*=\s*["']?([^"'\s>]+)/gi;

/**
 * Scripts that a page names and the output lacks. A page may be served from any path, so a script is missing only if no file
 * of the output has its name.
 * @param path of the page, as findings show it
 * @param names of all files, without their directories
 */
export function missingScripts(
  path: string,
  html: string,
  names: ReadonlySet<string>,
  about: { bundle: string; stage: string },
): RawFinding[] {
  const isMissing = (src: string) => !elsewhere.test(src) && !names.has(fileOf(src)) && !isValues({ src });
  // Most pages lack nothing, and need not be parsed to tell.
  if (![...html.matchAll(anySource)].some(([, src = '']) => isMissing(src))) return [];
  const missing = readPage(html).scripts.flatMap(({ src }) => (src !== undefined && isMissing(src) ? [src] : []));
  return [...new Set(missing)].map((url) =>
    finding('serve/missing-file', 'script', { url }, { ...about, level: 'warning', place: { path, inside: [] } }),
  );
}
