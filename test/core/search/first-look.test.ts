import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { limits } from '../../../src/core/limits/index.js';
import { emptyLook, joinLooks, recorder, settled } from '../../../src/core/search/first-look.js';
import { matcherFor } from '../../../src/core/search/matcher-for.js';
import { tasksOf } from '../../../src/core/search/tasks.js';
import { lookAtTask } from '../../../src/host/look.js';

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
  const kinds = { needles: 3, marks: 1 };
  const texts = needles.map(String);
  const path = join(mkdtempSync(join(tmpdir(), 'adder-look-')), 'a.bin');
  const cases = fc.record({
    pieces: fc.array(fc.constantFrom('made-up-', 'a', '.', ...texts), { maxLength: 60 }),
    cuts: fc.array(fc.nat(600), { maxLength: 5 }),
    chunkSize: fc.integer({ min: 1, max: 70 }),
  });

  test('a look at its stretches, joined, is the look at all of it', () => {
    fc.assert(
      fc.property(cases, ({ pieces, cuts, chunkSize }) => {
        const text = pieces.join('');
        writeFileSync(path, text);
        const whole = emptyLook();
        const matcher = matcherFor(needles, Math.max(1, text.length));
        matcher.window.set(Buffer.from(text));
        matcher.feed(text.length, recorder(whole, kinds));
        whole.bytes = text.length;
        const borders = [0, ...cuts.filter((at) => at > 0 && at < text.length).sort((a, b) => a - b)];
        const looks = borders.map((from, index) => {
          const to = borders[index + 1] ?? Number.POSITIVE_INFINITY;
          const batch = lookAtTask({ files: [0, 1], from, to }, [path], matcherFor(needles, chunkSize), kinds, 13);
          const [[, look] = [0, { ...emptyLook(), bytes: batch.bytes[0] as number }]] = batch.more;
          return look;
        });
        const { perNeedle, marks, ...joined } = joinLooks(looks);
        const { perNeedle: counts, marks: allMarks, ...expected } = settled(whole);
        expect(joined).toEqual(expected);
        // Of the others those at a border are kept, as what follows was not seen.
        const withContent = allMarks.filter((mark) => /^[\w+/=-]{12}/.test(text.slice(mark)));
        expect(marks).toEqual(expect.arrayContaining(withContent));
        expect(allMarks).toEqual(expect.arrayContaining(marks));
        expect([...perNeedle].sort()).toEqual([...counts].sort());
      }),
    );
  });

  test('of a needle that is everywhere, the first places and the number of all', () => {
    const text = 'made-up-key'.repeat(3 * limits.placesPerValue.value);
    writeFileSync(path, text);
    const { more } = lookAtTask({ files: [0, 1], from: 0, to: 1e9 }, [path], matcherFor(needles, 100), kinds, 13);
    const { hits, perNeedle } = joinLooks(more.map(([, look]) => look));
    expect(hits.filter(({ needle }) => needle === 0).map(({ start }) => start)).toEqual(
      Array.from({ length: limits.placesPerValue.value }, (_, index) => 11 * index),
    );
    expect(perNeedle.get(0)).toBe(3 * limits.placesPerValue.value);
  });

  test('more marks than a call takes arguments', () => {
    const marks = Array.from({ length: 200_000 }, (_, at) => at);
    expect(joinLooks([{ ...emptyLook(), marks }]).marks).toHaveLength(marks.length);
  });

  test('a file that is not there is left to whoever asks for it', () => {
    const task = { files: [0, 1] as const, from: 0, to: 1 };
    expect(lookAtTask(task, [`${path}.gone`], matcherFor(needles), kinds, 13)).toMatchObject({
      written: Float64Array.of(Number.NaN),
      more: [],
    });
  });
});
