import { byteSize, count, grouped } from '../text/display.js';
import { joinWords } from '../text/nearest.js';
import { type Recorded, wholeValueText } from './recorded.js';
import { run, steps } from './remedy.js';
import { partText, type ValuePart } from './value-part.js';
import { words } from './words.js';

/** Names in a list. */
const MOST_NAMES = 3;

/** A shipped file that is not code that runs: how a message names it, and what takes a value out of it. */
const fileKinds = {
  map: {
    named: 'source map',
    fix: 'remove the value from the source, or keep source maps out of what ships',
  },
  test: {
    named: 'test file',
    fix: 'remove the value from the test, and keep tests out of what ships',
  },
  page: {
    named: 'page',
    fix: "remove the value from the page's source, or from the data that it is rendered from",
  },
  data: {
    named: 'data file',
    fix: 'remove the value from the data that this file is built from',
  },
} as const;
export type FileKind = keyof typeof fileKinds;

/** A value of the contract in an artifact. */
export interface Value {
  variable: string;
  reach: string;
  part?: ValuePart | undefined;
  /** Number of the value's characters in the part, and of all its characters. */
  amount?: { found: number; all: number } | undefined;
  /** The file that the value is from, if it is not a layer of any stage. */
  file?: string | undefined;
  /** Number of further places in the file, which are not listed one by one. */
  more?: number | undefined;
  /** For a value that only the history has. */
  recorded?: Recorded | undefined;
}

/** `the value of KEY`, `the password (part of the value of KEY)`. */
function valueText({
  variable,
  part,
  amount,
  recorded,
}: Pick<Value, 'variable' | 'part' | 'amount' | 'recorded'>): string {
  const whole = wholeValueText(variable, recorded);
  if (!part) return whole;
  // Only some stretches of a recorded value are known.
  const least = recorded ? 'at least ' : '';
  return `${amount ? `${least}${amount.found} of ${amount.all} characters` : partText(part)} (part of ${whole})`;
}

function contains(value: Value, kind: 'variable' | 'setting' = 'variable'): string {
  const { reach, file } = value;
  const origin = file === undefined ? '' : `; the value is from ${file}, which is not a layer of any stage`;
  return `contains ${valueText(value)}, a ${reach}-only ${kind}${origin}${moreText(value)}`;
}

function moreText({ more }: Pick<Value, 'more'>): string {
  return more === undefined ? '' : `, in ${count(more, 'more place')} of this file`;
}

export type Shipped = Value & {
  kind?: FileKind | undefined;
  /** The file and line of the bundle's own code that has the value, if one has. */
  source?: string | undefined;
};

function shipped(value: Shipped): string {
  return `${value.kind ? `a ${fileKinds[value.kind].named} ` : ''}${contains(value)}`;
}

const rotate = 'then rotate the key: assume it is known';
const fromServer = "read it from the server's environment when it starts, so that no file contains it";

/** Both codes about a value that must not be in an artifact say the same; the one is about its parts. */
const valueVariants = {
  shipped: (f: Shipped) => {
    const code = f.reach === 'build' ? 'use the value in build scripts only' : 'move the read into server code';
    if (f.recorded)
      return {
        message: shipped(f),
        remedy:
          'remove it from what ships, and rebuild or withdraw the artifact; make sure that whoever issued the value no longer accepts it',
      };
    const fix = f.kind ? fileKinds[f.kind].fix : f.source === undefined ? code : `remove it from ${f.source}`;
    return {
      message: shipped(f),
      remedy: `${fix}, rebuild, ${rotate}. If it is not a secret, declare it public or set \`search: never\``,
    };
  },
  'in-env-file': (f: Shipped) => ({
    message: shipped(f),
    remedy: 'remove the env file from what ships, rebuild, then rotate every value in it: assume they are known',
  }),
  'left-over': (f: Shipped & { output: string }) => ({
    message: shipped(f),
    remedy: `the last build did not write this file: empty ${f.output}, rebuild, ${rotate}`,
  }),
  'on-server': (f: Value) => ({ message: `a server file ${contains(f)}`, remedy: fromServer }),
  'in-cache': (f: Value) => ({
    message: `a build cache ${contains(f)}`,
    remedy: 'delete the cache, and do not let a pipeline store it between runs',
  }),
  'left-over-on-server': (f: Value & { output: string }) => ({
    message: `a server file ${contains(f)}`,
    remedy: `the last build did not write this file: empty ${f.output}, rebuild, ${rotate}`,
  }),
} as const;

