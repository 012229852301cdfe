import { finding, type RawFinding } from '../../findings/finding.js';
import { limits } from '../../limits/index.js';
import { RUN } from '../../search/marks.js';
import type { MarkHit } from '../../search/scan.js';
import { grouped } from '../../text/display.js';
import {
  type FoundToken,
  LONGEST_TOKEN,
  tokenInEscapedUrl,
  tokensAround,
  tokensIn,
  tokenWithMark,
} from '../../tokens/in-text.js';
import { tokenShapes } from '../../tokens/shapes.js';
import { latin1Reader } from '../reader.js';
import { type ArtifactRule, type Inspected, type Surroundings, subject } from '../rule.js';
import { marksFor } from '../token-runs.js';

/** The kind of marks that tokens begin with. */
export const TOKEN = 'token';

/** A token may begin before what was found of it, as a URL does before its password. */
const BEFORE = 160;
/** The longest private key. */
const LONGEST_KEY = 8192;

/** The bytes around a hit in which a token may be. */
export function tokenWindow({ kind, start, end }: Pick<MarkHit, 'kind' | 'start' | 'end'>): {
  from: number;
  to: number;
} {
  return { from: Math.max(0, start - BEFORE), to: end + (kind === TOKEN ? LONGEST_KEY : LONGEST_TOKEN) };
}

/** A token in some content, by byte offsets. */
interface Placed extends FoundToken {
  token: string;
  encoding: readonly string[];
}

/** Tokens of public services, and secrets of general kinds, that the contract does not know. */
export const unknownTokens: ArtifactRule = {
  codes: ['leak/token-shape'],
  marks: ({ unknownSecrets }) =>
    unknownSecrets ? marksFor(TOKEN, [...new Set(tokenShapes.flatMap((shape) => shape.marks))]) : [],
  kinds: [RUN],
  async check(hits, surroundings) {
    const { inspected, describe } = surroundings;
    if (inspected.audience === 'cache') return [];
    reportUnchecked(surroundings);
    const tokens = placedTokens(hits, surroundings).filter((one) => !isKnown(one, surroundings));
    const described = await describe(
      tokens.map(({ start, end, token }) => ({ start, end, locate: (line) => textIn(line, token) })),
    );
    return tokens.map((one, index): RawFinding => {
      const { excerpt, ...where } = described[index] ?? { place: { ...surroundings.content.where } };
      // A mask does not know the encoded text.
      const shown = one.encoding.length > 0 ? { encoding: [...one.encoding] } : excerpt && { excerpt };
      return { ...statement(one, inspected), ...where, ...shown };
    });
  },
};

/** Where a text is in a line of the source. */
export function textIn(line: Uint8Array, text: string): { start: number; end: number } | undefined {
  const start = Buffer.from(line).indexOf(text, 0, 'latin1');
  return start < 0 ? undefined : { start, end: start + text.length };
}

/** Each token once, from the first place of its text on. */
function placedTokens(hits: readonly MarkHit[], { content }: Surroundings): Placed[] {
  const found = new Map<number, Placed>();
  const read = latin1Reader(content);
  let covered = 0;
  for (const hit of hits) {
    // The next hits in a token that was found, or in the text that was searched for one.
    if (hit.end <= covered) continue;
    const { from, to } = tokenWindow(hit);
    const text = read(from, to);
    const at = hit.start - from;
    const near =
      hit.kind === TOKEN
        ? [tokenWithMark(text, at)]
        : [...tokensAround(text, at, hit.end - from), ...tokenInEscapedUrl(text, at)];
    for (const one of near) {
      if (!one) continue;
      const { shape, start, end } = one;
      // At the window's edge the beginning may be missing.
      if (from > 0 && start === 0) continue;
      found.set(from + start, {
        shape,
        start: from + start,
        end: from + end,
        token: text.slice(start, end),
        encoding: [],
      });
      covered = Math.max(covered, from + end);
    }
    for (const one of decodedTokens(text, hit, from)) found.set(one.start, one);
  }
  return [...found.values()].sort((a, b) => a.start - b.start);
}

/** Base64 that is longer is a file. */
const LONGEST_DECODED = 4096;

/** Tokens in a run that is base64 of a text. */
function decodedTokens(text: string, { start, end }: MarkHit, from: number): Placed[] {
  const run = text.slice(start - from, end - from);
  if (run.length > LONGEST_DECODED || !/^[A-Za-z0-9+/_-]{24,}$/.test(run)) return [];
  const decoded = Buffer.from(run, 'base64').toString('latin1');
  if (!/^[\t\n\r -~]+$/.test(decoded)) return [];
  return tokensIn(decoded).map(({ shape, start: at, end: to }) => ({
    shape,
    start,
    end,
    token: decoded.slice(at, to),
    encoding: ['base64'],
  }));
}

/** Tells whether a range is part of a value of the contract, which may be there, or of what another finding reports. */
export function isKnown({ start, end }: { start: number; end: number }, { values, found }: Surroundings): boolean {
  return (
    values.some((value) => value.start < end && start < value.end) ||
    found.some(({ place: { offset = -1, length = 0 } = {} }) => offset >= 0 && offset < end && start < offset + length)
  );
}

function statement({ shape: { name, kind, details }, token }: Placed, inspected: Inspected): RawFinding {
  const facts = { shape: name, characters: token.length, details: [...(details?.(token) ?? [])] };
  const about = subject(inspected);
  if (kind === 'publishable') return finding('leak/token-shape', 'publishable', facts, { ...about, level: 'note' });
  return inspected.audience === 'server'
    ? finding('leak/token-shape', 'on-server', facts, { ...about, level: 'warning' })
    : finding('leak/token-shape', 'secret', facts, about);
}

function reportUnchecked({ content, unread }: Surroundings): void {
  const most = limits.runsPerFile.value;
  const runs = content.hits.filter(({ kind }) => kind === RUN);
  const number = runs[0] && content.counts.get(runs[0].needle);
  if (number !== undefined && number > most)
    unread(`has ${grouped(number)} runs of characters that may be a token; the first ${grouped(most)} were checked`);
}
