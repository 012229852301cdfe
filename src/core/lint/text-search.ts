import type { Contract } from '../contract/contract.js';
import { wholeNeedles } from '../inspect/plan.js';
import { weakness } from '../needles/weak.js';
import type { Resolution } from '../resolve/resolve.js';
import { findAll, type Hit, type Matcher } from '../search/matcher.js';
import { matcherFor } from '../search/matcher-for.js';
import { reveal } from '../secrets/secret.js';
import { utf16Length } from '../text/positions.js';

/** A value that may be hard-coded. */
export interface KnownText {
  kind: 'secret' | 'public' | 'base';
  variable: string;
  /** The stages that have it. */
  stages: string[];
  /** The text (public values and their base URLs only). */
  text?: string;
  encoding: readonly string[];
}

/** An occurrence of a value in a text, in UTF-16 code units. */
export interface TextHit {
  knownText: KnownText;
  start: number;
  end: number;
}

/** Looks for the values of all stages in source texts, many at once. */
export class TextSearch {
  readonly #texts: KnownText[][];
  readonly #matcher: Matcher | undefined;

  constructor(contract: Contract, stages: readonly Resolution[]) {
    const needles = new Map<string, { bytes: Uint8Array; knownText: KnownText[] }>();
    const add = (bytes: Uint8Array, knownText: KnownText) => {
      const key = Buffer.from(bytes).toString('latin1');
      const known = needles.get(key);
      const twin = known?.knownText.find(
        ({ variable, kind }) => variable === knownText.variable && kind === knownText.kind,
      );
      if (twin) twin.stages.push(...knownText.stages.filter((stage) => !twin.stages.includes(stage)));
      else if (known) known.knownText.push(knownText);
      else needles.set(key, { bytes, knownText: [knownText] });
    };
    for (const { bytes, encoding, owners } of wholeNeedles(contract, stages))
      for (const { variable, stage = '' } of owners)
        add(bytes, { kind: 'secret', variable, stages: [stage], encoding });
    for (const { stage, values } of stages) {
      for (const { variable, value } of values.values()) {
        if (variable.reach !== 'public' || !value) continue;
        for (const [kind, text] of publicTexts(reveal(value)))
          add(Buffer.from(text), { kind, variable: variable.name, stages: [stage.name], text, encoding: ['plain'] });
      }
    }
    const all = [...needles.values()];
    this.#texts = all.map(({ knownText }) => withoutBases(knownText));
    this.#matcher = all.length > 0 ? matcherFor(all.map(({ bytes }) => bytes)) : undefined;
  }

  /** Hits in the order of the text; of two that begin at one place the longer one alone. */
  hits(text: string): TextHit[] {
    if (!this.#matcher) return [];
    const bytes = Buffer.from(text);
    const found = findAll(this.#matcher, bytes);
    if (found.length === 0) return [];
    const longest = withoutInner(found);
    const unit = unitsBefore(bytes, text);
    return longest.flatMap(({ needle, start, end }) =>
      (this.#texts[needle] ?? []).map((knownText) => ({ knownText, start: unit(start), end: unit(end) })),
    );
  }
}

/** Drops base URLs if the string is also a complete value. */
function withoutBases(all: readonly KnownText[]): KnownText[] {
  const whole = all.filter(({ kind }) => kind !== 'base');
  return whole.length > 0 ? whole : [...all];
}

/** Hits that no longer one contains, in the order of the text. */
function withoutInner(hits: readonly Hit[]): Hit[] {
  let [farthest, widest] = [-1, 0];
  return hits
    .toSorted((a, b) => a.start - b.start || b.end - a.end)
    .filter(({ start, end }) => {
      const isInner = end < farthest || (end === farthest && end - start < widest);
      if (end > farthest) [farthest, widest] = [end, end - start];
      return !isInner;
    });
}

/** How many UTF-16 code units precede a byte. Most texts are ASCII; in others, offsets are asked for in ascending order, nearly. */
function unitsBefore(bytes: Buffer, text: string): (offset: number) => number {
  if (bytes.length === text.length) return (offset) => offset;
  let [at, units] = [0, 0];
  return (offset) => {
    if (offset < at) [at, units] = [0, 0];
    units += utf16Length(bytes, at, offset);
    at = offset;
    return units;
  };
}

/** The parts of a public value that differ from ordinary text: URLs, their bases, and long strings of several words. */
function publicTexts(text: string): ['public' | 'base', string][] {
  if (weakness(text)) return [];
  if (/^(https?|wss?):\/\//i.test(text) && URL.canParse(text)) {
    const { origin } = new URL(text);
    return origin !== text && text.startsWith(origin)
      ? [
          ['public', text],
          ['base', origin],
        ]
      : [['public', text]];
  }
  return text.length >= 12 && /\d|[-_.:/]/.test(text) ? [['public', text]] : [];
}
