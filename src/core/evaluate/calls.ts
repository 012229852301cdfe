import { posix } from 'node:path';
import { member, setField, spreadInto } from './operations.js';
import {
  eachOf,
  either,
  isOpen,
  keyOf,
  known,
  type ListValue,
  listOf,
  mixed,
  nothing,
  type Origin,
  objectOf,
  optionsOf,
  someOf,
  textOf,
  truth,
  unknown,
  type Value,
} from './value.js';

/** The part of the interpreter that a call needs. */
export interface Caller {
  call(callee: Value, args: readonly Value[], at: Origin): Value;
  passOn(args: readonly Value[]): void;
  /** Notes that functions are called as often as they are, which may be never. */
  settle(args: readonly Value[]): void;
  /** Notes that the configuration loads an env file. */
  loaded(path: string, at: Origin): void;
  /** The exports of a module, as `require` returns them. */
  required(specifier: Value, from: string): Value;
  maybe<Result>(action: () => Result): Result;
  readonly unsure: number;
  /** The names that the environment is known to have. */
  readonly names: readonly string[];
}

type Call = (caller: Caller, args: readonly Value[], at: Origin) => Value;

/** Functions of the platform that configurations use. One line each; others are foreign. */
const functions: Readonly<Record<string, Call>> = {
  'JSON.stringify': (_, [of = nothing]) =>
    of.kind === 'known' ? known(JSON.stringify(of.value)) : { kind: 'json', of },
  'JSON.parse': (_, [of = nothing]) => eachOf(of, (one) => (one.kind === 'json' ? one.of : mixed([one]))),
  String: (_, [of = nothing]) => eachOf(of, (one) => (one.kind === 'known' ? known(String(one.value)) : mixed([one]))),
  Boolean: (_, [of = nothing]) => {
    const holds = truth(of);
    return holds === undefined ? unknown : known(holds);
  },
  Number: (_, [of = nothing]) => (of.kind === 'known' ? known(Number(of.value)) : mixed([of])),
  'Object.keys': ({ names }, [of = nothing]) => listFrom(names, of, (name) => known(name)),
  'Object.values': ({ names }, [of = nothing], at) => listFrom(names, of, (name) => member(of, known(name), at)),
  'Object.entries': ({ names }, [of = nothing], at) =>
    listFrom(names, of, (name) => listOf([known(name), member(of, known(name), at)])),
  'Object.fromEntries': (caller, [of = nothing], at) => fromEntries(caller, of, at),
  'Object.assign': (_, [target = nothing, ...sources]) => {
    for (const one of optionsOf(target)) if (one.kind === 'object') for (const from of sources) spreadInto(one, from);
    return target;
  },
  'Object.freeze': (_, [of = nothing]) => of,
  'Promise.resolve': (_, [of = nothing]) => of,
  'Array.from': (_, [of = nothing]) => of,
  'Array.isArray': (_, [of = nothing]) => (of.kind === 'opaque' ? unknown : known(of.kind === 'list')),
  Set: (_, [of = listOf([])]) => of,
  // A map is the list of its entries.
  Map: (_, [of = listOf([])]) => of,
  encodeURIComponent: (_, [of = nothing]) => mixed([of]),
  btoa: (_, [of = nothing]) => mixed([of]),
  'Buffer.from': (_, [of = nothing]) => mixed([of]),
  URL: (_, [of = nothing, base]) => urlOf(of, base),
  fileURLToPath: (_, args) => args[0] ?? unknown,
  'url.fileURLToPath': (_, args) => args[0] ?? unknown,
  require: (caller, [specifier = nothing], { path }) => caller.required(specifier, path),
  'module.createRequire': () => ({ kind: 'foreign', name: 'require' }),
  'process.cwd': () => known('.'),
  'path.join': (_, args) => joinedPath(args),
  'path.resolve': (_, args) => joinedPath(args),
  'path.dirname': (_, [of = nothing]) => eachOf(of, (one) => pathOf(one, posix.dirname)),
  'fs.realpathSync': (_, [of = nothing]) => of,
  'fs.existsSync': () => unknown,
  'fs.statSync': () => unknown,
};

/** Calls a function that is not the configuration's own. The result of one that is not known is its own. */
export function callForeign(caller: Caller, name: string, args: readonly Value[], at: Origin): Value {
  const plain = name.replace(/^fs-extra\./, 'fs.').replace(/^path\/posix\./, 'path.');
  const own = Object.hasOwn(functions, plain) ? functions[plain] : undefined;
  if (own) return own(caller, args, at);
  const path = envFileOf(name, args);
  const isOfFiles = /^fs[./]/.test(plain);
  if (path !== undefined && (!isOfFiles || /readFile/.test(plain))) {
    // A text that was read is not in the environment, whatever the configuration makes of it.
    if (!isOfFiles) caller.loaded(path, at);
    return { kind: 'environment', prefixes: [''], at };
  }
  caller.passOn(args);
  return { kind: 'foreign', name: `${name}()` };
}

