import { Masker } from '../inspect/masked-text.js';
import type { SearchPlan } from '../inspect/plan.js';
import { MASK } from '../secrets/secret.js';
import type { Excerpt } from '../text/frame.js';
import { excerptOf } from '../text/frame.js';
import { LineMap, type Position } from '../text/positions.js';
import { type FoundToken, tokensIn } from '../tokens/in-text.js';
import type { SourceText } from './model.js';

/** Replaces a character of a token while known values are masked; no source contains it. */
const HIDDEN = '\u0001';

/** Bytes of a line that are masked before and after a place; an excerpt shows fewer. */
const MOST_AROUND = 2048;

/** Shows lines of source texts, with every secret value of every stage and every text with a secret's shape masked. */
export class SourceView {
  readonly #masker: Masker;
  readonly #files = new WeakMap<SourceText, { bytes: Buffer; lines: LineMap; isAscii: boolean }>();

  constructor(plan: Pick<SearchPlan, 'masked' | 'anchoredSecrets'>) {
    this.#masker = new Masker(plan);
  }

  at(file: SourceText, offset: number): Position {
    const { lines } = this.#file(file);
    return lines.at(this.#byteOffset(file, offset));
  }

  show(file: SourceText, start: number, end: number): Excerpt | undefined {
    const { bytes, lines } = this.#file(file);
    const [from, to] = [this.#byteOffset(file, start), this.#byteOffset(file, end)];
    const { line } = lines.at(from);
    const lineStart = lines.startOf(line);
    const lineEnd = Math.max(
      lineStart,
      lines.startOf(line + 1) - (bytes[lines.startOf(line + 1) - 1] === 0x0a ? 1 : 0),
    );
    // Only the surroundings are masked, because many findings may be on one long line.
    const first = Math.max(lineStart, from - MOST_AROUND);
    const last = Math.min(lineEnd, Math.max(from, Math.min(to, lineEnd)) + MOST_AROUND);
    const { margin } = this.#masker;
    const base = Math.max(0, first - margin);
    const around = bytes.subarray(base, last + margin);
    const focus = { start: from - base, end: Math.min(to, last) - base };
    const piece = this.#masker.piece(around, first - base, last - base, focus);
    if (!piece) return undefined;
    const shown = collapsed(piece.text, piece.start, piece.end);
    return excerptOf(line, shown.text.replace(/\r$/, ''), shown.start + 1, shown.end - shown.start);
  }

  /** A whole text, masked. */
  mask(text: string): string {
    const bytes = Buffer.from(hidden(text));
    const piece = this.#masker.piece(bytes, 0, bytes.length, { start: 0, end: 1 });
    return collapsed(piece?.text ?? MASK, 0, 0).text;
  }

  #file(file: SourceText) {
    let known = this.#files.get(file);
    if (!known) {
      const bytes = Buffer.from(hidden(file.text));
      known = { bytes, lines: new LineMap(bytes), isAscii: bytes.length === file.text.length };
      this.#files.set(file, known);
    }
    return known;
  }

  #byteOffset(file: SourceText, offset: number): number {
    return this.#file(file).isAscii ? offset : Buffer.byteLength(file.text.slice(0, offset));
  }
}

function hidden(text: string): string {
  const secret = tokensIn(text).filter(({ shape }: FoundToken) => shape.kind === 'secret');
  const pieces: string[] = [];
  let at = 0;
  for (const { start, end } of secret.sort((a, b) => a.start - b.start)) {
    pieces.push(text.slice(at, Math.max(at, start)), text.slice(Math.max(at, start), end).replace(/[^\r\n]/g, HIDDEN));
    at = Math.max(at, end);
  }
  return pieces.join('') + text.slice(at);
}

/** Each run of hidden signs as one mask, with the place of interest moved along. */
function collapsed(text: string, start: number, end: number): { text: string; start: number; end: number } {
  const shorten = (part: string) => part.replace(new RegExp(`${HIDDEN}+`, 'g'), MASK);
  // A place of interest inside of a run is all of it.
  let [from, to] = [start, end];
  while (from > 0 && text[from] === HIDDEN && text[from - 1] === HIDDEN) from--;
  while (to < text.length && text[to - 1] === HIDDEN && text[to] === HIDDEN) to++;
  const [before, focus, after] = [text.slice(0, from), text.slice(from, to), text.slice(to)].map(shorten) as [
    string,
    string,
    string,
  ];
  return { text: before + focus + after, start: before.length, end: before.length + Math.max(1, focus.length) };
}
