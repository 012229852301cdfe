import { describe, expect, test } from 'vitest';
import { parseAlso, parseHeader } from '../../../src/core/probe/also.js';
import { durationText, hasDigest, lifetimeOf } from '../../../src/core/probe/caching.js';
import { isListing, privatePaths } from '../../../src/core/probe/exposed.js';
import { servedBuild } from '../../../src/core/probe/version.js';
import type { Receipt } from '../../../src/core/receipt/receipt.js';

describe('caching', () => {
  test.each<[headers: Record<string, string>, seconds: number | undefined]>([
    [{ 'cache-control': 'public, max-age=600' }, 600],
    [{ 'cache-control': 'no-cache, max-age=600' }, undefined],
    [{ 'cache-control': 'no-store' }, undefined],
    [{ 'cache-control': 'immutable' }, 365 * 24 * 3600],
    [{ 'cache-control': 'private' }, undefined],
    [{ expires: 'Thu, 26 Nov 2026 01:00:00 GMT', date: 'Thu, 26 Nov 2026 00:00:00 GMT' }, 3600],
    [{ expires: '0', date: 'Thu, 26 Nov 2026 00:00:00 GMT' }, 0],
    [{ expires: 'never', date: 'Thu, 26 Nov 2026 00:00:00 GMT' }, undefined],
    [{}, undefined],
  ])('%j', (headers, seconds) => expect(lifetimeOf(headers as Record<string, string>)?.seconds).toBe(seconds));

  test.each([
    ['/assets/index-t4ChqERq.js', true],
    ['/adder-values.58c12fccc38f.js', true],
    ['/static/js/main.4f2a9c11.chunk.js', true],
    ['/_next/static/chunks/webpack-0a1b2c3d4e5f6a7b.js', true],
    ['/_next/static/chunks/0cz1d0mv5g_q7.js', true],
    ['/_next/static/chunks/1tq6ppe__m8m-.js', true],
    ['/env.js', false],
    ['/js/internationalization2.js', false],
    ['/assets/service-worker.js', false],
    ['/js/bootstrap.bundle.js', false],
    ['/assets/index.js', false],
    ['/assets/timetable-component.js', false],
  ])('%s has a digest: %s', (path, expected) => expect(hasDigest(path)).toBe(expected));

  test('durations', () =>
    expect([30, 90, 7200, 86400 * 365].map(durationText)).toEqual(['30 seconds', '2 minutes', '2 hours', '365 days']));
});

describe('paths that must not answer', () => {
  const all = privatePaths(['.env', 'config/.env.uat', 'settings.json'], ['.adder/receipts/desk/x.json']);
  const page = '<!doctype html>\n<html><head><meta name="x" content="a=b"></head>\n<body>\nA=1\n</body></html>';
  test('env files of every layer, from the root and by their paths', () => {
    const paths = all.map(({ path }) => path);
    expect(paths).toEqual(
      expect.arrayContaining([
        '.env',
        '.env.production',
        'config/.env.uat',
        '.env.uat',
        '.git/HEAD',
        'adder.yaml',
        '.adder/receipts/desk/x.json',
      ]),
    );
    expect(paths).not.toContain('settings.json');
  });
  test.each(all.map(({ path, matches }) => [path, matches] as const))(
    '%s: a page of the app is not that file',
    (_, matches) => {
      for (const text of [page, '', 'not found\n', '{"error":"no"}']) expect(matches(text)).toBe(false);
    },
  );
  test.each([
    ['.env', 'A=1\n# x\nB="2"\n'],
    ['.env.bak', 'A=1\n'],
    ['.env.production~', 'A=1\n'],
    ['.htpasswd', 'quay:$apr1$made$upupupupupupupupupupup\n'],
    ['dist.zip', 'PK\u0003\u0004\u0014'],
    ['backup.tar.gz', Buffer.from([0x1f, 0x8b, 8, 0]).toString()],
    ['.git/HEAD', 'ref: refs/heads/main\n'],
    ['.git/config', '[core]\n\tbare = false\n'],
    ['adder.yaml', '# ours\nadder: 1\nstages: {}\n'],
    ['.adder/key', `${'0af1'.repeat(16)}\n`],
    ['server/index.js.map', '{"version":3,"sources":["quay.ts"],"mappings":"AAAA"}'],
  ])('%s', (path, text) => expect(all.find((one) => one.path === path)?.matches(text)).toBe(true));
});

test.each([
  ['<html><head><title>Index of /assets/</title>', true],
  ['<!DOCTYPE html>\n<title>Directory listing for /assets/</title>', true],
  ['<title>Ferries</title> Index of quays', false],
  ['', false],
])('%s lists files: %s', (text, expected) => expect(isListing(text)).toBe(expected));

test('requests and headers that users write', () => {
  expect(parseAlso('/api/config')).toEqual({ method: 'GET', path: '/api/config' });
  expect(parseAlso('post /api @body.json')).toEqual({ method: 'POST', path: '/api', bodyFile: 'body.json' });
  expect(parseAlso('/api @body.json')).toEqual({ method: 'POST', path: '/api', bodyFile: 'body.json' });
  expect([parseAlso('api'), parseAlso('FETCH /x'), parseAlso('')]).toEqual([undefined, undefined, undefined]);
  expect(parseHeader('Authorization: Bearer {API_TOKEN}')).toEqual(['Authorization', 'Bearer {API_TOKEN}']);
  expect(parseHeader('no header')).toBeUndefined();
});

test('the build that is served: few builds explain all files, the newest of equals', () => {
  const receipt = (builtAt: string, digests: string[]) =>
    ({
      subject: digests.map((sha256) => ({ name: sha256, digest: { sha256 } })),
      predicate: { builtAt },
    }) as unknown as Receipt;
  const [newest, older] = [
    receipt('2', ['page2', 'main2', 'shared']),
    receipt('1', ['page1', 'main1', 'shared', 'lazy1']),
  ];
  const served = (...digests: string[]) => {
    const { builds, unknown } = servedBuild(
      digests.map((sha256) => ({ url: sha256, sha256 })),
      [newest, older],
    );
    return [builds.map(({ receipt: { predicate }, urls }) => `${predicate.builtAt}: ${urls.join(' ')}`), unknown];
  };
  expect(served('page2', 'main2', 'shared')).toEqual([['2: page2 main2 shared'], []]);
  expect(served('page1', 'main1', 'shared', 'x')).toEqual([['1: page1 main1 shared'], ['x']]);
  expect(served('page2', 'main2', 'shared', 'lazy1')).toEqual([['2: page2 main2 shared', '1: lazy1'], []]);
  expect(served('shared')).toEqual([['2: shared'], []]);
  expect(served('x')).toEqual([[], ['x']]);
  // A page that a server renders.
  expect(servedBuild([{ url: 'x', sha256: 'x', mayDiffer: true }], [newest]).unknown).toEqual([]);
});
