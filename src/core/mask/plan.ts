import type { Contract } from '../contract/contract.js';
import { type Owner, secretsToSeek } from '../inspect/plan.js';
import { hiddenForms } from '../needles/hidden.js';
import { needlesFor } from '../needles/index.js';
import { AnchoredNeedles } from '../needles/needle-set.js';
import { isOrdinaryWord, weakness } from '../needles/weak.js';
import type { Resolution } from '../resolve/resolve.js';
import { reveal } from '../secrets/secret.js';
import { strengthOf } from '../tokens/strength.js';
import { linesOf, printedForms, wrappedForms } from './wrapped.js';

/** Needles to mask in a build's output. */
export interface MaskPlan {
  /** Byte strings to mask. */
  needles: Uint8Array[];
  /** Byte strings without white space, which may have line breaks in the output. */
  wrapped: Uint8Array[];
  /** Forms in printed buffers and arrays, without white space. */
  printed: Uint8Array[];
  /** Forms of the anchors of values, as `inspect` searches for them. */
  anchored: AnchoredNeedles<Owner>;
  /** Variables of the stage whose values look like ordinary text, so that no mask can hide them. */
  unmasked: string[];
}

/** Masks of fewer characters would break ordinary words. */
const SHORTEST_MASKED = 4;

const LONGEST_PIECE = 8192;

/**
 * Chooses the values to mask in a build's output. A secret by name or shape is masked even if it is too short to be searched for in
 * artifacts, and in every form that programs print, wrapped or line by line.
 * @param asked the stage whose values the build gets @param all every known stage
 */
export function planMask(contract: Contract, asked: Resolution, all: readonly Resolution[]): MaskPlan {
  const { whole, pieces, unsought } = secretsToSeek(contract, all);
  const sought = [...whole, ...pieces];
  const needles = [...needlesFor(sought).filter(({ unbroken }) => unbroken === undefined), ...unsought];
  const texts = new Set([...whole.map(({ value }) => value), ...hiddenValues(contract, all)]);
  const lines = [...texts].flatMap(linesOf).filter((line) => !weakness(line));
  const weak = [...texts].filter((text) => weakness(text) !== undefined);
  return {
    needles: distinct([
      ...needles.map(({ bytes }) => bytes),
      ...[...weak, ...lines, ...[...texts].flatMap(formsOfSecret)].map((text) => Buffer.from(text)),
    ]),
    anchored: new AnchoredNeedles(sought),
    wrapped: distinct([...texts].flatMap(wrappedForms)),
    printed: distinct([...texts].flatMap(printedForms)),
    unmasked: unmaskedIn(contract, asked, texts),
  };
}

/** Forms of a value besides its text. A long value has none: its parts are masked instead. */
function formsOfSecret(text: string): string[] {
  return text.length > LONGEST_PIECE || weakness(text) ? [] : hiddenForms(text);
}

/** Values that their variables' names or their own shapes say are secrets, however short. */
function hiddenValues(contract: Contract, all: readonly Resolution[]): string[] {
  return all.flatMap(({ values, undeclared, overridden, rejected }) => {
    const declared = [...values.values()].flatMap(({ variable: { name }, value }) => (value ? [{ name, value }] : []));
    return [...declared, ...undeclared, ...overridden, ...rejected].flatMap(({ name, value }) => {
      const text = reveal(value);
      const isPublic = contract.variables.get(name)?.reach === 'public';
      return !isPublic && isMaskable(text) && strengthOf(name, text) === 'secret' ? [text] : [];
    });
  });
}

function isMaskable(text: string): boolean {
  return Buffer.byteLength(text.trim()) >= SHORTEST_MASKED && !isOrdinaryWord(text);
}

function unmaskedIn(contract: Contract, { values }: Resolution, masked: ReadonlySet<string>): MaskPlan['unmasked'] {
  return [...values.values()].flatMap(({ variable: { name, reach }, value }) => {
    const text = value && reveal(value);
    if (!text || reach === 'public' || masked.has(text) || !contract.variables.has(name)) return [];
    return weakness(text) && strengthOf(name, text) === 'secret' ? [name] : [];
  });
}

function distinct(all: readonly Uint8Array[]): Uint8Array[] {
  const byText = new Map(all.map((bytes) => [Buffer.from(bytes).toString('latin1'), bytes]));
  return [...byText.values()].filter(({ length }) => length >= SHORTEST_MASKED);
}
