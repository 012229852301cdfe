import type { Member, Source } from './format.js';

/** How the media types end, with their parameters, whose content may hold a value as text. */
const endings = [
  ...['json', 'xml', 'plain', 'html', 'css', 'javascript', 'ecmascript', 'octet-stream', 'wasm', 'markdown', 'yaml'],
  ...['zip', 'gzip', 'tar', 'pdf', 'csv', 'utf-8', 'UTF-8', 'utf8', 'us-ascii', 'module', 'data:'],
];

/**
 * What stands before the content of such a URI in base64 (RFC 2397): it is looked for with the needles, and so is not shorter than
 * ten bytes. Pictures and fonts are searched as they stand.
 */
export const dataUriMarks: readonly Uint8Array[] = endings.map((ending) => Buffer.from(`${ending};base64,`));

const HEAD_END = ';base64,'.length;

/** A media type with its parameters is not longer. */
const LONGEST_TYPE = 200;
/** Most are small pictures, and a few are maps. */
const FIRST_PIECE = 2048;

/** Shorter contents cannot hold a value. */
const SHORTEST_CONTENT = 12;

/** Marks that content follows: code that puts such URIs together has none. */
export function contentMarks(source: Source, marks: readonly number[]): number[] {
  return marks.filter((mark) => {
    const bytes = source.read(mark, SHORTEST_CONTENT);
    return (
      bytes.length === SHORTEST_CONTENT && bytes.every((byte) => /[A-Za-z0-9+/_-]/.test(String.fromCharCode(byte)))
    );
  });
}

/**
 * The data: URIs in a text as members of it, named by their media types and where they begin.
 * @param marks where their contents begin, behind one of {@link dataUriMarks}
 * @param mostBytes of the content as it stands
 */
export function* dataUris(source: Source, marks: readonly number[], mostBytes: number): Iterable<Member> {
  for (const mark of marks) {
    const uri = dataUriAt(source, mark, mostBytes);
    if (uri) yield uri;
  }
}

/** @returns undefined where what stands there is none */
function dataUriAt(source: Source, offset: number, mostBytes: number): Member | undefined {
  const mark = offset - HEAD_END;
  const from = Math.max(0, mark - LONGEST_TYPE);
  const before = Buffer.from(source.read(from, mark - from)).toString('latin1');
  const [head, type] = /data:([\w.+/-]*)(?:;[\w.-]+=[^;,"'\s)]*)*$/.exec(before) ?? [];
  if (head === undefined) return undefined;
  const length = contentLength(source, offset, mostBytes);
  const stored = { offset, length };
  const bytes = () => Buffer.from(Buffer.from(source.read(offset, length)).toString('latin1'), 'base64');
  return {
    name: `data:${type || 'text/plain'}@${mark - head.length}`,
    stored,
    async *chunks() {
      yield bytes();
    },
  };
}

/** As far as signs of base64 go, of both alphabets. */
function contentLength(source: Source, offset: number, mostBytes: number): number {
  for (let at = offset, piece = FIRST_PIECE; at < offset + mostBytes; at += piece, piece *= 2) {
    const text = Buffer.from(source.read(at, piece)).toString('latin1');
    const length = /^[A-Za-z0-9+/_=-]*/.exec(text)?.[0].length ?? 0;
    if (length < piece) return at + length - offset;
  }
  return mostBytes;
}
