import type { AnchorForm, AnchorForms } from './anchor-forms.js';
import { type Agreement, beginsNoEscape, compareAround } from './compare.js';
import { asWritten, inBase64View, inHex, inNumbers, inUtf16, nestings, through, unnested, type View } from './views.js';

/** The most bytes of one character in the text around an anchor, escaped and recoded. */
const WIDEST = 16;

/** A value, or a part of it, at a place of a text. */
export interface Match {
  start: number;
  end: number;
  /** From the outside inwards. */
  encoding: string[];
  characters: number;
  isWhole: boolean;
  /** The characters of the value that are there. */
  text: string;
}

/** A normal form of a value. */
interface Variant {
  characters: readonly string[];
  normal: string[];
  shift: number;
}

/** A value that is searched for by its anchors. */
export class AnchoredValue {
  readonly #variants: readonly Variant[];
  /** Bytes that a comparison may need before and after a hit. */
  readonly reach: number;
  /** Code points of the value. */
  readonly length: number;
  /** Its bytes, if no character of it begins an escape or has another normal form. */
  readonly plainCodes: Uint8Array | undefined;

  private constructor(
    readonly text: string,
    characters: readonly string[],
  ) {
    this.length = characters.length;
    this.reach = WIDEST * characters.length + 64;
    this.#variants = variantsOf(text, characters);
    const codes = Uint8Array.from(characters, (one) => one.charCodeAt(0));
    this.plainCodes = characters.every((one) => beginsNoEscape(one.codePointAt(0) ?? 0)) ? codes : undefined;
  }

  /** @param text has an anchor @param forms gets its own */
  static of(text: string, isThorough: boolean, forms: AnchorForms): AnchoredValue {
    const characters = [...text];
    forms.add(characters, isThorough);
    return new AnchoredValue(text, characters);
  }

  /** As {@link AnchoredValue.of}, by an anchor that ordinary text may have. @returns undefined if it has none either */
  static shortOf(text: string, forms: AnchorForms): AnchoredValue | undefined {
    const characters = [...text];
    return forms.addShort(characters) ? new AnchoredValue(text, characters) : undefined;
  }

  /**
   * The value around a hit of one of its forms: the whole value, or else the longest part of it.
   * @param text one character per byte; {@link reach} of them on both sides, as far as there are
   */
  match(form: AnchorForm, text: string, hit: { start: number; end: number }): Match | undefined {
    let best: Match | undefined;
    for (const { view, steps } of viewsOf(form, text, hit, this.reach))
      for (const { characters, normal, shift } of this.#variants) {
        if (view.at < 0) continue;
        const found = compareAround(characters, view.text, view.at, this.#indexIn(form.index, shift));
        if (found.characters === 0 || (best && best.characters >= found.characters)) continue;
        best = {
          ...matchOf(found, view, [...steps, ...found.encoding, ...normal], text),
          text: characters.slice(found.first, found.first + found.characters).join(''),
        };
        if (best.isWhole) return best;
      }
    return best;
  }

  /** The normal forms of the value, as code points. */
  get writings(): (readonly string[])[] {
    return this.#variants.map(({ characters }) => characters);
  }

  /** Where the form begins in a normal form of the value, in which characters before it may be more or fewer. */
  #indexIn(index: number, shift: number): number {
    return shift === 0 ? index : [...this.#prefix(index).normalize(shift === 1 ? 'NFC' : 'NFD')].length;
  }

  #prefix(index: number): string {
    return [...this.text].slice(0, index).join('');
  }
}

/** The text and its normal forms (Unicode Standard Annex 15), if they differ. */
function variantsOf(text: string, characters: readonly string[]): Variant[] {
  const all: Variant[] = [{ characters, normal: [], shift: 0 }];
  if (!/[^\0-\x7f]/.test(text)) return all;
  for (const [shift, form] of (['NFC', 'NFD'] as const).entries()) {
    const normal = text.normalize(form);
    if (normal !== text) all.push({ characters: [...normal], normal: [form.toLowerCase()], shift: shift + 1 });
  }
  return all;
}

function matchOf(found: Agreement, view: View, steps: readonly string[], text: string): Omit<Match, 'text'> {
  const [start, end] = [view.startOf(found.start), view.endOf(found.end)];
  const named = steps.flatMap((step) => (step === 'base64' ? base64Names(text.slice(start, end)) : [step]));
  // JSON in JSON is one encoding of strings; base64 of base64 is two.
  const encoding = named.filter((name, at) => name !== named[at - 1] || name.startsWith('base64'));
  return {
    start,
    end,
    encoding: encoding.length > 0 ? encoding : ['plain'],
    characters: found.characters,
    isWhole: found.isWhole,
  };
}

/** Base64 as it is written: in lines, in the alphabet for URLs, or with its characters escaped. */
function base64Names(written: string): string[] {
  if (/\s|\\[nrt]/.test(written)) return ['base64-lines'];
  if (/[-_]/.test(written)) return ['base64url'];
  if (written.includes('%')) return ['percent', 'base64'];
  if (written.includes('\\')) return ['js-string', 'base64'];
  return written.includes('&') ? ['html', 'base64'] : ['base64'];
}

/** The text around a hit as each of its possible encodings reads it, the most likely one first. */
function* viewsOf(
  { recoding }: AnchorForm,
  text: string,
  hit: { start: number; end: number },
  reach: number,
): Generator<{ view: View; steps: string[] }> {
  for (const { view, steps } of recoded(recoding, text, hit, reach)) {
    yield { view, steps };
    for (const nesting of nestings) {
      const inner = unnested(view.text, { start: view.at, end: view.at }, nesting);
      if (inner) yield { view: through(view, inner), steps: [...steps, nesting.name] };
    }
  }
}

function* recoded(
  recoding: AnchorForm['recoding'],
  text: string,
  hit: { start: number; end: number },
  reach: number,
): Generator<{ view: View; steps: string[] }> {
  switch (recoding.kind) {
    case 'text':
      yield { view: asWritten(text, hit), steps: [] };
      return;
    case 'hex':
      yield { view: inHex(text, hit, reach), steps: ['hex'] };
      return;
    case 'utf-16':
      for (const view of inUtf16(text, hit)) yield { view, steps: ['utf-16'] };
      return;
    case 'char-codes':
      for (const view of inNumbers(text, hit, reach)) yield { view, steps: ['char-codes'] };
      return;
    case 'base64': {
      let view = asWritten(text, hit);
      const steps: string[] = [];
      let found = hit;
      for (const lead of recoding.leads) {
        const decoded = inBase64View(view.text, found, lead, reach);
        view = steps.length === 0 ? decoded : through(view, decoded);
        found = { start: view.at, end: view.at };
        steps.push('base64');
      }
      if (!recoding.utf16) yield { view, steps };
      else
        for (const inner of inUtf16(view.text, found))
          yield { view: through(view, inner), steps: [...steps, 'utf-16'] };
    }
  }
}
