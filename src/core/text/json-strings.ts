/** A string in a JSON text that is a value, not a name. Offsets are bytes, those of the quotes included. */
export interface JsonString {
  /** The name of its property, or of the property of its list. */
  key: string;
  /** Index in its list. */
  index: number;
  /** Tells the objects of the text apart: strings of one object have the same. */
  object: number;
  start: number;
  end: number;
}

interface Frame {
  isList: boolean;
  key: string;
  index: number;
  object: number;
}

const [QUOTE, BACKSLASH, COMMA, COLON] = [0x22, 0x5c, 0x2c, 0x3a];
const [OBJECT, OBJECT_END, LIST, LIST_END] = [0x7b, 0x7d, 0x5b, 0x5d];

/**
 * The strings of a JSON text (RFC 8259), located but not decoded, so that many megabytes need no extra memory. Invalid JSON is
 * skipped, or ends the iteration.
 */
export function* jsonStrings(bytes: Buffer): Generator<JsonString, void, undefined> {
  const stack: Frame[] = [];
  let objects = 0;
  let name: string | undefined;
  for (let at = 0; at < bytes.length; at++) {
    const byte = bytes[at];
    const frame = stack.at(-1);
    if (byte === QUOTE) {
      const end = stringEnd(bytes, at);
      if (end === undefined) return;
      if (frame && !frame.isList && name === undefined) name = keyText(bytes, at, end);
      else if (frame) yield { key: name ?? frame.key, index: frame.index, object: frame.object, start: at, end };
      at = end - 1;
    } else if (byte === OBJECT || byte === LIST) {
      const isList = byte === LIST;
      const key = name ?? frame?.key ?? '';
      stack.push({ isList, key, index: 0, object: isList ? (frame?.object ?? 0) : ++objects });
      name = undefined;
    } else if (byte === OBJECT_END || byte === LIST_END) {
      stack.pop();
      name = undefined;
    } else if (byte === COMMA && frame) {
      frame.index++;
      name = undefined;
    } else if (byte === COLON && name === undefined) return;
  }
}

/** Behind the closing quote. */
function stringEnd(bytes: Buffer, start: number): number | undefined {
  for (let at = bytes.indexOf(QUOTE, start + 1); at >= 0; at = bytes.indexOf(QUOTE, at + 1)) {
    let backslashes = 0;
    while (bytes[at - 1 - backslashes] === BACKSLASH) backslashes++;
    if (backslashes % 2 === 0) return at + 1;
  }
  return undefined;
}

/** Names with escapes are never searched for. */
function keyText(bytes: Buffer, start: number, end: number): string {
  return bytes.toString('utf8', start + 1, end - 1);
}
