import { expect, test } from 'vitest';
import { usualPaths } from '../../../src/core/contract/host-schema.js';
import type { HostPages } from '../../../src/core/contract/hosts.js';
import { firstPage, nextPage } from '../../../src/core/handoff/pages.js';

const url = 'https://console.example/live/values?per=50';
const next = (
  document: unknown,
  { path = '', pages, items = 1, link }: { path?: string; pages?: HostPages; items?: number; link?: string } = {},
  at = url,
) => {
  const headers: Record<string, string> = link === undefined ? {} : { link };
  const found = nextPage({ url: at, document, items, headers }, { ...usualPaths, next: path }, pages);
  if (found === 'end') return 'end';
  return 'problem' in found ? found.problem : found.url.replace('https://console.example', '');
};

const numbered = { number: 'page', first: 1 };
const counted = { ...numbered, last: 'meta.pages' };
const cursor = { cursor: 'after', at: 'meta.next' };

test.each<[title: string, found: string, expected: string | RegExp]>([
  ['a URL', next({ next: 'https://console.example/2' }, { path: 'next' }), '/2'],
  ['a path', next({ next: '/live/values?page=2' }, { path: 'next' }), '/live/values?page=2'],
  ['a query', next({ next: '?page=2' }, { path: 'next' }), '/live/values?page=2'],
  ['none', next({}, { path: 'next' }), 'end'],
  ['null', next({ next: null }, { path: 'next' }), 'end'],
  [
    'a cursor in the place of a URL',
    next({ next: 'abc' }, { path: 'next' }),
    /^has something at "next" that is not a URL/,
  ],
  [
    'a number in the place of a URL',
    next({ next: 2 }, { path: 'next' }),
    /is not a URL, so the rest of the list is unknown/,
  ],
  ['an object', next({ next: { url: '/2' } }, { path: 'next' }), /not a URL/],
  ['a broken URL', next({ next: 'https://[' }, { path: 'next' }), 'names a next page that is no URL'],
  ['another host', next({ next: 'https://other.example/2' }, { path: 'next' }), 'names a next page on another host'],
  ['the second page', next([], { pages: numbered }), '/live/values?per=50&page=2'],
  ['the third page', next([], { pages: numbered }, `${url}&page=2`), '/live/values?per=50&page=3'],
  ['a page without items', next([], { pages: numbered, items: 0 }), 'end'],
  ['the last of two pages', next({ meta: { pages: 2 } }, { pages: counted }, `${url}&page=2`), 'end'],
  ['the first of two pages', next({ meta: { pages: '2' } }, { pages: counted }), '/live/values?per=50&page=2'],
  ['no number of pages', next({}, { pages: counted }), /^has something at "meta.pages" that is not a number of pages/],
  ['a cursor', next({ meta: { next: 'a b' } }, { pages: cursor }), '/live/values?per=50&after=a+b'],
  ['no cursor', next({ meta: { next: '' } }, { pages: cursor }), 'end'],
  ['a cursor that is an object', next({ meta: { next: {} } }, { pages: cursor }), /not a text or a number/],
  [
    'a Link header',
    next([], { link: '</first>; rel="first", </live?p=2>; rel="last next"; title="a, b"' }),
    '/live?p=2',
  ],
  ['a Link header without it', next([], { link: '</live?p=1>; rel=prev' }), 'end'],
  ['a Link header to another host', next([], { link: '<https://other.example/>; rel=next' }), /another host/],
])('%s', (_, found, expected) => {
  if (typeof expected === 'string') expect(found).toBe(expected);
  else expect(found).toMatch(expected);
});

test('the first page of a numbered list may be 0', () => {
  expect(firstPage(url, { number: 'page', first: 0 })).toBe(`${url}&page=0`);
  expect(firstPage(url, cursor)).toBe(url);
});
