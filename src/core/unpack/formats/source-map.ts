import { type JsonString, jsonStrings } from '../../text/json-strings.js';
import { type ByteSource, type Format, hasMark, type Member } from '../format.js';

/** The key that a map begins with is one of these (ECMA-426, section 9), by its usual ending any. */
const beginning =
  /^(\)\]\}'[^\n]*\n)?\{\s*"(version|file|sources|sourcesContent|sourceRoot|names|mappings|sections|debugId)"\s*:/;

/** A map and its sections have a list of names and one of texts each, and a directory. */
interface Lists {
  sources: Map<number, JsonString>;
  contents: JsonString[];
  root?: JsonString;
}

/** Source maps (ECMA-426), with sections too: the texts of sources are members, by the names that the map has for them. */
export const sourceMap: Format = {
  name: 'source map',
  isText: true,
  // `{`, or `)` of the prefix that prevents script inclusion.
  firstBytes: [0x7b, 0x29],
  recognise: (head, name) =>
    (hasMark(head, '{') || hasMark(head, ")]}'")) &&
    (name.endsWith('.map') || beginning.test(Buffer.from(head).toString('latin1'))),
  async *members(source) {
    const bytes = bytesOf(source);
    for (const { sources, contents, root } of listsOf(bytes))
      for (const content of contents) {
        const named = sources.get(content.index);
        const name = named ? textOf(bytes, named) : `source ${content.index}`;
        yield memberOf(bytes, name, root ? textOf(bytes, root) : '', content);
      }
  },
};

/** The addresses of the sources whose text a map contains; of a source without a name, none. */
export function sourcesIn(bytes: Buffer): string[] {
  return [...listsOf(bytes)].flatMap(({ sources, contents, root }) =>
    contents.flatMap(({ index }) => {
      const named = sources.get(index);
      return named ? addressOf(textOf(bytes, named), root ? textOf(bytes, root) : '') : [];
    }),
  );
}

/** A source's name below the map's directory of sources. */
function addressOf(name: string, root: string): string {
  return root === '' ? name : `${root.replace(/\/$/, '')}/${name}`;
}

function memberOf(bytes: Buffer, name: string, root: string, content: JsonString): Member {
  return {
    name,
    address: addressOf(name, root),
    stored: { offset: content.start, length: content.end - content.start },
    async *chunks() {
      yield Buffer.from(textOf(bytes, content));
    },
  };
}

/** A text larger than the limit is not read as a source of the map. */
function bytesOf(source: ByteSource): Buffer {
  const bytes = source.read(0, source.size);
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}

function listsOf(bytes: Buffer): Iterable<Lists> {
  const all = new Map<number, Lists>();
  // A first line that keeps a browser from running it is no JSON.
  const start = hasMark(bytes, ')') ? bytes.indexOf(0x0a) + 1 : 0;
  for (const found of jsonStrings(bytes.subarray(start))) {
    const one = { ...found, start: found.start + start, end: found.end + start };
    if (!/^(sources|sourcesContent|sourceRoot)$/.test(one.key)) continue;
    const lists: Lists = all.get(one.object) ?? { sources: new Map(), contents: [] };
    all.set(one.object, lists);
    if (one.key === 'sourceRoot') lists.root = one;
    else if (one.key === 'sources') lists.sources.set(one.index, one);
    else lists.contents.push(one);
  }
  return all.values();
}

/** @throws if it is not JSON */
function textOf(bytes: Buffer, { start, end }: JsonString): string {
  return JSON.parse(bytes.toString('utf8', start, end));
}