/** Words about a whole value. An answer of an API says the same under a code of its own. */
export const knownValue = {
  ...valueVariants,
  'file-name': ({ variable, reach }: { variable: string; reach: string }) => ({
    message: `the name of this file contains the value of ${variable}, a ${reach}-only variable`,
    remedy: `find the build step that names the file, rebuild, ${rotate}`,
  }),
} as const;

/** Text that is in several files, and is reported once. */
export interface InFiles {
  files?: number | undefined;
}

function filesText({ files }: InFiles): string {
  return files === undefined ? '' : `, in ${count(files, 'file')}`;
}

export type Setting = Value & InFiles;

function setting(f: Setting): string {
  return contains(f, 'setting') + filesText(f);
}

function token({
  shape,
  characters,
  details,
}: {
  shape: string;
  characters: number;
  details: readonly string[];
}): string {
  return `contains ${shape} (${[`${grouped(characters)} characters`, ...details].join(', ')}) that the contract does not have`;
}

function some(names: readonly string[]): string {
  const more = names.length - MOST_NAMES;
  return joinWords([...names.slice(0, MOST_NAMES), ...(more > 0 ? [`${more} more`] : [])]);
}

export const leakWords = words({
  'leak/known-value': {
    meaning: 'an artifact contains the value of a build or server variable',
    help: 'Everybody who has the artifact has the value, in whatever encoding. Remove it, or the read of it, from code that ships, rebuild, and rotate the value: assume that it has been known since the artifact first shipped.',
    variants: knownValue,
  },
  'leak/part-of-value': {
    meaning: 'an artifact contains a part of a build or server value that is often used alone',
    help: 'Such parts are the user name and password of a URL, the strings of a JSON document, the lines of a key, the last part of a token, and a long beginning or end of a value. Fix it as a whole value. With `secret-parts: false` in the contract, only whole values of a variable are searched for.',
    variants: valueVariants,
  },
  'leak/setting': {
    meaning: 'an artifact contains a build or server value that grants no access',
    help: 'Examples: a host name, a path, a locale, a plain word. Such text may have another origin, so each variable is reported once. Declare it public if browsers may know it, set `search: always` if it is a secret, or `search: never` to ignore it.',
    variants: {
      shipped: (f: Setting) => ({
        message: setting(f),
        remedy: 'declare it public if browsers may know it, or set `search: always` if it is a secret',
      }),
      'in-env-file': (f: Setting) => ({
        message: setting(f),
        remedy: 'remove the env file from what ships, and rebuild',
      }),
      'left-over': (f: Setting & { output: string }) => ({
        message: setting(f),
        remedy: `the last build did not write this file: empty ${f.output} and rebuild`,
      }),
    },
  },
  'leak/token-shape': {
    meaning: 'an artifact contains a token of a known form that the contract does not have',
    help: 'The forms are those of public services and of general kinds: private keys, connection strings, signed web tokens. A secret one was hard-coded, or came from a variable that the contract does not declare: take it out of what ships, and revoke it at its service. A publishable one is a note: declare it public, so that each stage has its own.',
    variants: {
      secret: (f: { shape: string; characters: number; details: readonly string[] }) => ({
        message: token(f),
        remedy: 'find where it is written, remove it, rebuild, then revoke it at its service: assume it is known',
      }),
      'on-server': (f: { shape: string; characters: number; details: readonly string[] }) => ({
        message: token(f),
        remedy: fromServer,
      }),
      publishable: (f: { shape: string; characters: number; details: readonly string[] }) => ({
        message: token(f),
        remedy: 'declare it public, so that its value is checked in every stage',
      }),
    },
  },
  'leak/random-text': {
    meaning: 'an artifact contains text that looks like a key, beside a name that says so',
    help: 'Nothing but its characters and the name beside it says that it is a secret, so this is a warning. If it is one, remove it from the build output and rotate it. If it may be public, declare it as a public variable.',
    variants: {
      named: ({ characters }: { characters: number }) => ({
        message: `contains ${characters} characters that look like a key, after a name that says so`,
        remedy: 'if it is a secret, remove it from the build output and rotate it; if not, declare it public',
      }),
    },
  },
  'leak/env-file': {
    meaning: 'an artifact is or contains an env file',
    help: 'It was copied with other files, imported as text, or packed into an app. Find what does that (a public folder, an asset rule, an import with `?raw`), and remove it from what ships. Then rotate every secret in it.',
    variants: {
      file: ({ number, onServer }: { number: number; onServer: boolean }) => ({
        message: `is an env file with ${count(number, 'value')}`,
        remedy: leaveOut(onServer),
      }),
      lines: ({ names, onServer }: { names: readonly string[]; onServer: boolean }) => ({
        message: `contains the lines of an env file: ${some(names)}`,
        remedy: leaveOut(onServer),
      }),
    },
  },
  'leak/private-file': {
    meaning: 'an artifact is or contains a file that nobody outside may have',
    help: 'Key stores, private keys and files of credentials are errors; repositories and directories of editors are warnings, because some projects publish from one. A public folder or an asset rule copied it. Exclude it there. Whoever has a key can act as its owner, so replace it.',
    variants: {
      secret: ({ what, name }: { what: string; name: string }) => ({
        message: `is ${what}`,
        remedy: `${exclude(name)}; then replace what it grants access to: assume it is known`,
      }),
      private: ({ what, name }: { what: string; name: string }) => ({ message: `is ${what}`, remedy: exclude(name) }),
    },
  },
  'leak/env-dump': {
    meaning: 'an artifact contains the environment of the build',
    help: 'A define option or a plugin was given all of `process.env`, so every secret of the build machine may be in it. Name single variables instead, rebuild, and rotate the secrets.',
    variants: {
      object: ({ names }: { names: readonly string[] }) => ({
        message: `contains the environment of the build: ${some(names)}`,
        remedy:
          'give the build single names, not all of `process.env` (in `define` or a plugin), rebuild, then rotate every secret that the build machine had',
      }),
    },
  },
  'leak/name': {
    meaning: 'code for browsers contains the name of a build or server variable',
    help: 'The bundle has the name but not the value; the name tells readers what the server uses. Code that only a server needs should not be in the bundle.',
    variants: {
      name: (f: InFiles & { variable: string }) => ({
        message: `contains the name ${f.variable}, a variable that only a server or the build reads${filesText(f)}`,
        remedy: 'remove the code that mentions it from what ships, if browsers do not need it',
      }),
    },
  },
  'leak/build-machine': {
    meaning: 'an artifact contains the path of a directory of this machine, or its host name',
    help: 'Such paths contain names of people and show how a project is laid out. They come from source maps with absolute paths, from development builds, and from code that uses `__dirname`.',
    variants: {
      directory: (f: InFiles) => ({
        message: `contains the path of a directory of this machine${filesText(f)}`,
        remedy:
          "set paths relative to the project in the build tool's options, or build in a directory with a general name",
      }),
      'host-name': (f: InFiles) => ({
        message: `contains the host name of this machine${filesText(f)}`,
        remedy: 'find what writes it (a banner, a version file, a define option), and remove it there',
      }),
    },
  },
  'leak/source-in-map': {
    meaning: 'a source map ships the code of server-only modules, or ships although the contract forbids it',
    help: 'A map contains the text of its sources with comments. Modules below `server-code` of the contract must not be in it: find what imports them in code for browsers. With `source-maps: forbidden` for a bundle, its output must contain no map: turn maps off, or move them elsewhere before the files ship.',
    variants: {
      forbidden: ({ isFile, bundle }: { isFile: boolean; bundle: string }) => ({
        message: `${isFile ? 'is' : 'contains'} a source map, which the contract forbids for ${bundle}`,
        remedy: 'turn source maps off in the build tool, or move them elsewhere before the files ship',
      }),
      server: ({ modules }: { modules: readonly string[] }) => ({
        message: `contains the source code of server-only modules: ${some(modules)}`,
        remedy: 'remove the import that brings them into browser code; then rebuild',
      }),
    },
  },
});