/**
 * The env file that a foreign function loads: one with its name among the arguments, or the usual one. The shape of a call tells,
 * not the name of a package.
 */
function envFileOf(name: string, args: readonly Value[]): string | undefined {
  const values = args.flatMap((one) => (one.kind === 'object' ? [...one.fields.values()] : [one]));
  const path = values.map(textOf).find((text) => /(^|\/)\.env(\.[\w.-]+)?$/.test(text ?? ''));
  const isUsual = name === 'process.loadEnvFile' || /^[\w@/-]*env[\w/-]*(\.default)?\.config$/i.test(name);
  return path ?? (isUsual && values.length === 0 ? '.env' : undefined);
}

function joinedPath(args: readonly Value[]): Value {
  const open = args.findIndex(({ kind }) => kind === 'choice');
  if (open >= 0) return eachOf(args[open] as Value, (one) => joinedPath(args.with(open, one)));
  const texts = args.map((one) => keyOf(one));
  return texts.every((one) => one !== undefined) ? known(posix.normalize(texts.join('/'))) : mixed(args);
}

/** A URL of the file system, as a path; any other as it is. */
function urlOf(of: Value, base: Value | undefined): Value {
  const [text, from] = [textOf(of), base && textOf(base)];
  return text === undefined || from === undefined || /^\w+:/.test(text)
    ? of
    : known(posix.join(posix.dirname(from), text));
}

function pathOf(value: Value, change: (path: string) => string): Value {
  const text = textOf(value);
  return text === undefined ? mixed([value]) : known(change(text));
}

/** A list with one item for each field of an object. @param names that the environment is known to have */
function listFrom(names: readonly string[], object: Value, item: (name: string) => Value): Value {
  return eachOf(object, (one) => {
    if (one.kind === 'environment') {
      const own = names.filter((name) => one.prefixes.some((prefix) => name.startsWith(prefix)));
      // A name that stands for all others, so that conditions on names hold for it or not.
      return listOf([...own, ...one.prefixes.map((prefix) => `${prefix}*`)].map(item));
    }
    if (one.kind === 'list')
      return listOf(
        one.items.map((_, index) => item(String(index))),
        one.isOpen,
      );
    if (one.kind !== 'object') return listOf([mixed([one])], true);
    const spread = one.spread.flatMap((inner) => optionsOf(listFrom(names, inner, item)));
    const more = spread.flatMap((inner) => (inner.kind === 'list' ? inner.items : []));
    return listOf([...[...one.fields.keys()].map(item), ...more], isOpen(one));
  });
}

function fromEntries({ unsure }: Caller, entries: Value, at: Origin): Value {
  const made = objectOf([], unsure);
  for (const list of optionsOf(entries)) {
    if (list.kind !== 'list' || list.isOpen) made.spread.push(mixed([list]));
    for (const one of list.kind === 'list' ? list.items : [])
      setField(made, member(one, known('0')), member(one, known('1')), at, unsure);
  }
  return made;
}

/** Calls a method of a value that is no object of the configuration. */
export function callMethod(caller: Caller, object: Value, name: string, args: readonly Value[], at: Origin): Value {
  if (name === 'then') return caller.call(args[0] ?? nothing, [object], at);
  if (name === 'toString' || name === 'valueOf') return object;
  if (object.kind === 'list') return ofList(caller, object, name, args, at);
  if (object.kind === 'known') return ofConstant(object.value, name, args);
  caller.passOn(args);
  if (object.kind === 'function' && /^(call|apply|bind)$/.test(name)) return caller.call(object, args.slice(1), at);
  if (name === 'split' || name === 'match') return listOf([someOf([object])], true);
  return sameText.test(name) ? someOf([object, ...args]) : unknown;
}

/** Methods whose result has the text, or a part of it. */
const sameText =
  /^(trim\w*|slice|substr(ing)?|concat|replace(All)?|to(Locale)?(Lower|Upper)Case|pad\w+|at|charAt|normalize|repeat|toString|join|map|filter|flat|flatMap|find|reduce|pop|shift|get)$/;

/** Methods of strings that are pure, and end. */
const pure =
  /^(startsWith|endsWith|includes|indexOf|lastIndexOf|trim\w*|slice|substr(ing)?|concat|replace(All)?|to(Lower|Upper)Case|padStart|padEnd|at|charAt|test)$/;

type Constant = Extract<Value, { kind: 'known' }>['value'];

function ofConstant(object: Constant, name: string, args: readonly Value[]): Value {
  const values = args.map((one) => (one.kind === 'known' ? one.value : undefined));
  const isKnown = args.every(({ kind }) => kind === 'known');
  if (object instanceof RegExp)
    return isKnown && name === 'test' ? known(new RegExp(object).test(String(values[0]))) : unknown;
  if (typeof object !== 'string') return unknown;
  if (!isKnown) return sameText.test(name) ? mixed(args) : unknown;
  if (name === 'split') return listOf(object.split(values[0] as string).map(known));
  if (name === 'match') return object.match(values[0] as RegExp) ? listOf([], true) : known(null);
  if (!pure.test(name)) return unknown;
  const method = object[name as 'slice'] as ((...all: unknown[]) => string) | undefined;
  return method ? known(method.apply(object, values)) : unknown;
}

