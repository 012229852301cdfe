import { crc32, deflateSync } from 'node:zlib';
import { describe, expect, test } from 'vitest';
import { walk } from '../../support/unpack.js';

const text = 'q8ZtHUSHhv3sh1234xyz, written by a tool that made the picture';

/** A chunk of a picture: length, type, data, checksum. */
function chunk(type: string, data: Buffer): Buffer {
  const [length, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
  const body = Buffer.concat([Buffer.from(type), data]);
  length.writeUInt32BE(data.length);
  sum.writeUInt32BE(checksum(body));
  return Buffer.concat([length, body, sum]);
}

/** The checksum of a chunk, where Node.js has it; no reader of the tests compares it. */
function checksum(body: Buffer): number {
  return typeof crc32 === 'function' ? crc32(body) : 0;
}

const signature = Buffer.from('\x89PNG\r\n\x1a\n', 'latin1');
const header = chunk('IHDR', Buffer.from([0, 0, 0, 1, 0, 0, 0, 1, 8, 2, 0, 0, 0]));
const picture = (...chunks: Buffer[]) =>
  Buffer.concat([
    signature,
    header,
    ...chunks,
    chunk('IDAT', deflateSync(Buffer.alloc(4))),
    chunk('IEND', Buffer.alloc(0)),
  ]);
const words = (...all: string[]) => Buffer.from(all.join('\0'), 'latin1');
const itxt = (isCompressed: number) =>
  Buffer.concat([
    words('Comment', ''),
    Buffer.from([isCompressed, 0]),
    words('en', 'Kommentar', ''),
    deflateSync(text),
  ]);

describe('the texts of a picture', () => {
  test.each<[type: string, data: Buffer]>([
    ['zTXt', Buffer.concat([words('Comment', '\0'), deflateSync(text)])],
    ['iTXt', itxt(1)],
    ['iCCP', Buffer.concat([words('profile', '\0'), deflateSync(text)])],
  ])('%s is inflated', async (type, data) => {
    const walked = await walk(picture(chunk(type, data)), 'a.png');
    expect(Object.entries(walked?.members ?? {})).toEqual([[expect.stringMatching(`^${type}@`), text]]);
    expect(walked?.unread).toEqual({});
  });

  test.each<[what: string, data: Buffer]>([
    [
      'that are not compressed are searched as they are',
      picture(chunk('iTXt', itxt(0)), chunk('tEXt', words('Comment', text))),
    ],
    ['are none in a picture without them', picture()],
    ['are none where the picture breaks off', picture().subarray(0, 20)],
    ['are none in a chunk without an end of its keyword', picture(chunk('zTXt', Buffer.from('Comment')))],
    ['are none in an empty chunk', picture(chunk('zTXt', Buffer.alloc(0)))],
  ])('%s', async (_, data) => {
    expect(await walk(data, 'a.png')).toEqual({ members: {}, unread: {} });
  });

  test('that are damaged are listed', async () => {
    const walked = await walk(
      picture(chunk('zTXt', Buffer.concat([words('Comment', '\0'), Buffer.from('none')]))),
      'a.png',
    );
    expect(Object.keys(walked?.unread ?? {})).toEqual([expect.stringMatching(/^zTXt@/)]);
  });
});
