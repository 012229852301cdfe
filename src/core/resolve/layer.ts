import type { Template } from '../envfile/ast.js';
import type { RawFinding } from '../findings/finding.js';
import { Secret } from '../secrets/secret.js';
import type { Excerpt } from '../text/frame.js';
import type { Position } from '../text/positions.js';

/** Where a value came from. `process` has neither path nor line. */
export interface ValueSource {
  layer: string;
  path?: string;
  line?: number;
  column?: number;
}

/** A value as one layer offers it, before references are expanded. */
export interface Offer {
  name: string;
  source: ValueSource;
  /** Env files contain templates; values of the process are literal. */
  value: { kind: 'template'; template: Template; at(offset: number): Position } | { kind: 'plain'; text: Secret };
  /** The value as the file has it, without its quotes: for one with references, which may not be meant as such. */
  raw?: Secret;
}

/** The text of a line that cannot be parsed. Other programs may read the value from it. */
export interface RejectedLine {
  name: string;
  texts: readonly Secret[];
  source: ValueSource;
}

/** An offer's value if it is the same for every reader. A value with references is expanded differently by each tool. */
export function literalText({ value }: Offer): Secret | undefined {
  if (value.kind === 'plain') return value.text;
  const texts = value.template.map((part) => (part.kind === 'text' ? part.text : undefined));
  return texts.includes(undefined) ? undefined : new Secret(texts.join(''));
}

/** The values of offers that are the same for every reader, with their names. */
export function literalValues(offers: readonly Offer[]): { name: string; value: Secret; from: ValueSource }[] {
  return offers.flatMap((offer) => {
    const value = literalText(offer);
    return value ? [{ name: offer.name, value, from: offer.source }] : [];
  });
}

/** State of a layer, for the listing under the values. */
export interface ReadLayer {
  name: string;
  state: 'read' | 'absent';
  path?: string;
  offers: readonly Offer[];
  /** Lines that set a name and cannot be parsed. */
  rejected?: readonly RejectedLine[];
  findings: readonly RawFinding[];
  /** Nothing in the file can be read, for one reason, which is reported. */
  isUnreadable?: boolean;
  /** Names that the process environment has and the contract does not. */
  unread?: readonly string[];
  /** The line of an offer, as far as it may be shown. */
  quote?(offer: Offer): Excerpt | undefined;
}

/** `.env.staging:3`, or `process environment`. */
export function describeSource({ path, line, layer }: ValueSource): string {
  if (path === undefined) return layer === 'process' ? 'process environment' : layer;
  return line === undefined ? path : `${path}:${line}`;
}
