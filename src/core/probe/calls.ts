import { shownUrl } from './site.js';

/** Texts after which a script names the URL of a GET request. A later option may still choose another method. */
const requests =
  /(?:\bfetch\s{0,9}\(\s{0,9}|\bnew\s{1,9}EventSource\s{0,9}\(\s{0,9}|\.open\s{0,9}\(\s{0,9}["'`]GET["'`]\s{0,9},\s{0,9}|\b(?:axios|ky|\$|jQuery)\.get(?:JSON)?\s{0,9}\(\s{0,9})(["'`])((?!\1)[^\s\\"'<>]{1,300}?)\1/g;

/** Options of a request that is not a GET request. */
const otherMethod = /^\s{0,9},\s{0,9}\{[^{}]{0,300}?\bmethod\s{0,9}:\s{0,9}["'`](?!get\b)/i;

/**
 * URLs that a script asks an API for with GET, as written: `fetch('/api/session')`. The variable part of a template, and what
 * follows, is left out.
 */
export function callsIn(text: string): string[] {
  const found = [...text.matchAll(requests)].flatMap(({ 0: whole, 2: reference = '', index }) => {
    if (otherMethod.test(text.slice(index + whole.length, index + whole.length + 400))) return [];
    const constant = reference.replace(/\$\{[\s\S]*$/, '');
    return /^(\/(?!\/)|\.{1,2}\/|https?:|[\w-]+\/)/.test(constant) ? [constant] : [];
  });
  return [...new Set(found)];
}

/**
 * URLs on the page's own origin that its code asks for and that nothing answered, without their queries.
 * @param references as {@link callsIn} returns them
 * @param base URL of the page
 * @param isAnswered tells whether an answer of this URL was searched
 */
export function unansweredCalls(
  references: Iterable<string>,
  base: string,
  isAnswered: (url: string) => boolean,
): string[] {
  const { origin } = new URL(base);
  const urls = [...references].flatMap((one) => {
    if (!URL.canParse(one, base)) return [];
    const url = new URL(one, base);
    return url.origin === origin ? [shownUrl(url.href)] : [];
  });
  return [...new Set(urls)].filter((url) => !isAnswered(url)).sort();
}
