import { gzipSync } from 'node:zlib';
import { describe, expect, test } from 'vitest';
import { Budget, LimitReached, type Limits, usualLimits } from '../../../src/core/unpack/limits.js';
import { asarOf, tarOf, type Walked, walk } from '../../support/unpack.js';

const MB = 2 ** 20;

/** A budget for a file of 1 MB at 0 ms, unless it says otherwise. */
const budget = (limits: Partial<Limits> = {}, size = MB, now = () => 0) =>
  new Budget({ ...usualLimits, ...limits }, size, now);

describe('a budget', () => {
  test('has room for as many members as the limit says', () => {
    const three = budget({ members: 3 });
    for (let index = 0; index < 3; index++) three.member();
    expect(() => three.member()).toThrow(new LimitReached('has more than 3 embedded files'));
  });

  test.each([
    [10, undefined],
    [11, 'is larger than 10 bytes'],
  ])('of 10 bytes for a member, with %i bytes: %s', (bytes, problem) => {
    const take = () => budget({ memberBytes: 10 }).bytes(1, bytes);
    if (problem === undefined) expect(take).not.toThrow();
    else expect(take).toThrow(problem);
  });

  test('counts the bytes of all members together', () => {
    const ten = budget({ totalBytes: 10 });
    ten.bytes(6, 6);
    ten.bytes(4, 4);
    expect(() => ten.bytes(1, 1)).toThrow('contains more than 10 bytes');
  });

  test.each([
    ['64 MB in a file of one byte, 2000 times its size', 64 * MB, 1, false],
    ['one byte more', 64 * MB + 1, 1, true],
    ['2000 times its size', 2000 * MB, MB, false],
    ['one byte more than 2000 times its size', 2000 * MB + 1, MB, true],
  ])('%s', (_, bytes, size, stops) => {
    const take = () => budget({ ratio: 2000 }, size).bytes(bytes, 1);
    if (stops) expect(take).toThrow('expands to more than 2000 times its size');
    else expect(take).not.toThrow();
  });

  test.each([
    [5000, false],
    [5001, true],
  ])('of 5 seconds, after %i ms: stops is %s', (ms, stops) => {
    let now = 100;
    const five = budget({ seconds: 5 }, MB, () => now);
    now += ms;
    if (stops) expect(() => five.bytes(1, 1)).toThrow('takes longer than 5 seconds to unpack');
    else expect(() => five.bytes(1, 1)).not.toThrow();
  });
});

describe('a walk', () => {
  const inner = () => tarOf({ 'a.txt': 'made-up', 'b.txt': 'made-up', 'c.txt': 'made-up' });
  const outer = async () => tarOf({ 'inner.tar': await inner(), 'last.txt': 'made-up key' });

  test.each([
    [5, ['inner.tar', 'inner.tar » a.txt', 'inner.tar » b.txt', 'inner.tar » c.txt', 'last.txt'], {}],
    [4, ['inner.tar » a.txt', 'inner.tar » b.txt', 'inner.tar » c.txt', 'inner.tar'], { '': /more than 4/ }],
    [2, ['inner.tar » a.txt'], { '': /more than 2/, 'inner.tar': /more than 2/ }],
    [1, [], { '': /more than 1/, 'inner.tar': /more than 1/ }],
  ])('that may have %i members ends where the next one begins', async (members, read, unread) => {
    const walked = (await walk(await outer(), 'x.tar', { members })) as Walked;
    expect(Object.keys(walked.members).sort()).toEqual(expect.arrayContaining([...read].sort()));
    expect(Object.keys(walked.members)).not.toContain(members < 5 ? 'last.txt' : 'none');
    expect(Object.keys(walked.unread).sort()).toEqual(Object.keys(unread));
    for (const [path, because] of Object.entries(unread)) expect(walked.unread[path]).toMatch(because);
  });

  test.each([
    [2, {}],
    [1, { 'inner.tar': 'is nested 2 containers deep' }],
    [0, { '': 'is nested 1 containers deep' }],
  ])('that may go %i containers deep', async (depth, unread) => {
    expect(((await walk(await outer(), 'x.tar', { depth })) as Walked).unread).toEqual(unread);
  });

  test('opens an inner container that is read in any order if it is as large as the limit, and no larger one', async () => {
    const bytes = await asarOf({ 'a.txt': 'made-up' });
    const walked = async (innerBytes: number) =>
      ((await walk(await tarOf({ 'inner.asar': bytes }), 'x.tar', { innerBytes })) as Walked).unread;
    expect(await walked(bytes.length)).toEqual({});
    expect(await walked(bytes.length - 1)).toEqual({
      'inner.asar': expect.stringMatching(/^is a nested container larger than /),
    });
  });

  test('that is stopped by a member’s size reports that member’s container alone', async () => {
    const packed = gzipSync(Buffer.alloc(1000, 'x'));
    const { members, unread } = (await walk(packed, 'a.txt.gz', { memberBytes: 999 })) as Walked;
    expect([Object.keys(members), Object.keys(unread)]).toEqual([['a.txt'], ['']]);
  });
});
