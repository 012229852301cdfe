/** Where code reads a value. Offsets are UTF-16 code units. */
export interface Origin {
  path: string;
  start: number;
  end: number;
}

/**
 * Names of the environment whose values something may contain, each with the place that reads it. `PREFIX_*` stands for all
 * names with a prefix, `*` for the whole environment, and {@link SOME} for a part of it that only a build knows.
 */
export type Carried = ReadonlyMap<string, Origin>;

/** The value of an expression in a configuration, as far as the text tells: the configuration is never run. */
export type Value =
  | { kind: 'known'; value: string | number | bigint | boolean | RegExp | null | undefined }
  /** Anything, with the values of these names in it. */
  | { kind: 'opaque'; carries: Carried }
  | ObjectValue
  | ListValue
  | FunctionValue
  /** Something of another module or of the platform: `path.join`, `process`. */
  | { kind: 'foreign'; name: string }
  /** The variables with one of these prefixes. @see Carried */
  | { kind: 'environment'; prefixes: readonly string[]; at: Origin }
  | { kind: 'json'; of: Value }
  /** One of several, depending on what is not known. */
  | { kind: 'choice'; of: readonly Value[] };

export interface ObjectValue {
  kind: 'object';
  fields: Map<string, Value>;
  /** Where each field was written. */
  places: Map<string, Origin>;
  /** Values of fields whose names are not known. */
  others: Value[];
  /** Objects whose fields are here as well, known or not. */
  spread: Value[];
  /** How many unknown conditions were around its making: below more of them, a change may happen or not. */
  born: number;
}

export interface ListValue {
  kind: 'list';
  items: Value[];
  /** Tells whether there may be more items than these. */
  isOpen: boolean;
}

export interface FunctionValue {
  kind: 'function';
  call(args: readonly Value[]): Value;
}

export const known = (value: Extract<Value, { kind: 'known' }>['value']): Value => ({ kind: 'known', value });
export const nothing: Value = known(undefined);
export const unknown: Value = { kind: 'opaque', carries: new Map() };
export const listOf = (items: Value[], isOpen = false): ListValue => ({ kind: 'list', items, isOpen });

/** An object with these fields. */
export function objectOf(fields: Iterable<readonly [string, Value]>, born = 0): ObjectValue {
  return { kind: 'object', fields: new Map(fields), places: new Map(), others: [], spread: [], born };
}

/** Any text with these values in it. */
export function mixed(values: readonly Value[]): Value {
  return { kind: 'opaque', carries: carriedBy(values) };
}

/** A part of the environment, or of an env file's text, that only a build knows. No name of a variable has this character. */
export const SOME = '?';

/** Any part of the text of these values. */
export function someOf(values: readonly Value[]): Value {
  const carries = [...carriedBy(values)].map(([name, at]) => [name === '*' ? SOME : name, at] as const);
  return { kind: 'opaque', carries: new Map(carries) };
}

/** More alternatives than this are not kept apart. */
const MOST_CHOICES = 24;

/** One of several values. */
export function either(values: readonly Value[]): Value {
  const all = [...new Set(values.flatMap((one) => (one.kind === 'choice' ? one.of : [one])))];
  const distinct = all.filter(
    (one, at) =>
      all.findIndex((other) => other === one || (isKnown(one) && isKnown(other) && one.value === other.value)) === at,
  );
  const [first] = distinct;
  if (first && distinct.length === 1) return first;
  if (distinct.length > MOST_CHOICES) return mixed(distinct);
  return distinct.length === 0 ? nothing : { kind: 'choice', of: distinct };
}

function isKnown(value: Value): value is Extract<Value, { kind: 'known' }> {
  return value.kind === 'known';
}

/** Applies a function to each alternative. */
export function eachOf(value: Value, apply: (one: Value) => Value): Value {
  return value.kind === 'choice' ? either(value.of.map(apply)) : apply(value);
}

/** The alternatives of a value. */
export function optionsOf(value: Value): readonly Value[] {
  return value.kind === 'choice' ? value.of : [value];
}

/** The text of a known string. */
export function textOf(value: Value | undefined): string | undefined {
  return value?.kind === 'known' && typeof value.value === 'string' ? value.value : undefined;
}

/** The name of a field: strings and numbers are known. */
export function keyOf(value: Value): string | undefined {
  return value.kind === 'known' && !(value.value instanceof RegExp) ? String(value.value) : undefined;
}

/** Tells whether a condition holds; undefined if that is not known. */
export function truth(value: Value): boolean | undefined {
  switch (value.kind) {
    case 'known':
      return Boolean(value.value);
    case 'opaque':
    case 'foreign':
      return undefined;
    case 'choice': {
      const all = new Set(value.of.map(truth));
      return all.size === 1 ? [...all][0] : undefined;
    }
    default:
      return true;
  }
}

/** Every name of the environment whose value is in one of these. */
export function carriedBy(values: readonly Value[]): Carried {
  const found = new Map<string, Origin>();
  const seen = new Set<Value>();
  const left = [...values];
  for (let value = left.pop(); value; value = left.pop()) {
    if (seen.has(value)) continue;
    seen.add(value);
    if (value.kind === 'opaque') for (const [name, at] of value.carries) found.set(name, at);
    else if (value.kind === 'environment') for (const prefix of value.prefixes) found.set(`${prefix}*`, value.at);
    else left.push(...partsOf(value));
  }
  return found;
}

function partsOf(value: Value): readonly Value[] {
  switch (value.kind) {
    case 'object':
      return [...value.fields.values(), ...value.others, ...value.spread];
    case 'list':
      return value.items;
    case 'json':
      return [value.of];
    case 'choice':
      return value.of;
    default:
      return [];
  }
}

/** Tells whether a list, or the fields of an object, are not all known. */
export function isOpen(value: Value): boolean {
  if (value.kind === 'object') return value.others.length > 0 || value.spread.length > 0;
  if (value.kind === 'json') return isOpen(value.of);
  if (value.kind === 'choice') return value.of.some(isOpen);
  return value.kind === 'list' ? value.isOpen : !/^(known|function)$/.test(value.kind);
}
