import { beginsNoEscape, couldBegin, firstBytesOf } from '../needles/tolerant/compare.js';

/** Values by the characters that they begin with, as far as no escape can begin there. */
interface Node {
  next: Map<number, Node>;
  /** All values below, as code points. */
  values: Characters[];
  /** Those that go on with a character that may be part of an escape. */
  others: Characters[];
}

type Characters = readonly string[];

function emptyNode(): Node {
  return { next: new Map(), values: [], others: [] };
}

/** Tells where a text could end with the beginning of a value, in any mixture of encodings. */
export class Beginnings {
  readonly #root: Node = emptyNode();
  /** Values by the first byte of each way to write their first character. */
  readonly #byFirst = new Map<number, Characters[]>();

  /** @param values as code points */
  constructor(values: Iterable<Characters>) {
    for (const characters of values) this.#add(characters);
  }

  #add(characters: Characters): void {
    let node = this.#root;
    for (const character of characters) {
      const code = character.charCodeAt(0);
      if (!beginsNoEscape(code)) {
        node.others.push(characters);
        break;
      }
      const next = node.next.get(code) ?? emptyNode();
      node.next.set(code, next);
      next.values.push(characters);
      node = next;
    }
    for (const first of firstBytesOf(characters[0] as string)) {
      const code = first.charCodeAt(0);
      this.#byFirst.set(code, [...(this.#byFirst.get(code) ?? []), characters]);
    }
  }

  /** The first place from which on a text could be the beginning of a value. @param text one character per byte */
  in(text: string): number {
    for (let at = 0; at < text.length; at++)
      if (this.#candidatesAt(text, at).some((one) => couldBegin(one, text, at))) return at;
    return text.length;
  }

  /** The values that agree with a text up to the first escape, or to its end; at most places there are none. */
  #candidatesAt(text: string, from: number): readonly Characters[] {
    let node: Node | undefined = this.#root;
    for (let at = from; at < text.length; at++) {
      const code = text.charCodeAt(at);
      if (!beginsNoEscape(code)) return at === from ? (this.#byFirst.get(code) ?? []) : valuesAt(node, code);
      node = node.next.get(code);
      if (!node) return [];
    }
    return node.values;
  }
}

/** Any character may be escaped, and few values have others than ASCII's visible ones. */
function valuesAt({ values, others }: Node, code: number): readonly Characters[] {
  return code < 0x20 || code >= 0x7f ? others : values;
}
