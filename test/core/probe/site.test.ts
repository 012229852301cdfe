import { describe, expect, test } from 'vitest';
import type { Resource } from '../../../src/core/probe/resource.js';
import { siteRules } from '../../../src/core/probe/rules/index.js';
import type { Site } from '../../../src/core/probe/site.js';
import { versionFindings } from '../../../src/core/probe/version.js';
import type { Receipt } from '../../../src/core/receipt/receipt.js';
import { inWords } from '../../support/words.js';

const root = 'https://shop.example/';

function resource(
  path: string,
  part: Omit<Partial<Resource>, 'headers'> & { headers?: Record<string, string> } = {},
): Resource {
  const { headers = {}, ...rest } = part;
  const url = new URL(path, root).href;
  const kind = path === '' ? 'page' : path.endsWith('.css') ? 'style' : 'script';
  const type = kind === 'page' ? 'text/html' : kind === 'style' ? 'text/css' : 'text/javascript';
  return {
    ...{ url, kind, isCors: false, isGuess: false, status: 200, bytes: 1, sha256: path, from: root },
    ...rest,
    headers: { 'content-type': type, ...headers },
  };
}

function found(resources: Resource[], part: Partial<Site> = {}): string[] {
  const site: Site = {
    url: root,
    stage: 'production',
    bundle: 'desk',
    resources,
    valueFiles: [],
    workers: [],
    ...{ calls: [], startFiles: [] },
    served: { receipts: 0, builds: [], unknown: [], lacks: [], since: [] },
    ...part,
  };
  return siteRules
    .flatMap((rule) => rule(site))
    .map(inWords)
    .map(({ code, level, place, message }) => `${code} ${level ?? ''} ${place?.path.replace(root, '/')} ${message}`);
}

const env = `${root}env.js`;
const year = { 'cache-control': 'public, max-age=31536000' };

test.each<[title: string, resources: Resource[], expected: RegExp[], part?: Partial<Site>]>([
  ['all well', [resource(''), resource('a-3f2a9c11.js', { headers: year })], []],
  [
    'a missing script',
    [resource('a.js', { status: 404 })],
    [/^serve\/missing-file error \/ loads https:\/\/shop\.example\/a\.js, which answers with status 404/],
  ],
  ['a missing icon', [resource('i.png', { status: 404, kind: 'image' })], [/^serve\/missing-file note/]],
  ['a missing guess', [resource('a.js', { status: 404, isGuess: true })], []],
  [
    'a missing map, and a missing page',
    [resource('a.js.map', { status: 404, kind: 'map' }), resource('b', { status: 404, kind: 'page' })],
    [],
  ],
  [
    'a page in the place of a script',
    [resource('a.js', { headers: { 'content-type': 'text/html; charset=utf-8' } })],
    [/^serve\/wrong-type .*is a page, but is loaded as a script/],
  ],
  [
    'a page in the place of a style sheet',
    [resource('a.css', { headers: { 'content-type': 'text/html' } })],
    [/^serve\/wrong-type .*is loaded as a style sheet/],
  ],
  [
    'a module with a type that browsers refuse',
    [resource('a.js', { isCors: true, headers: { 'content-type': 'application/octet-stream' } })],
    [/^serve\/wrong-type .*has the type application\/octet-stream/],
  ],
  ['a classic script with such a type', [resource('a.js', { headers: { 'content-type': 'text/plain' } })], []],
  [
    'a module on another host',
    [resource('https://cdn.example/a.js', { isCors: true })],
    [/^serve\/cross-origin .*browsers refuse this script: it is on another host, which sends no/],
  ],
  [
    'one that allows another origin',
    [
      resource('https://cdn.example/f.woff2', {
        kind: 'font',
        isCors: true,
        headers: { 'access-control-allow-origin': 'https://x.example' },
      }),
    ],
    [/^serve\/cross-origin .*refuse this font.* allows another origin/],
  ],
  [
    'one that allows this origin, and one that allows all',
    [
      resource('https://cdn.example/a.js', {
        isCors: true,
        headers: { 'access-control-allow-origin': 'https://shop.example' },
      }),
      resource('https://cdn.example/b.js', { isCors: true, headers: { 'access-control-allow-origin': '*' } }),
    ],
    [],
  ],
  ['a classic script on another host', [resource('https://cdn.example/a.js')], []],
  [
    'a page that is kept',
    [resource('', { headers: year })],
    [
      /^serve\/long-cache .*cache this page, and with it the old build, for 365 days \(cache-control: public, max-age=31536000\)/,
    ],
  ],
  ['a page that is kept for a minute', [resource('', { headers: { 'cache-control': 'max-age=60' } })], []],
  [
    'a script under a fixed name that is kept',
    [resource('legacy.js', { headers: year })],
    [/^serve\/long-cache .*has no content hash/],
  ],
  [
    'one that the server calls immutable',
    [resource('BFII8CUG.js', { headers: { 'cache-control': 'max-age=31536000, immutable' } })],
    [],
  ],
  [
    'load-time values without a header',
    [resource('env.js')],
    [/^serve\/cached-runtime-file .*as long as they choose/],
    { valueFiles: [env] },
  ],
  [
    'load-time values that are kept',
    [resource('env.js', { headers: year })],
    [/^serve\/cached-runtime-file .*for 365 days/],
    { valueFiles: [env] },
  ],
  [
    'load-time values that are asked for each time',
    [resource('env.js', { headers: { 'cache-control': 'no-cache' } })],
    [],
    { valueFiles: [env] },
  ],
  [
    'load-time values under a name with a digest',
    [resource('adder-values.58c12fccc38f.js', { headers: year })],
    [],
    { valueFiles: [`${root}adder-values.58c12fccc38f.js`] },
  ],
  [
    'load-time values in a service worker',
    [resource('env.js', { headers: { 'cache-control': 'no-cache' } })],
    [/^serve\/kept-by-worker .*\/sw\.js this service worker keeps https:\/\/shop\.example\/env\.js/],
    { valueFiles: [env], workers: [{ url: `${root}sw.js`, names: [env] }] },
  ],
])('%s', (_, resources, expected, part) => {
  const all = found(resources, part);
  expect(all).toHaveLength(expected.length);
  for (const [index, pattern] of expected.entries()) expect(all[index]).toMatch(pattern);
});

