import { expect, test } from 'vitest';
import { progressText } from '../../src/host/work.js';

const MB = 1_000_000;

test.each([
  [
    { begun: 3, total: 1200, read: 40 * MB, done: 10 * MB, size: 400 * MB, seconds: 2 },
    '3 of 1,200 files, 40 MB, 20 MB/s',
  ],
  [
    { begun: 600, total: 1200, read: 40 * MB, done: 200 * MB, size: 400 * MB, seconds: 2 },
    '600 of 1,200 files, 40 MB, 20 MB/s, about 2 s left',
  ],
  [
    { begun: 1, total: 2, read: 40 * MB, done: 40 * MB, size: 400 * MB, seconds: 60 },
    '1 of 2 files, 40 MB, 667 kB/s, about 9 min left',
  ],
  [{ begun: 1, total: 1, read: 0, done: 0, size: 0, seconds: 0 }, '1 of 1 file, 0 bytes'],
])('progress %#', (progress, text) => expect(progressText('file', progress)).toBe(text));