export const stageWords = words({
  'stage/foreign-value': {
    meaning: "an artifact contains another stage's value",
    help: "This stage's artifact contains the value that the variable has in another stage. Rebuild it for the right stage: `adder with STAGE`.",
    variants: {
      value: (f: ForeignValue & { rebuild: readonly string[]; isBuiltHere: boolean }) => ({
        message: foreign(f),
        remedy: f.isBuiltHere
          ? steps`rebuild it for ${f.of}: ${run(...f.rebuild)}`
          : `rebuild it for ${f.of}: run its build command after \`${f.rebuild.join(' ')} --\``,
      }),
      'left-over': (f: ForeignValue & { output: string }) => ({
        message: foreign(f),
        remedy: `the last build did not write this file: empty ${f.output} and rebuild`,
      }),
      'hard-coded': (f: ForeignValue & { source: string }) => ({
        message: foreign(f),
        remedy: `it is written at ${f.source}: read ${f.variable} there, or remove the file`,
      }),
    },
  },
  'stage/local-address': {
    meaning: 'code that ships uses an address that only one machine or network has',
    help: "Examples: `http://localhost:3000`, `http://192.168.1.20`. Visitors' browsers look for it on their own machine or network. Read the address from a public variable with a value for each stage. In a desktop app, which may have a server of its own, this is a note. Stages whose own public values have such an address are not checked, nor are packages, as far as source maps show them.",
    variants: {
      loopback: (f: { address: string; stage: string; places: number }) => ({
        message: `contains ${f.address}, an address that only a developer's machine has${placesText(f)}`,
        remedy: readAddress(f),
      }),
      private: (f: { address: string; stage: string; places: number }) => ({
        message: `contains ${f.address}, an address in a private network${placesText(f)}`,
        remedy: readAddress(f),
      }),
      value: ({ variable, stage }: { variable: string; stage: string }) => ({
        message: `${variable} is an address that only one machine or network has, in ${stage}, which ships`,
        remedy: `set an address that visitors reach, or \`build-as: development\` if ${stage} does not ship`,
      }),
    },
  },
  'stage/development-build': {
    meaning: 'a stage that ships has a development build',
    help: 'Either the build left checks of `process.env.NODE_ENV` in the code, so that libraries contain their development version too, and may stop with an error where there is no `process`; or it was made for developers. Such code is larger, slower, and explains its inner workings. Stages with `build-as: development`, and those named like a development or test stage, are not checked.',
    variants: {
      checks: (f: { checks: number; removable: number; bytes: number; fix: string }) => ({
        message: `still checks NODE_ENV in ${count(f.checks, 'place')}, so development code ships${
          f.removable > 0 ? `; production removes at least ${byteSize(f.removable)} of ${byteSize(f.bytes)}` : ''
        }`,
        remedy: `${f.fix}, then rebuild`,
      }),
      'more-checks': (f: { checks: number; measured: number; fix: string }) => ({
        message: `still checks NODE_ENV in ${count(f.checks, 'place')}, so development code ships; measured in ${f.measured} other files`,
        remedy: `${f.fix}, then rebuild`,
      }),
      code: (f: { of: readonly string[]; bytes: number; packages: readonly string[]; fix: string }) => ({
        message: `contains development code of ${joinWords(f.of)}${
          f.bytes === 0 ? '' : `: ${byteSize(f.bytes)} are development modules of ${joinWords(f.packages)}`
        }`,
        remedy: `${f.fix}, then rebuild`,
      }),
    },
  },
});

/** A value of one stage in a build for another. */
export interface ForeignValue {
  variable: string;
  /** The stage that the value is of. */
  stage: string;
  /** The stage that was inspected. */
  of: string;
  more?: number | undefined;
}

function foreign(f: ForeignValue): string {
  return `contains the ${f.stage} value of ${f.variable}, in a build for ${f.of}${moreText(f)}`;
}

function placesText({ places }: { places: number }): string {
  return places > 1 ? ` (${count(places, 'place')})` : '';
}

function readAddress({ stage }: { stage: string }): string {
  return `read the address from a public variable, and set it for ${stage}`;
}

function leaveOut(onServer: boolean): string {
  return onServer
    ? 'leave it out of what is deployed, and set the values where the server runs'
    : 'find what copies or imports it (a public folder, an asset rule, a `?raw` import), remove it from what ships, rebuild, then rotate every secret in it: assume they are known';
}

function exclude(name: string): string {
  return `remove it from what ships, and exclude ${name} where files are copied`;
}
