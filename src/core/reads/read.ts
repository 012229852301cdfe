/** How code reads a value of the environment. */
export const readKinds = {
  member: 'a literal name, object.NAME',
  constant: 'a string key, object["NAME"]',
  key: 'a constant as key, const key = "NAME"; object[key]',
  computed: 'a computed name, object[expression]',
  destructured: 'destructured, const { NAME } = object',
  alias: 'an alias of the object, const e = object; e.NAME',
  import: 'imported from a module of the build tool',
  call: 'a call, object("NAME")',
  lookup: 'a name for a function of the project that looks it up, requireEnv("NAME")',
  schema: 'a key of a schema that checks the whole object, schema.parse(object)',
  placeholder: 'a placeholder in markup, %NAME%',
  whole: 'the whole object',
  spread: 'the object spread into another one',
  in: 'an existence check, "NAME" in object',
  assigned: 'an assignment, object.NAME = value',
} as const;
export type ReadKind = keyof typeof readKinds;

/** One place at which code reads the environment. Offsets are UTF-16 code units of the file, `end` excluded. */
export interface Read {
  kind: ReadKind;
  /** The name in the code, with its prefix; absent if it is not constant. */
  name?: string;
  /** Object of the read: `import.meta.env`, `process.env`, `String.fromEnvironment`, a module's name. */
  object: string;
  optional: boolean;
  /** The shorthand property that it is: `{ NAME }`. */
  isShorthand?: true;
  /** Tells whether an `assigned` name gets a value here whatever it was: `object.NAME = value`. */
  isSet?: true;
  /** Tells whether the read is a whole statement, which a string literal would turn into a directive. */
  isStatement?: true;
  /** Tells whether the alias that is read through may be another object by then: it, or a property of it, is written. */
  isUncertain?: true;
  /**
   * How the object is written, if not as its path: `process['env']`, `(process.env)`, `process?.env`, or with a comment or a line
   * break in it.
   */
  objectForm?: 'brackets' | 'parentheses' | 'pieces' | 'optional';
  /** Tells whether a member of the value follows: `object.NAME.length`. */
  isBeforeMember?: true;
  /** Tells whether the code runs only where there is a `process`: `typeof process !== "undefined" && process.env.NAME`. */
  isGuarded?: true;
  /** How code handles a missing value: it tests the value, or uses optional chaining. */
  goesOn?: 'tested' | 'chained';
  /** Tells whether code only tests that the whole object exists: as in `object && …`, or as in `typeof object`. */
  isTest?: '&&' | 'other';
  /** Tells whether a name is destructured by a parameter whose default is the object: `({ NAME } = object) => …`. */
  isOfParameter?: true;
  /** The whole read, and the part that findings point at: the name, or the object if there is none. */
  start: number;
  end: number;
  nameStart: number;
  nameEnd: number;
  /** The fallback for a missing value: `?? "text"`; the text only if it is a constant. */
  fallback?: { start: number; end: number; text?: string };
}

/** A module that a source text loads. */
export interface Import {
  specifier: string;
  start: number;
  end: number;
  isDynamic: boolean;
  /** How the code starts the module, if it does so by its address: `new URL('./sw.js', import.meta.url)`. */
  startedAs?: StartedAs;
}

/** Ways to start a script by its address: as a worker (a shared one too), as a service worker, or any other. */
export type StartedAs = 'worker' | 'service worker' | 'other';

/** An expression with an object of values that gets another name, or is destructured. */
export interface ObjectUse {
  start: number;
  end: number;
  object: string;
  /** Absent for another name of the object. */
  taken?: Taken;
}

/** The part of an object that a destructuring pattern takes. */
export interface Taken {
  /** Path of the object: `process.env`, or `process` around it. */
  path: string;
  /** The object of values that it is, as an entry of `reads`; absent for one that only contains such an object. */
  object?: string;
  /** Names of values. */
  names: string[];
  /** Objects of values below this one, by key. */
  below: Record<string, Taken>;
  /** Tells whether the pattern takes anything else of the object. */
  others: boolean;
}

/** Reads and imports of one source text. */
export interface FileReads {
  reads: Read[];
  imports: Import[];
  /** Where objects of values get another name or are destructured. */
  objectUses?: ObjectUse[];
  /** Statements that make the script's own names of objects known to a component's template. */
  aliases?: readonly string[];
  /** Why the text could be read only in part, or not at all. */
  problem?: { message: string; offset: number };
}

export const nothingRead: FileReads = { reads: [], imports: [] };

/** The names that code sets itself on the environment that a machine gives it. They are no variables of anybody else. */
export function namesSetIn(reads: Iterable<Read>): Set<string> {
  const set = [...reads].filter(({ isSet, object }) => isSet && object === 'process.env');
  return new Set(set.flatMap(({ name }) => name ?? []));
}
