import { type Format, hasMark, type Member, type Source } from '../format.js';

/** The key that a map begins with is one of these (ECMA-426, section 9), by its usual ending any. */
const beginning =
  /^(\)\]\}'[^\n]*\n)?\{\s*"(version|file|sources|sourcesContent|sourceRoot|names|mappings|sections|debugId)"\s*:/;

/** A list of a map: of the map itself, or of one of its sections. */
interface Listed {
  text: string;
  /** Where it stands in the JSON, in UTF-16 units, and how long it is with its quotes. */
  offset: number;
  length: number;
}

/** A map and its sections have a list of names and one of texts each, and a folder. */
class Lists {
  readonly sources = new Map<number, string>();
  readonly contents = new Map<number, Listed>();
  root = '';
}

/** Source maps (ECMA-426), with sections too: the texts of sources are members, by the names that the map has for them. */
export const sourceMap: Format = {
  name: 'source map',
  isText: true,
  recognise: (head, name) =>
    (hasMark(head, '{') || hasMark(head, ")]}'")) &&
    (name.endsWith('.map') || beginning.test(Buffer.from(head).toString('latin1'))),
  async *members(source) {
    const text = await textOf(source);
    const toBytes = byteOffsets(text);
    for (const { sources, contents, root } of await listsOf(text))
      for (const [index, content] of contents)
        yield memberOf(sources.get(index) ?? `source ${index}`, root, content, toBytes);
  },
};

function memberOf(
  name: string,
  root: string,
  { text, offset, length }: Listed,
  toBytes: (at: number) => number,
): Member {
  const start = toBytes(offset);
  return {
    name,
    address: root === '' ? name : `${root.replace(/\/$/, '')}/${name}`,
    stored: { offset: start, length: toBytes(offset + length) - start },
    async *chunks() {
      yield Buffer.from(text);
    },
  };
}

async function textOf(source: Source): Promise<string> {
  const pieces: Uint8Array[] = [];
  for await (const chunk of source.chunks()) pieces.push(chunk);
  // A first line that keeps a browser from running it is no JSON.
  return Buffer.concat(pieces)
    .toString()
    .replace(/^\)\]\}'[^\n]*/, (line) => ' '.repeat(line.length));
}

/** What is no JSON is left out: its bytes were searched as they stand. */
async function listsOf(text: string): Promise<Iterable<Lists>> {
  // Loaded where the first map is opened.
  const { visit } = await import('jsonc-parser');
  const all = new Map<string, Lists>();
  visit(text, {
    onLiteralValue(value, offset, length, _line, _column, pathOf) {
      if (typeof value !== 'string') return;
      const path = pathOf();
      const [key, index] = typeof path.at(-1) === 'number' ? path.slice(-2) : [path.at(-1), undefined];
      if (key !== 'sources' && key !== 'sourcesContent' && key !== 'sourceRoot') return;
      const owner = path.slice(0, index === undefined ? -1 : -2).join();
      const lists = all.get(owner) ?? new Lists();
      all.set(owner, lists);
      if (key === 'sourceRoot') lists.root = value;
      else if (key === 'sources') lists.sources.set(Number(index), value);
      else lists.contents.set(Number(index), { text: value, offset, length });
    },
  });
  return all.values();
}

/** Offsets in UTF-16 units as offsets in bytes; asked for in ascending order. */
function byteOffsets(text: string): (at: number) => number {
  let [known, bytes] = [0, 0];
  return (at) => {
    if (at < known) [known, bytes] = [0, 0];
    bytes += Buffer.byteLength(text.slice(known, at));
    known = at;
    return bytes;
  };
}
