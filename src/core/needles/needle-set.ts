import { type ByteStrings, byteStrings } from './byte-strings.js';
import { type Anchor, asTheyAre, type Needle, needlesFor, type Sought, slicesOf, type WholeNeedle } from './index.js';
import { AnchorForms } from './tolerant/anchor-forms.js';
import { anchorsOf } from './tolerant/anchors.js';
import { AnchoredValue } from './tolerant/value.js';

/** Needles by their number. */
export interface Needles<Owner> {
  readonly length: number;
  at(needle: number): Needle<Owner> | undefined;
}

/** A value with its forms, up to one of them. */
interface OwnedForms<Owner> {
  end: number;
  anchor: Anchor;
  owners: Owner[];
}

/** Variables with one value, and how it is searched for. */
interface Owned<Owner> {
  owners: Owner[];
  isShort: boolean;
}

/**
 * The anchors of values that have one, whose surroundings are compared at each hit. There are thousands of forms, and few are hit,
 * so needles are made when they are asked for.
 */
export class AnchoredNeedles<Owner> implements Needles<Owner> {
  readonly #forms = new AnchorForms();
  readonly #values: OwnedForms<Owner>[] = [];
  /** Values without an anchor, or with a short one. */
  readonly others: readonly Sought<Owner>[];

  constructor(sought: Iterable<Sought<Owner>>) {
    const known = new Map<string, Owned<Owner>>();
    const others: Sought<Owner>[] = [];
    for (const one of sought) {
      const owned = one.asItStands ? undefined : this.#anchored(one, known);
      if (owned && !owned.owners.includes(one.owner)) owned.owners.push(one.owner);
      if (!owned || owned.isShort) others.push(one);
    }
    this.others = others;
  }

  get length(): number {
    return this.#forms.length;
  }

  get strings(): ByteStrings {
    return this.#forms.strings;
  }

  get values(): AnchoredValue[] {
    return this.#values.map(({ anchor }) => anchor.value);
  }

  at(needle: number): Needle<Owner> | undefined {
    const owned = this.#values[this.#valueOf(needle)];
    return owned && { encoding: asTheyAre, anchor: owned.anchor, form: this.#forms.at(needle), owners: owned.owners };
  }

  /** The value of a form, by binary search. */
  #valueOf(needle: number): number {
    let [low, high] = [0, this.#values.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.#values[middle] as OwnedForms<Owner>).end > needle) high = middle;
      else low = middle + 1;
    }
    return low;
  }

  /** The owners of a value, whose anchors are added once for all of them; undefined if it, or a piece of it, has none. */
  #anchored(one: Sought<Owner>, known: Map<string, Owned<Owner>>): Owned<Owner> | undefined {
    const key = `${one.isThorough ? 1 : 0}${one.value}`;
    const owned = known.get(key) ?? this.#added(one);
    if (owned) known.set(key, owned);
    return owned;
  }

  #added({ value, isThorough = false, acceptsPart }: Sought<Owner>): Owned<Owner> | undefined {
    const owners: Owner[] = [];
    const add = (anchor: Anchor) => this.#values.push({ end: this.#forms.length, anchor, owners });
    const slices = slicesOf(value);
    if (slices.every(hasAnchor)) {
      for (const text of slices) add({ value: AnchoredValue.of(text, isThorough, this.#forms), acceptsPart });
      return { owners, isShort: false };
    }
    const short = slices.length === 1 ? AnchoredValue.shortOf(value, this.#forms) : undefined;
    if (short) add({ value: short, isShort: true });
    return short && { owners, isShort: true };
  }
}

/** Needles for artifacts: first the anchors of values that have one, then all forms of the others. */
export class NeedleSet<Owner> implements Needles<Owner> {
  readonly anchors: AnchoredNeedles<Owner>;
  readonly #others: readonly WholeNeedle<Owner>[];
  readonly strings: ByteStrings;

  constructor(sought: Iterable<Sought<Owner>>) {
    this.anchors = new AnchoredNeedles(sought);
    this.#others = needlesFor(this.anchors.others);
    this.strings = byteStrings(
      this.#others.map(({ bytes }) => bytes),
      this.anchors.strings,
    );
  }

  get length(): number {
    return this.anchors.length + this.#others.length;
  }

  at(needle: number): Needle<Owner> | undefined {
    const { length } = this.anchors;
    return needle < length ? this.anchors.at(needle) : this.#others[needle - length];
  }
}

function hasAnchor(text: string): boolean {
  return anchorsOf([...text]).length > 0;
}
