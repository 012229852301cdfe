import type { Encoding } from './encoding.js';
import { alignments, BASE64_LINES, base64, base64url, linePieces } from './encodings/base64.js';
import { charCodes } from './encodings/char-codes.js';
import { css } from './encodings/css.js';
import { hex } from './encodings/hex.js';
import { html } from './encodings/html.js';
import { json, jsString } from './encodings/js-string.js';
import { latin1 } from './encodings/latin1.js';
import { percent } from './encodings/percent.js';
import { plain } from './encodings/plain.js';
import { utf16 } from './encodings/utf16.js';
import type { AnchorForm } from './tolerant/anchor-forms.js';
import type { AnchoredValue } from './tolerant/value.js';
import { SHORTEST_NEEDLE } from './weak.js';

/** In this order a byte string that several encodings share gets its name. */
export const encodings: readonly Encoding[] = [
  plain,
  jsString,
  html,
  css,
  percent,
  base64,
  base64url,
  hex,
  charCodes,
  utf16,
  latin1,
];

/** Two steps that builds do one after the other. */
const chains: readonly (readonly [inner: Encoding, outer: readonly Encoding[]])[] = [
  [json, [base64, base64url, html]],
  [base64, [percent, jsString]],
  [css, [json]],
];

/** One byte string to look for. */
export interface Needle<Owner> {
  /** From the outside inwards. */
  encoding: readonly string[];
  /** For a part of a form that may be broken into lines: the whole form. */
  unbroken?: string;
  /** For a form of an anchor: the value that may be around it. */
  anchor?: Anchor;
  form?: AnchorForm;
  /** Whose value it is; several variables may have one value. */
  owners: Owner[];
}

/** A needle that is known by its bytes alone, which are the value in some encoding. */
export interface WholeNeedle<Owner> extends Needle<Owner> {
  bytes: Uint8Array;
}

/** How a value is recognised around a hit. */
export interface Anchor {
  value: AnchoredValue;
  /** True if a part of the value counts, by its text. */
  acceptsPart?: ((text: string) => boolean) | undefined;
  /** True if ordinary text has such anchors; the value is then searched for in each encoding too. */
  isShort?: true;
}

/** A value to look for, in every encoding. */
export interface Sought<Owner> {
  value: string;
  owner: Owner;
  /** Looked for in no encoding. */
  asItStands?: boolean | undefined;
  /** True if to look for encodings that only hide a value. */
  isThorough?: boolean | undefined;
  /** True if a part of the value counts, by its text; none does if absent. */
  acceptsPart?: ((text: string) => boolean) | undefined;
}

export const asTheyAre = [plain.name];

/** All needles of some values, each byte string once. Values must have passed `weakness`. */
export function needlesFor<Owner>(sought: Iterable<Sought<Owner>>): WholeNeedle<Owner>[] {
  const needles = new Map<string, WholeNeedle<Owner>>();
  for (const { value, owner, asItStands = false } of sought) {
    const add: Add = (form, encoding, unbroken) => {
      const key = keyOf(form);
      if (key.length < SHORTEST_NEEDLE) return;
      // Equal parts of two forms are distinguished by the text around them.
      const id = unbroken === undefined ? key : `${key}\0${unbroken}`;
      const known = needles.get(id);
      if (!known)
        needles.set(id, {
          bytes: Buffer.from(key, 'latin1'),
          encoding,
          owners: [owner],
          ...(unbroken && { unbroken }),
        });
      else if (!known.owners.includes(owner)) known.owners.push(owner);
    };
    for (const text of slicesOf(value))
      if (asItStands) add(text, asTheyAre);
      else addForms(text, add);
  }
  return [...needles.values()];
}

/** A longer value is searched for by its start, middle and end: each of them reveals too much. */
const [LONGEST, SLICE] = [8192, 2048];

export function slicesOf(value: string): string[] {
  if (value.length <= LONGEST) return [value];
  const middle = value.length >> 1;
  return [value.slice(0, SLICE), value.slice(middle, middle + SLICE), value.slice(-SLICE)];
}

type Add = (form: string | Uint8Array, encoding: readonly string[], unbroken?: string) => void;

/** Every byte string that a value may be encoded as, with the steps that lead to it; a string may appear more than once. */
function addForms(value: string, add: Add): void {
  for (const [text, ...normal] of normalForms(value)) {
    for (const { name, encode } of encodings) {
      const chain = [name, ...normal];
      for (const form of encode(text)) add(form, chain);
    }
    for (const whole of alignments(text))
      for (const piece of linePieces(whole)) add(piece, [BASE64_LINES, ...normal], whole);
    for (const [inner, outers] of chains) {
      // A form that the inner step does not change belongs to the outer one.
      const steps = [...inner.encode(text)].filter((step) => typeof step === 'string' && step !== text) as string[];
      for (const outer of steps.length > 0 ? outers : []) {
        const chain = [outer.name, inner.name, ...normal];
        for (const step of steps) for (const form of outer.encode(step)) add(form, chain);
      }
    }
  }
}

/** A text and its normal forms (Unicode Standard Annex 15), if they differ. */
function normalForms(value: string): [text: string, ...form: string[]][] {
  if (!/[^\0-\x7f]/.test(value)) return [[value]];
  const forms: [string, ...string[]][] = [[value]];
  for (const form of ['NFC', 'NFD'] as const) {
    const text = value.normalize(form);
    if (forms.every(([other]) => other !== text)) forms.push([text, form.toLowerCase()]);
  }
  return forms;
}

/** The bytes as a text of one character a byte. */
function keyOf(form: string | Uint8Array): string {
  if (typeof form !== 'string') return Buffer.from(form.buffer, form.byteOffset, form.byteLength).toString('latin1');
  return /[^\0-\x7f]/.test(form) ? Buffer.from(form).toString('latin1') : form;
}
