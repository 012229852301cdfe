import { type Document, isMap, isScalar, type Pair, type Scalar, visit } from 'yaml';
import { MASK } from '../secrets/secret.js';
import { once } from '../text/once.js';
import type { Range } from '../text/ranges.js';
import { isSecretByText } from '../tokens/strength.js';

/** Keys whose values are names, paths, words of the contract or prose. All other values are masked when a line is shown. */
const harmlessKeys = new Set(
  `adder layers build-as file key must-exist seconds runs toolchain code entry server-code output server-output source-maps prefix reads reach
  form choice list required min max https slash distinct same bundles delivery names aka secret-parts search about finding unread
  where because until variable fingerprint passes levels`.split(/\s+/),
);

/** Keys of a host's `list`, `set` and `change` whose values are methods, and paths in JSON. */
const hostWords = new Set('method items name value scope stage id next'.split(' '));

/** Keys directly under a variable's name. */
const reachWords = new Set(['public', 'build', 'server']);

/** Keys whose values are only short words, numbers and booleans. */
const wordKeys = new Set(
  'adder build-as must-exist seconds runs toolchain source-maps reach form required min max https slash distinct same delivery secret-parts search until levels'.split(
    ' ',
  ),
);

/**
 * Masks lines of a contract for display. A secret can be pasted anywhere: as a default, under a misspelt key, in place of a
 * reach. So only punctuation, keys and the values of keys that are known to be harmless are shown.
 */
export class ContractQuotes {
  /** Computed for the first finding: most contracts have none. */
  readonly #shown: () => Range[];

  constructor(
    readonly text: string,
    document: Document | undefined,
  ) {
    this.#shown = once(() => {
      return document ? shownRanges(document, text) : [];
    });
  }

  /**
   * @param start offset of the line's first character @param end of its last one
   * @param focus a stretch of the line to point at
   * @returns the masked line, and where in it (from 0) the stretch is
   */
  line(start: number, end: number, focus: Range): { text: string; start: number; end: number } {
    const shown = this.#shown().filter((range) => range.end > start && range.start < end);
    let text = '';
    let [from, to] = [-1, -1];
    for (let at = start; at < end; ) {
      const next = this.#piece(at, end, shown);
      if (from < 0 && focus.start < next.end) from = text.length + (next.isShown ? Math.max(0, focus.start - at) : 0);
      text += next.isShown ? this.text.slice(at, next.end) : MASK;
      if (to < 0 && focus.end <= next.end) to = text.length - (next.isShown ? next.end - Math.max(focus.end, at) : 0);
      at = next.end;
    }
    const begin = from < 0 ? text.length : from;
    return { text, start: begin, end: Math.max(begin + 1, to < 0 ? text.length : to) };
  }

  /** The longest stretch from `at` that is shown, or masked, as a whole. */
  #piece(at: number, end: number, shown: readonly Range[]): { end: number; isShown: boolean } {
    const isShown = (offset: number) =>
      isPunctuation(this.text[offset]) || shown.some((one) => one.start <= offset && offset < one.end);
    const first = isShown(at);
    // One mask for several words of one value.
    const isJoined = (offset: number) =>
      !first && /[-"' ]/.test(this.text[offset] ?? '') && offset + 1 < end && !isShown(offset + 1);
    let next = at + 1;
    while (next < end && (isShown(next) === first || isJoined(next))) next++;
    return { end: next, isShown: first };
  }
}

function isPunctuation(character: string | undefined): boolean {
  return character !== undefined && /[\s{}[\],:#?&*!|>"'-]/.test(character);
}

function shownRanges(document: Document, text: string): Range[] {
  const ranges: Range[] = [];
  const show = ({ range, value }: Scalar) => {
    if (!range) return;
    const [start, end] = range;
    // In a broken file, the range can cover more text than the parsed value.
    const written = text.slice(start, end).replace(/^(['"])(.*)\1$/, '$2');
    if (written === String(value) || (value === null && /^(null|~)?$/.test(written))) ranges.push({ start, end });
  };
  visit(document, {
    Scalar(key, node, path) {
      const keys = keysOf(path);
      if (key === 'key' ? isPlainName(node.value) : isHarmless(node.value, keys)) show(node);
      else if (keys.includes('hosts') || keys.includes('served')) ranges.push(...placeholderRanges(node, text));
    },
  });
  return ranges;
}

/** Names in braces, which stand for values. */
function placeholderRanges({ range }: Scalar, text: string): Range[] {
  if (!range) return [];
  const [start, end] = range;
  return [...text.slice(start, end).matchAll(/\{[A-Za-z_][A-Za-z0-9_]{0,60}\}/g)].flatMap(({ 0: whole, index }) =>
    isPlainName(whole.slice(1, -1)) ? [{ start: start + index, end: start + index + whole.length }] : [],
  );
}

/** The keys that lead to a node, the nearest first. */
function keysOf(path: readonly unknown[]): string[] {
  return path
    .flatMap((node, index) => (isMap(path[index - 1]) && isPairLike(node) ? [node] : []))
    .map(({ key }) => (isScalar(key) ? String(key.value) : ''))
    .reverse();
}

function isPairLike(node: unknown): node is Pair {
  return typeof node === 'object' && node !== null && 'key' in node && 'value' in node;
}

/** @param keys that lead to the value, the nearest first */
function isHarmless(value: unknown, keys: readonly string[]): boolean {
  const [nearest = '', parent = '', , ofHost] = keys;
  if (typeof value === 'boolean' || value === null) return true;
  const text = String(value);
  // Any word of a command may be a password.
  if (keys.includes('command') || isSecretByText(text)) return false;
  if (ofHost === 'hosts' && hostWords.has(nearest)) return /^[A-Za-z][\w-]{0,30}(\.[\w-]{1,30})*$/.test(text);
  if (parent === 'variables') return reachWords.has(text);
  const key = parent === 'names' || parent === 'levels' ? parent : nearest;
  if (!harmlessKeys.has(key)) return false;
  return !wordKeys.has(key) || /^([a-z][a-z-]{0,20}|-?\d+(\.\d+)?|\d{4}-\d\d-\d\d)$/.test(text);
}

/** Tells whether a string looks like a name, and not like a value that was pasted in its place. */
export function isPlainName(value: unknown): boolean {
  const text = String(value);
  return /^[A-Za-z_$][A-Za-z0-9_./-]{0,60}$/.test(text) && !isSecretByText(text);
}

/** A name for a message, or the mask if it looks like a value. */
export function shownName(value: unknown): string {
  return isPlainName(value) ? String(value) : MASK;
}
