import { describe, expect, test } from 'vitest';
import { outputsSeen, type SeenBuild, seenOf } from '../../../src/core/draft/seen.js';

const marker = (name: string, path?: string) => ({
  text: 't',
  name,
  setAt: path === undefined ? {} : { path, line: 1 },
});
const build = (bundle: string, ...arrivals: [name: string, path: string, from?: string][]): SeenBuild => ({
  ...{ stage: 'production', bundle, outputs: [] },
  evidence: {
    ...{ markers: [marker('URL'), marker('KEY')], unmarked: [], unmarkedAt: [], hasOutput: true },
    asked: [{ name: 'KEY', at: [{ path: 'build.js', line: 3 }], inPackages: [] }],
    arrivals: arrivals.map(([name, path, from]) => ({
      ...{ marker: marker(name, from), path, inside: [], audience: 'browser' as const, encoding: [] },
    })),
  },
});

describe('the evidence for a name', () => {
  test('is none without a trial', () => expect(seenOf(['URL'], [])).toBeUndefined());

  test('is where it arrived, under any of its names', () =>
    expect(seenOf(['URL', 'VITE_URL'], [build('desk', ['VITE_URL', 'dist/a.js'])])).toEqual({
      arrived: { bundle: 'desk', path: 'dist/a.js' },
      isNowhere: false,
    }));

  test('is of the bundle whose own file has the value', () =>
    expect(
      seenOf(['URL'], [build('crew', ['URL', 'crew/a.js']), build('shop', ['URL', 'shop/a.js', 'shop/.env'])])?.arrived,
    ).toEqual({ bundle: 'shop', path: 'shop/a.js' }));

  test('is that it is nowhere, and who asked for it', () =>
    expect(seenOf(['KEY'], [build('desk')])).toEqual({ askedAt: 'build.js:3', isNowhere: true }));

  test('is nothing for a name without a marker', () =>
    expect(seenOf(['PIN'], [build('desk')])).toEqual({ isNowhere: false }));
});

describe('the output of a build', () => {
  const seen = (output: string[], written: string[], before = ['src/a.ts', 'package.json'], folder = '') =>
    outputsSeen({ folder, output, code: ['src'] }, { written, before });

  test.each<[title: string, found: string[], of: string[]]>([
    ['is as drafted', seen(['dist'], ['dist/a.js', 'dist/index.html']), []],
    ['is another directory', seen(['dist'], ['www/js/a.js', 'www/index.html']), ['www']],
    ['is a directory in one that was there', seen([], ['public/build/a.js'], ['public/icon.png']), ['public/build']],
    ['is a file beside others', seen([], ['public/a.js'], ['public/icon.png']), ['public/a.js']],
    [
      'is above the drafted one, if pages are there',
      seen(['public/assets'], ['public/assets/a.js', 'public/index.html']),
      ['public'],
    ],
    [
      'is no cache, package, code or list of types',
      seen([], ['.cache/a.js', 'node_modules/.vite/a.js', 'src/made.js', 'a.tsbuildinfo']),
      [],
    ],
    [
      'is in its own package',
      seen([], ['apps/a/dist/x.js', 'apps/b/dist/y.js'], ['apps/a/i.ts', 'apps/b/i.ts'], 'apps/a/'),
      ['apps/a/dist'],
    ],
  ])('%s', (_, found, of) => expect(found).toEqual(of));
});
