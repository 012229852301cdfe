import {
  eachOf,
  either,
  keyOf,
  known,
  mixed,
  nothing,
  type ObjectValue,
  type Origin,
  optionsOf,
  unknown,
  type Value,
} from './value.js';

/** A field, item or method of a value. @param at where code reads it */
export function member(object: Value, key: Value, at?: Origin): Value {
  return eachOf(object, (one) => eachOf(key, (name) => ofOne(one, name, at)));
}

function ofOne(object: Value, key: Value, at: Origin | undefined): Value {
  const name = keyOf(key);
  switch (object.kind) {
    case 'object':
      return fieldOf(object, name);
    case 'list':
      return itemOf(object, name);
    case 'environment':
      return variableOf(object, name, at);
    case 'foreign':
      return ofForeign(`${object.name}.${name ?? '*'}`, at);
    case 'known':
      return typeof object.value === 'string' && name === 'length' ? known(object.value.length) : nothing;
    default:
      return mixed([object]);
  }
}

function fieldOf({ fields, others, spread }: ObjectValue, name: string | undefined): Value {
  if (name === undefined) return either([...fields.values(), ...others, ...spread.map((one) => mixed([one])), nothing]);
  const own = fields.get(name);
  if (own) return own;
  const elsewhere = [...others, ...spread.map((one) => member(one, known(name)))];
  return elsewhere.length > 0 ? either([...elsewhere, nothing]) : nothing;
}

function itemOf({ items, isOpen }: Extract<Value, { kind: 'list' }>, name: string | undefined): Value {
  if (name === 'length') return isOpen ? unknown : known(items.length);
  const own = name === undefined ? undefined : items[Number(name)];
  return own ?? (name === undefined || isOpen ? either([...items, unknown]) : nothing);
}

function variableOf(
  { prefixes, at: loaded }: Extract<Value, { kind: 'environment' }>,
  name: string | undefined,
  at = loaded,
): Value {
  if (name === undefined) return { kind: 'environment', prefixes, at };
  // A loader may return the variables one level deeper.
  if (name === 'parsed') return { kind: 'environment', prefixes, at: loaded };
  if (!prefixes.some((prefix) => name.startsWith(prefix))) return nothing;
  return { kind: 'opaque', carries: new Map([[name, at]]) };
}

const environments = /^process\.env$|\.config\(\)\.parsed$/;

function ofForeign(name: string, at: Origin | undefined): Value {
  if (!environments.test(name)) return { kind: 'foreign', name };
  return { kind: 'environment', prefixes: [''], at: at ?? { path: '', start: 0, end: 0 } };
}

/** Writes a field. Below more unknown conditions than at the object's making, the old value may stay. */
export function setField(object: ObjectValue, key: Value, value: Value, at: Origin, unsure: number): void {
  for (const one of optionsOf(key)) {
    const name = keyOf(one);
    if (name === undefined) {
      object.others.push(value);
      continue;
    }
    const old = object.fields.get(name);
    const mayStay = old !== undefined && unsure > object.born;
    object.fields.set(name, mayStay ? either([old, value]) : value);
    object.places.set(name, at);
  }
}

/** `{ ...source }`: what is spread comes after the fields before it. */
export function spreadInto(target: ObjectValue, source: Value): void {
  const choices = optionsOf(source);
  for (const one of choices) {
    if (one.kind === 'known') continue;
    if (one.kind !== 'object') {
      for (const [name, old] of target.fields) target.fields.set(name, either([old, member(one, known(name))]));
      target.spread.push(one);
      continue;
    }
    for (const [name, value] of one.fields) {
      const old = target.fields.get(name);
      target.fields.set(name, old && choices.length > 1 ? either([old, value]) : value);
      const place = one.places.get(name);
      if (place) target.places.set(name, place);
    }
    target.others.push(...one.others);
    target.spread.push(...one.spread);
  }
}

/** The result of a binary operator. A comparison tells nothing about the values of the environment. */
export function operate(operator: string, left: Value, right: Value): Value {
  if (left.kind === 'choice' || right.kind === 'choice')
    return eachOf(left, (one) => eachOf(right, (other) => operate(operator, one, other)));
  if (left.kind === 'known' && right.kind === 'known') return calculated(operator, left.value, right.value);
  return operator === '+' ? mixed([left, right]) : unknown;
}

type Constant = Extract<Value, { kind: 'known' }>['value'];

function calculated(operator: string, left: Constant, right: Constant): Value {
  const [one, other] = [left as number, right as number];
  switch (operator) {
    case '+':
      return known(one + other);
    case '-':
      return known(one - other);
    case '*':
      return known(one * other);
    case '/':
      return known(one / other);
    case '%':
      return known(one % other);
    case '===':
      return known(left === right);
    case '!==':
      return known(left !== right);
    case '==':
      return known((left ?? null) === (right ?? null) || String(left) === String(right));
    case '!=':
      return known((left ?? null) !== (right ?? null) && String(left) !== String(right));
    case '<':
      return known(one < other);
    case '<=':
      return known(one <= other);
    case '>':
      return known(one > other);
    case '>=':
      return known(one >= other);
    default:
      return unknown;
  }
}
