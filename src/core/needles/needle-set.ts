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

/**
 * The anchors of values that have one, whose surroundings are compared at each hit. There are thousands of forms, and few are hit,
 * so needles are made when they are asked for.
 */
export class AnchoredNeedles<Owner> implements Needles<Owner> {
  readonly #forms = new AnchorForms();
  readonly #values: OwnedForms<Owner>[] = [];
  /** Needles whose values have no anchor. */
  readonly others: readonly Sought<Owner>[];

  constructor(sought: Iterable<Sought<Owner>>) {
    const known = new Map<string, Owner[]>();
    const others: Sought<Owner>[] = [];
    for (const one of sought) {
      const owners = one.asItStands ? undefined : this.#ownersOf(one, known);
      if (!owners) others.push(one);
      else if (!owners.includes(one.owner)) owners.push(one.owner);
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

  /** The owners of a value, whose anchors are added once for all of them; undefined if a piece of it has none. */
  #ownersOf(
    { value, isThorough = false, acceptsPart }: Sought<Owner>,
    known: Map<string, Owner[]>,
  ): Owner[] | undefined {
    const key = `${isThorough ? 1 : 0}${value}`;
    const twins = known.get(key);
    if (twins) return twins;
    const slices = slicesOf(value);
    if (slices.length > 1 && !slices.every(hasAnchor)) return undefined;
    const owners: Owner[] = [];
    for (const text of slices) {
      const anchored = AnchoredValue.of(text, isThorough, this.#forms);
      if (!anchored) return undefined;
      this.#values.push({ end: this.#forms.length, anchor: { value: anchored, acceptsPart }, owners });
    }
    known.set(key, owners);
    return owners;
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