describe('versions', () => {
  const receipt = (builtAt: string, stage = 'production') =>
    ({ subject: [], predicate: { bundle: 'desk', stage, builtAt } }) as unknown as Receipt;
  const [newest, older] = [receipt('2026-11-27T08:00:00.000Z'), receipt('2026-11-26T08:00:00.000Z')];
  const site: Site = {
    url: root,
    stage: 'production',
    bundle: 'desk',
    resources: [],
    valueFiles: [],
    workers: [],
    ...{ calls: [], startFiles: [] },
    served: { receipts: 0, builds: [], unknown: [], lacks: [], since: [] },
  };
  const messages = (builds: [Receipt, string[]][]) => {
    const served = {
      builds: builds.map(([{ predicate }, urls]) => ({ ...predicate, urls })),
      newest: newest.predicate,
      ...{ receipts: 2, unknown: [], lacks: [], since: [] },
    };
    return versionFindings({ ...site, served })
      .map(inWords)
      .map(({ code, message }) => `${code} ${message}`);
  };
  test.each<[title: string, builds: [Receipt, string[]][], expected: string[]]>([
    ['the newest', [[newest, [root]]], []],
    ['nothing known', [], []],
    [
      'an older one',
      [[older, [root]]],
      [
        'serve/out-of-date the site serves the build of 2026-11-26 08:00 UTC; the newest one is of 2026-11-27 08:00 UTC',
      ],
    ],
    [
      'another stage',
      [[receipt('2026-11-27T08:00:00.000Z', 'staging'), [root]]],
      [
        'serve/out-of-date the site serves the staging build of desk (built 2026-11-27 08:00 UTC), not a production build',
      ],
    ],
    [
      'two',
      [
        [newest, [root]],
        [older, [`${root}lazy.js`]],
      ],
      [
        'serve/mixed-builds this file is of an older build, of 2026-11-26 08:00 UTC; the site serves the one of 2026-11-27 08:00 UTC',
      ],
    ],
    [
      'two, with several files',
      [
        [newest, [root]],
        [older, [`${root}a.js`, `${root}b.js`]],
      ],
      [
        'serve/mixed-builds https://shop.example/a.js and https://shop.example/b.js are of an older build, of 2026-11-26 08:00 UTC; the site serves the one of 2026-11-27 08:00 UTC',
      ],
    ],
  ])('%s', (_, builds, expected) => expect(messages(builds)).toEqual(expected));
});