type OfList = (caller: Caller, list: ListValue, args: readonly Value[], at: Origin) => Value;

/** Calls a function with each item, and once with an unknown one if there may be more. */
function eachItem(caller: Caller, list: ListValue, callback: Value, at: Origin): Value[] {
  const results = list.items.map((item, index) => caller.call(callback, [item, known(index), list], at));
  if (list.isOpen) caller.maybe(() => results.push(caller.call(callback, [unknown, unknown, list], at)));
  return results;
}

const listMethods: Readonly<Record<string, OfList>> = {
  map: (caller, list, [callback = nothing], at) => listOf(eachItem(caller, list, callback, at), list.isOpen),
  forEach: (caller, list, [callback = nothing], at) => {
    eachItem(caller, list, callback, at);
    return nothing;
  },
  flatMap: (caller, list, [callback = nothing], at) =>
    flattened(listOf(eachItem(caller, list, callback, at), list.isOpen)),
  flat: (_, list) => flattened(list),
  filter: (caller, list, [callback = nothing], at) => {
    const kept = list.items.map((item) => truth(caller.call(callback, [item], at)));
    return listOf(
      list.items.filter((_, index) => kept[index] !== false),
      list.isOpen,
    );
  },
  find: (caller, list, [callback = nothing], at) => {
    const kept = list.items.filter((item) => truth(caller.call(callback, [item], at)) !== false);
    return either([...kept, nothing]);
  },
  reduce: (caller, list, [callback = nothing, start], at) => {
    const first = start ?? list.items[0] ?? unknown;
    const step = (sum: Value, item: Value, index: number) => caller.call(callback, [sum, item, known(index), list], at);
    const sum = list.items.slice(start ? 0 : 1).reduce((before, item, index) => step(before, item, index), first);
    return list.isOpen ? either([sum, caller.maybe(() => step(sum, unknown, list.items.length))]) : sum;
  },
  some: (caller, list, [callback = nothing], at) => {
    const found = list.items.map((item) => truth(caller.call(callback, [item], at)));
    if (found.includes(true)) return known(true);
    return list.isOpen || found.includes(undefined) ? unknown : known(false);
  },
  includes,
  has: includes,
  concat: (_, list, args) => flattened(listOf([list, ...args])),
  entries: same,
  keys: (_, { items, isOpen }) =>
    listOf(
      items.map((one) => member(one, known('0'))),
      isOpen,
    ),
  get: (_, { items, isOpen }, [key = nothing]) => {
    const wanted = keyOf(key);
    const found = items.filter((one) => wanted === undefined || keyOf(member(one, known('0'))) === wanted);
    return either([...found.map((one) => member(one, known('1'))), ...(isOpen || found.length === 0 ? [nothing] : [])]);
  },
  set: (_, list, [key = nothing, value = nothing]) => {
    list.items.push(listOf([key, value]));
    return list;
  },
  push: added,
  unshift: added,
  add: added,
  sort: same,
  toSorted: same,
  reverse: same,
  values: same,
  slice: (_, list, [from = known(0), to]) =>
    from.kind === 'known' && (!to || to.kind === 'known')
      ? listOf(list.items.slice(Number(from.value), to ? Number(to.value) : undefined), list.isOpen)
      : list,
  join: (_, list, [by = known(',')]) => {
    const texts = list.items.map(keyOf);
    const isKnown = !list.isOpen && texts.every((one) => one !== undefined);
    return isKnown ? known(texts.join(keyOf(by))) : mixed(list.items);
  },
};

function added(_: Caller, list: ListValue, args: readonly Value[]): Value {
  list.items.push(...args);
  return unknown;
}

function same(_: Caller, list: ListValue): Value {
  return list;
}

function includes(_: Caller, { items, isOpen }: ListValue, [of = nothing]: readonly Value[]): Value {
  const wanted = keyOf(of);
  const keys = items.map(keyOf);
  if (wanted === undefined) return unknown;
  if (keys.includes(wanted)) return known(true);
  return isOpen || keys.includes(undefined) ? unknown : known(false);
}

function ofList(caller: Caller, list: ListValue, name: string, args: readonly Value[], at: Origin): Value {
  const own = Object.hasOwn(listMethods, name) ? listMethods[name] : undefined;
  if (own) {
    caller.settle(args);
    return own(caller, list, args, at);
  }
  caller.passOn(args);
  return mixed([list]);
}

function flattened(list: ListValue): ListValue {
  const open = list.items.some((one) => one.kind !== 'known' && (one.kind !== 'list' || one.isOpen));
  return listOf(
    list.items.flatMap((one) => (one.kind === 'list' ? one.items : [one])),
    list.isOpen || open,
  );
}
