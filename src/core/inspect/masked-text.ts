import { isUtf8 } from 'node:buffer';
import type { WholeNeedle } from '../needles/index.js';
import type { AnchoredNeedles } from '../needles/needle-set.js';
import { userInfoOf } from '../needles/parts.js';
import { findAll, type Hit, type Matcher } from '../search/matcher.js';
import { matcherFor } from '../search/matcher-for.js';
import { MASK } from '../secrets/secret.js';
import { joinedRanges } from '../text/ranges.js';
import { unknownSecretsIn } from '../tokens/hidden.js';
import { LONGEST_TOKEN } from '../tokens/in-text.js';
import { strengthOf } from '../tokens/strength.js';
import { valuesIn } from './hits.js';
import type { Owner, SearchPlan } from './plan.js';
import { recordedIn } from './recorded.js';

/** A piece of text that may be shown, with the place of interest in it (from 0, UTF-16 units). */
export interface MaskedPiece {
  text: string;
  start: number;
  end: number;
}

const SMALL_CHUNK = 16 * 1024;

/** Minimum bytes on each side of a piece that are searched for undeclared secrets. */
const SHORTEST_MARGIN = 256;

/** Masks every build and server value in a piece of a file, in every encoding that inspect looks for. */
export class Masker {
  /** Made when the first piece is shown. */
  #tables: MaskTables | undefined;
  #fragments: ReadonlySet<string> | undefined;

  /** @param plan what to mask; its tables take longer to make than most searches */
  constructor(readonly plan: Pick<SearchPlan, 'masked' | 'anchoredSecrets' | 'recorded'>) {}

  get #table(): MaskTables {
    this.#tables ??= maskTables(this.plan);
    return this.#tables;
  }

  /** Secrets with an anchor, however their characters are escaped. */
  #anchored(bytes: Uint8Array): { start: number; end: number }[] {
    const { anchors, anchorMatcher } = this.#table;
    if (anchors.length === 0) return [];
    return valuesIn(anchorMatcher, anchors, bytes);
  }

  /** Secrets of the history. A part is masked with the word around it: nobody knows how much of the word is secret. */
  #recorded(bytes: Uint8Array): { start: number; end: number }[] {
    const { recorded } = this.plan;
    if (!recorded) return [];
    return recordedIn(recorded, bytes).flatMap(({ owner, start, end }) => {
      if (owner.role !== 'secret') return [];
      return owner.part ? wordAround(bytes, start, end) : { start, end };
    });
  }

  /** How far around a piece bytes are needed, so that a value cut by its border is still seen whole. */
  get margin(): number {
    return this.#table.margin;
  }

  #hits(bytes: Uint8Array): Hit[] {
    const { matcher, isBase64 } = this.#table;
    const hits = findAll(matcher, bytes);
    return hits.map((hit) => (isBase64[hit.needle] ? growBase64(hit, bytes) : hit));
  }

  /** Pieces of secrets that a script joins when it runs; needles cannot know where they are cut. */
  #pieces(bytes: Uint8Array, from: number, to: number): { start: number; end: number }[] {
    this.#fragments ??= fragmentsOf(this.#table.texts);
    if (this.#fragments.size === 0) return [];
    const first = Math.max(0, from - FRAGMENT);
    const text = Buffer.from(bytes.subarray(first, to + FRAGMENT)).toString('latin1');
    const found: { start: number; end: number }[] = [];
    for (let at = 0; at + FRAGMENT <= text.length; at++)
      if (this.#fragments.has(text.slice(at, at + FRAGMENT)))
        found.push({ start: first + at, end: first + at + FRAGMENT });
    return found;
  }

  /** A short text with what must not be shown masked. */
  text(text: string): string {
    const bytes = Buffer.from(text);
    return this.piece(bytes, 0, bytes.length, { start: 0, end: bytes.length })?.text ?? MASK;
  }

  /**
   * @param bytes the piece, with {@link margin} bytes on both sides where the file has them
   * @param from where the piece starts in `bytes` @param to where it ends
   * @param focus the place of interest in `bytes`
   * @returns undefined if the piece is not text
   */
  piece(bytes: Uint8Array, from: number, to: number, focus: { start: number; end: number }): MaskedPiece | undefined {
    const known = [
      ...this.#hits(bytes),
      ...this.#anchored(bytes),
      ...this.#pieces(bytes, from, to),
      ...this.#recorded(bytes),
    ];
    const ranges = joinedRanges([...known, ...unknownAround(bytes, from, to)], true).filter(
      ({ start, end }) => end > from && start < to,
    );
    const [first, last] = [alignForward(bytes, from), alignBack(bytes, to)];
    if (!isUtf8(bytes.subarray(first, last)) || bytes.subarray(first, last).includes(0)) return undefined;
    let text = '';
    let at = first;
    let start = -1;
    let end = -1;
    const copy = (until: number) => {
      if (until <= at) return;
      if (focus.start >= at && focus.start < until) start = text.length + decode(bytes, at, focus.start).length;
      if (focus.end > at && focus.end <= until) end = text.length + decode(bytes, at, focus.end).length;
      text += decode(bytes, at, until);
      at = until;
    };
    for (const range of ranges) {
      copy(Math.max(first, range.start));
      if (focus.start >= range.start && focus.start < range.end) start = text.length;
      text += MASK;
      if (focus.end > range.start && focus.end <= range.end) end = text.length;
      at = range.end;
    }
    copy(last);
    const begin = Math.max(0, start);
    return { text, start: begin, end: Math.max(begin + 1, end < 0 ? text.length : end) };
  }
}

