import { appendFileSync, mkdtempSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { limits } from '../../../src/core/limits/index.js';
import { matcherFor } from '../../../src/core/search/matcher-for.js';
import { emptyScan, joinScans, ScanRecorder, settled } from '../../../src/core/search/scan.js';
import { tasksOf } from '../../../src/core/search/tasks.js';
import { scanTask } from '../../../src/host/scan-files.js';
import { fileList } from '../../support/file-list.js';

const MB = 2 ** 20;

describe('work is cut into tasks', () => {
  test.each<[sizes: number[], tasks: [first: number, end: number, from: number, to: number][]]>([
    [[], []],
    [[0], [[0, 1, 0, Number.POSITIVE_INFINITY]]],
    [
      [10, 2 * MB, 10, 10],
      [
        [0, 2, 0, Number.POSITIVE_INFINITY],
        [2, 4, 0, Number.POSITIVE_INFINITY],
      ],
    ],
    [
      [5, 9 * MB, 5],
      [
        [0, 1, 0, Number.POSITIVE_INFINITY],
        [1, 2, 0, 4 * MB],
        [1, 2, 4 * MB, 8 * MB],
        [1, 2, 8 * MB, Number.POSITIVE_INFINITY],
        [2, 3, 0, Number.POSITIVE_INFINITY],
      ],
    ],
  ])('files of %j bytes', (sizes, tasks) => {
    expect(tasksOf(sizes).map(({ files: [first, end], from, to }) => [first, end, from, to])).toEqual(tasks);
  });

  test('every byte of every file is in one task', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(30 * MB)), (sizes) => {
        const seen = sizes.map(() => 0);
        for (const { files, from, to } of tasksOf(sizes))
          for (let file = files[0]; file < files[1]; file++) {
            expect(from === 0 || from === seen[file]).toBe(true);
            seen[file] = Math.min(to, sizes[file] as number);
          }
        expect(seen).toEqual(sizes);
      }),
    );
  });
});

describe('however a file is cut, and however its bytes come', () => {
  const needles = ['made-up-key', 'key-made-up', 'aaaaaaaaaaaa', ';json;base64,', 'half-a-secret'].map(Buffer.from);
  const kinds = ['value', 'value', 'value', 'data-uri', 'fragment'];
  const how = (chunkSize?: number) => ({ matcher: matcherFor(needles, chunkSize), kinds, longest: 13 });
  const texts = needles.map(String);
  const path = join(mkdtempSync(join(tmpdir(), 'adder-look-')), 'a.bin');
  const cases = fc.record({
    pieces: fc.array(fc.constantFrom('made-up-', 'a', '.', ...texts), { maxLength: 60 }),
    cuts: fc.array(fc.nat(600), { maxLength: 5 }),
    chunkSize: fc.integer({ min: 1, max: 70 }),
  });

  test('the scans of its stretches, joined, are the scan of all of it', () => {
    fc.assert(
      fc.property(cases, ({ pieces, cuts, chunkSize }) => {
        const text = pieces.join('');
        writeFileSync(path, text);
        const recorder = new ScanRecorder(kinds);
        const matcher = matcherFor(needles, Math.max(1, text.length));
        matcher.window.set(Buffer.from(text));
        recorder.feed(matcher, text.length, 0);
        recorder.scan.bytes = text.length;
        const borders = [0, ...cuts.filter((at) => at > 0 && at < text.length).sort((a, b) => a - b)];
        const scans = borders.map((from, index) => {
          const to = borders[index + 1] ?? Number.POSITIVE_INFINITY;
          const batch = scanTask({ files: [0, 1], from, to }, fileList([path]), how(chunkSize));
          const [[, scan] = [0, { ...emptyScan(), bytes: batch.bytes[0] as number }]] = batch.more;
          return scan;
        });
        const { counts, dataUris, ...joined } = joinScans(scans);
        const { counts: allCounts, dataUris: allUris, ...expected } = settled(recorder.scan);
        expect(joined).toEqual(expected);
        // Others are kept only at a border, because what follows was not seen.
        const withContent = allUris.filter((at) => /^[\w+/=-]{12}/.test(text.slice(at)));
        expect(dataUris).toEqual(expect.arrayContaining(withContent));
        const ofValues = (all: ReadonlyMap<number, number>) => [...all].filter(([mark]) => mark !== 3).sort();
        expect(ofValues(counts)).toEqual(ofValues(allCounts));
      }),
    );
  });

  test('of a needle that is everywhere, the first places and the number of all', () => {
    const text = 'made-up-key'.repeat(3 * limits.placesPerValue.value);
    writeFileSync(path, text);
    const { more } = scanTask({ files: [0, 1], from: 0, to: 1e9 }, fileList([path]), how(100));
    const { hits, counts } = joinScans(more.map(([, scan]) => scan));
    expect(hits.filter(({ needle }) => needle === 0).map(({ start }) => start)).toEqual(
      Array.from({ length: limits.placesPerValue.value }, (_, index) => 11 * index),
    );
    expect(counts.get(0)).toBe(3 * limits.placesPerValue.value);
  });

  test('more data: URIs than a call takes arguments', () => {
    const dataUris = Array.from({ length: 200_000 }, (_, at) => at);
    expect(joinScans([{ ...emptyScan(), dataUris }]).dataUris).toHaveLength(dataUris.length);
  });

  test.each<[what: string, change: (path: string) => void, isSame: boolean]>([
    ['has the size that it had', (path) => writeFileSync(path, 'an-other-key'), true],
    ['has a hit and another change time', (path) => writeFileSync(path, '.made-up-key'), false],
    ['has grown', (path) => appendFileSync(path, '.'), false],
    ['has shrunk', (path) => truncateSync(path, 3), false],
  ])('a file that was found before and %s', (_, change, isSame) => {
    writeFileSync(path, 'x'.repeat(12));
    const files = fileList([path]);
    const [found] = files.versions;
    files.versions[0] = (found as number) - 1;
    change(path);
    const { versions } = scanTask({ files: [0, 1], from: 0, to: Number.POSITIVE_INFINITY }, files, how());
    expect(versions[0]).toBe(isSame ? files.versions[0] : Number.NaN);
  });

  test('a missing file is reported by its reader', () => {
    const task = { files: [0, 1] as const, from: 0, to: 1 };
    expect(scanTask(task, fileList([`${path}.gone`]), how())).toMatchObject({
      versions: Float64Array.of(Number.NaN),
      more: [],
    });
  });
});
