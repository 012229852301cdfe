import type { CursorPages, HostPages, ListingPaths, NumberedPages } from '../contract/hosts.js';
import { at } from './listing.js';

/** One page of a listing. */
export interface ListingPage {
  /** Its URL. */
  url: string;
  /** The parsed JSON document; absent for other formats. */
  document?: unknown;
  items: number;
  headers: Readonly<Record<string, string>>;
}

/** The URL of the next page, the end of the listing, or why neither can be told, as a phrase after the host's source. */
export type NextPage = { url: string } | 'end' | { problem: string };

/**
 * Finds the next page of a listing: by a URL in the document, a number, a cursor, or the `Link` header with the relation `next` (RFC
 * 8288). The next page must be on the same origin, because its request carries the credential. A page that cannot be used is a problem,
 * never the end.
 */
export function nextPage(page: ListingPage, paths: ListingPaths, pages: HostPages | undefined): NextPage {
  if (pages && 'number' in pages) return byNumber(page, pages);
  if (pages) return byCursor(page, pages);
  const given = paths.next === '' ? undefined : at(page.document, paths.next);
  if (paths.next !== '' && isEnd(given)) return 'end';
  if (paths.next !== '') return isReference(given) ? absolute(given, page.url) : unusable(paths.next, 'a URL', 'pages');
  const link = linkToNext(page.headers.link);
  return link === undefined ? 'end' : absolute(link, page.url);
}

/** The first page. */
export function firstPage(url: string, pages: HostPages | undefined): string {
  return pages && 'number' in pages ? withQuery(url, pages.number, String(pages.first)) : url;
}

function byNumber({ url, document, items }: ListingPage, { number, first, last }: NumberedPages): NextPage {
  const current = Number(new URL(url).searchParams.get(number) ?? first);
  if (last === undefined) return items === 0 ? 'end' : { url: withQuery(url, number, String(current + 1)) };
  const given = at(document, last);
  const end = typeof given === 'number' || typeof given === 'string' ? Number(given) : Number.NaN;
  if (!Number.isInteger(end)) return unusable(last, 'a number of pages', 'last');
  return current >= end ? 'end' : { url: withQuery(url, number, String(current + 1)) };
}

function byCursor({ url, document }: ListingPage, { cursor, at: path }: CursorPages): NextPage {
  const given = at(document, path);
  if (isEnd(given)) return 'end';
  const isText = typeof given === 'string' || typeof given === 'number';
  return isText ? { url: withQuery(url, cursor, String(given)) } : unusable(path, 'a text or a number', 'at');
}

/** Values that hosts have in the place of a next page, after the last one. */
function isEnd(given: unknown): boolean {
  return given === undefined || given === null || given === '' || given === false;
}

/** Tells whether a value is a URL, and not a cursor, which would be a relative path. */
function isReference(given: unknown): given is string {
  return typeof given === 'string' && /^(https?:\/\/|\/|\?)/i.test(given);
}

function absolute(reference: string, current: string): NextPage {
  const url = URL.canParse(reference, current) ? new URL(reference, current) : undefined;
  if (!url) return { problem: 'names a next page that is no URL' };
  return url.origin === new URL(current).origin ? { url: url.href } : { problem: 'names a next page on another host' };
}

function unusable(path: string, kind: string, key: string): NextPage {
  return {
    problem: `has something at "${path}" that is not ${kind}, so the rest of the list is unknown: see \`${key}\` in docs/handoff.md`,
  };
}

function withQuery(url: string, name: string, value: string): string {
  const changed = new URL(url);
  changed.searchParams.set(name, value);
  return changed.href;
}

/** The target with the relation `next` of a `Link` header (RFC 8288, 3). */
function linkToNext(header: string | undefined): string | undefined {
  for (const [, target, parameters = ''] of (header ?? '').matchAll(
    /<([^<>]*)>((?:\s*;\s*[\w*-]+\s*=\s*(?:"[^"]*"|[^",;\s]*))*)/g,
  )) {
    const [, quoted, plain] = /;\s*rel\s*=\s*(?:"([^"]*)"|([^",;\s]+))/i.exec(parameters) ?? [];
    if (/(^|\s)next(\s|$)/i.test(quoted ?? plain ?? '')) return target;
  }
  return undefined;
}