/** Tokens and keys that no contract declares; one that begins before the piece is seen whole. */
function unknownAround(bytes: Uint8Array, from: number, to: number): { start: number; end: number }[] {
  const first = Math.max(0, from - LONGEST_TOKEN);
  const text = Buffer.from(bytes.subarray(first, to + LONGEST_TOKEN)).toString('latin1');
  return unknownSecretsIn(text).map(({ start, end }) => ({ start: first + start, end: first + end }));
}

interface MaskTables {
  matcher: Matcher;
  isBase64: readonly boolean[];
  /** Whole secrets in plain form. */
  texts: readonly string[];
  /** Needles of secrets whose surroundings are compared. */
  anchors: AnchoredNeedles<Owner>;
  anchorMatcher: Matcher;
  margin: number;
}

function maskTables(plan: Pick<SearchPlan, 'masked' | 'anchoredSecrets' | 'recorded'>): MaskTables {
  const needles = plan.masked();
  const all = needles.map(({ bytes }) => bytes);
  const anchors = plan.anchoredSecrets();
  const longest = all.reduce((most, { length }) => Math.max(most, length), 0);
  return {
    anchors,
    anchorMatcher: matcherFor(anchors.strings, SMALL_CHUNK),
    matcher: matcherFor(all, SMALL_CHUNK),
    isBase64: needles.map(({ encoding }) => encoding.some((name) => name.startsWith('base64'))),
    texts: needles.filter(isWholeSecret).map(({ bytes }) => secretPart(Buffer.from(bytes).toString('latin1'))),
    margin: [...anchors.values.map(({ reach }) => reach), plan.recorded?.search.reach ?? 0].reduce(
      (most, reach) => Math.max(most, reach),
      Math.max(longest, SHORTEST_MARGIN),
    ),
  };
}

/** Minimum length of a run of secret characters that an excerpt masks. */
const FRAGMENT = 8;

/** Longer secrets are covered only up to this length, to bound memory use. */
const LONGEST_CUT = 16 * 1024;

/** Words of build tools, which a made-up secret may have too: knowing that they are in it helps nobody. */
const ordinaryWords = ['production', 'development'];

function fragmentsOf(texts: readonly string[]): Set<string> {
  const fragments = new Set<string>();
  for (const text of texts)
    for (let start = 0; start + FRAGMENT <= Math.min(text.length, LONGEST_CUT); start++)
      fragments.add(text.slice(start, start + FRAGMENT));
  for (const word of ordinaryWords)
    for (let start = 0; start + FRAGMENT <= word.length; start++) fragments.delete(word.slice(start, start + FRAGMENT));
  return fragments;
}

/** The host and path of a URL with a password are ordinary text, and occur in public values too. */
function secretPart(text: string): string {
  return userInfoOf(text)?.password || text;
}

/** Pieces of settings (hosts, paths) are ordinary text. */
function isWholeSecret({ encoding, owners, bytes }: WholeNeedle<Owner>): boolean {
  return (
    encoding.length === 1 &&
    encoding[0] === 'plain' &&
    owners.some(
      ({ part, role, variable }) =>
        role === 'secret' && !part && strengthOf(variable, Buffer.from(bytes).toString()) === 'secret',
    )
  );
}

/** A stretch, with the bytes around it up to white space or a quote. */
function wordAround(bytes: Uint8Array, start: number, end: number): { start: number; end: number } {
  const isOfWord = (at: number) =>
    at >= 0 && at < bytes.length && !/[\s"'`]/.test(String.fromCharCode(bytes[at] as number));
  let [first, last] = [start, end];
  while (isOfWord(first - 1)) first--;
  while (isOfWord(last)) last++;
  return { start: first, end: last };
}

/**
 * The characters beside a base64 hit share bits with the value, so they are hidden with it.
 * @param hit is changed
 */
function growBase64(hit: Hit, bytes: Uint8Array): Hit {
  const isLetter = (at: number) => /[A-Za-z0-9+/_=-]/.test(String.fromCharCode(bytes[at] ?? 0));
  for (let steps = 0; steps < 2 && isLetter(hit.start - 1); steps++) hit.start--;
  for (let steps = 0; steps < 2 && isLetter(hit.end); steps++) hit.end++;
  return hit;
}

function decode(bytes: Uint8Array, from: number, to: number): string {
  return Buffer.from(bytes.buffer, bytes.byteOffset + from, to - from).toString('utf8');
}

/** A byte range may start or end inside a character, which is dropped. */
function alignForward(bytes: Uint8Array, at: number): number {
  let start = at;
  while (start < bytes.length && start - at < 4 && ((bytes[start] as number) & 0xc0) === 0x80) start++;
  return start;
}

function alignBack(bytes: Uint8Array, at: number): number {
  let end = at;
  while (end > 0 && end < bytes.length && at - end < 4 && ((bytes[end] as number) & 0xc0) === 0x80) end--;
  return end;
}
