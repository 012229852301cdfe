import { beginsNoEscape, couldBegin, firstBytesOf } from '../needles/tolerant/compare.js';

/** A beginning of some values, as far as no escape can begin in it. */
interface Node {
  depth: number;
  next: Map<number, Node>;
  /** The longest other beginning that this one ends with. */
  fallback: Node | undefined;
  /** All values that begin so, as code points. */
  values: Characters[];
  /** Values that go on with a character that may be part of an escape. */
  others: Characters[];
}

type Characters = readonly string[];

function emptyNode(depth: number): Node {
  return { depth, next: new Map(), fallback: undefined, values: [], others: [] };
}

/**
 * Tells where a text could end with the beginning of a value, in any mixture of encodings. The plain beginnings are an automaton
 * (Aho and Corasick, CACM 18(6), 1975), so that a text takes linear time, also if it and the values repeat one character.
 */
export class Beginnings {
  readonly #root: Node = emptyNode(0);
  /** Values by the first byte of each way to write their first character. */
  readonly #byFirst = new Map<number, Characters[]>();

  /** @param values as code points */
  constructor(values: Iterable<Characters>) {
    for (const characters of values) this.#add(characters);
    this.#link();
  }

  #add(characters: Characters): void {
    let node = this.#root;
    for (const character of characters) {
      const code = character.charCodeAt(0);
      if (!beginsNoEscape(code)) {
        node.others.push(characters);
        break;
      }
      const next = node.next.get(code) ?? emptyNode(node.depth + 1);
      node.next.set(code, next);
      next.values.push(characters);
      node = next;
    }
    for (const first of firstBytesOf(characters[0] as string)) {
      const code = first.charCodeAt(0);
      this.#byFirst.set(code, [...(this.#byFirst.get(code) ?? []), characters]);
    }
  }

  #link(): void {
    const queue = [this.#root];
    // A list that grows while it is iterated yields what was added.
    for (const node of queue)
      for (const [code, next] of node.next) {
        next.fallback = node.fallback ? this.#step(node.fallback, code) : this.#root;
        queue.push(next);
      }
  }

  #step(from: Node, code: number): Node {
    for (let node: Node | undefined = from; node; node = node.fallback) {
      const next = node.next.get(code);
      if (next) return next;
    }
    return this.#root;
  }

  /** The first place from which on a text could be the beginning of a value. @param text one character per byte */
  in(text: string): number {
    let first = text.length;
    let node = this.#root;
    for (let at = 0; at < text.length; at++) {
      const code = text.charCodeAt(at);
      if (beginsNoEscape(code)) {
        node = this.#step(node, code);
        continue;
      }
      first = Math.min(
        first,
        earliest(node, at, (one) => valuesAt(one, code), text),
      );
      const begins = this.#byFirst.get(code)?.some((one) => couldBegin(one, text, at));
      if (begins) first = Math.min(first, at);
      node = this.#root;
    }
    return Math.min(
      first,
      earliest(node, text.length, ({ values }) => values, text),
    );
  }
}

/** The first place before `at` from which on the plain text is a beginning, and the rest could go on with it. */
function earliest(from: Node, at: number, valuesOf: (node: Node) => readonly Characters[], text: string): number {
  for (let node: Node | undefined = from; node && node.depth > 0; node = node.fallback) {
    const { depth } = node;
    if (valuesOf(node).some((one) => couldBegin(one, text, at, depth))) return at - depth;
  }
  return Number.POSITIVE_INFINITY;
}

/** Any character may be escaped, and few values have others than ASCII's visible ones. */
function valuesAt({ values, others }: Node, code: number): readonly Characters[] {
  return code < 0x20 || code >= 0x7f ? others : values;
}
