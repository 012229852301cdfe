import { byteSize } from '../text/display.js';
import type { ByteSource, Member, Unreadable } from './format.js';

/** How the media types end, with their parameters, whose content may hold a value as text. */
const endings = [
  ...['json', 'xml', 'plain', 'html', 'css', 'javascript', 'ecmascript', 'octet-stream', 'wasm', 'markdown', 'yaml'],
  ...['zip', 'gzip', 'tar', 'pdf', 'csv', 'utf-8', 'UTF-8', 'utf8', 'us-ascii', 'module', 'data:'],
];

/**
 * The bytes before the base64 content of such a URI (RFC 2397). They are searched for with the needles, so they have at least ten
 * bytes. Images and fonts are not decoded.
 */
export const dataUriMarks: readonly Uint8Array[] = endings.map((ending) => Buffer.from(`${ending};base64,`));

/** A media type with its parameters is not longer, nor is the text between it and the content. */
const REACH = 208;

/** Shorter contents cannot hold a value; code that puts such URIs together has none. */
const SHORTEST_CONTENT = 12;

/**
 * Tells whether the bytes after a mark may be content. Code that builds such URIs has the mark alone.
 * @param following may end early, and then the answer is yes
 */
export function hasContent(following: Uint8Array): boolean {
  return following.length < SHORTEST_CONTENT || contentEnd(following, 0) >= SHORTEST_CONTENT;
}

/** Some bytes of a text, and their position in it. */
interface Piece {
  offset: number;
  bytes: Uint8Array;
}

/** A URI whose content is being read. */
interface Open {
  name: string;
  offset: number;
  length: number;
  pieces: Uint8Array[];
}

/**
 * The data: URIs in a text as members of it, named by their media types and where they begin.
 * @param pieces of the text, in its order: all of it, or what {@link around} reads
 * @param marks where their contents begin, after one of {@link dataUriMarks}
 * @param mostBytes of the encoded content
 */
export async function* dataUris(
  pieces: AsyncIterable<Piece> | Iterable<Piece>,
  marks: readonly number[],
  mostBytes: number,
): AsyncIterable<Member | Unreadable> {
  let before: Uint8Array = new Uint8Array(0);
  let end = 0;
  let next = 0;
  let open: Open | undefined;
  for await (const { offset, bytes } of pieces) {
    if (offset !== end) before = new Uint8Array(0);
    end = offset + bytes.length;
    for (let at = 0; at < bytes.length; ) {
      if (open) {
        const until = contentEnd(bytes, at);
        if (open.length <= mostBytes) open.pieces.push(bytes.subarray(at, until));
        open.length += until - at;
        at = until;
        if (until === bytes.length) break;
        yield* closed(open, mostBytes);
        open = undefined;
      }
      while ((marks[next] ?? end) < offset + at) next++;
      const mark = marks[next] ?? end;
      if (mark >= end) break;
      next++;
      at = mark - offset;
      open = opened(lastOf(before, bytes.subarray(0, at)), mark);
    }
    before = lastOf(before, bytes);
    if (!open && next === marks.length) return;
  }
  if (open) yield* closed(open, mostBytes);
}

/** The byte ranges to read for the URIs at some marks, from random-access bytes. */
export function* around(source: ByteSource, marks: readonly number[]): Iterable<Piece> {
  let last: Piece = { offset: 0, bytes: new Uint8Array(0) };
  for (const mark of marks) {
    // Most contents are small pictures, and a few are maps.
    for (let size = 2048; !endsIn(last, mark); size *= 2) {
      const at = Math.max(last.offset + last.bytes.length, mark - REACH);
      last = { offset: at, bytes: source.read(at, size) };
      if (last.bytes.length === 0) return;
      yield last;
    }
  }
}

/** Tells whether the content at a mark is at its end somewhere in a piece, or before it. */
function endsIn({ offset, bytes }: Piece, mark: number): boolean {
  const from = Math.max(0, mark - offset);
  return from < bytes.length && contentEnd(bytes, from) < bytes.length;
}

/** A text that streams by. */
export async function* inOrder(chunks: AsyncIterable<Uint8Array> | Iterable<Uint8Array>): AsyncIterable<Piece> {
  let offset = 0;
  for await (const bytes of chunks) {
    yield { offset, bytes };
    offset += bytes.length;
  }
}

/** The last bytes of two stretches, one after the other: as many as a type may have. */
function lastOf(before: Uint8Array, bytes: Uint8Array): Uint8Array {
  return bytes.length >= REACH ? bytes.subarray(-REACH) : Buffer.concat([before, bytes]).subarray(-REACH);
}

/** @param before the text before the content, which begins at `mark` */
function opened(before: Uint8Array, mark: number): Open | undefined {
  const text = Buffer.from(before).toString('latin1');
  const [head, type] = /data:([\w.+/-]*)(?:;[\w.-]+=[^;,"'\s)]*)*;base64,$/.exec(text) ?? [];
  if (head === undefined) return undefined;
  return { name: `data:${type || 'text/plain'}@${mark - head.length}`, offset: mark, length: 0, pieces: [] };
}

function* closed({ name, offset, length, pieces }: Open, mostBytes: number): Iterable<Member | Unreadable> {
  if (length > mostBytes) yield { name, because: `is longer than ${byteSize(mostBytes)}` };
  else if (length >= SHORTEST_CONTENT) {
    const bytes = Buffer.from(Buffer.concat(pieces).toString('latin1'), 'base64');
    const chunks = async function* () {
      yield bytes;
    };
    yield { name, stored: { offset, length }, chunks };
  }
}

/** How far signs of base64 go, of both alphabets. */
function contentEnd(bytes: Uint8Array, from: number): number {
  let at = from;
  while (at < bytes.length && isSign[bytes[at] as number] === 1) at++;
  return at;
}

const isSign = Uint8Array.from({ length: 256 }, (_, byte) =>
  /[A-Za-z0-9+/_=-]/.test(String.fromCharCode(byte)) ? 1 : 0,
);
