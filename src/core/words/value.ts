import { count } from '../text/display.js';
import { joinWords } from '../text/nearest.js';
import { words } from './words.js';

/** How a value is given to a variable: the places where it can be set, the best first. */
export interface HowToGive {
  variable: string;
  /** The line that sets it already, as `path:line`: another one beside it would set the name twice. */
  at?: string | undefined;
  /** The file to add a line to. */
  file?: string | undefined;
  /** True if the process environment is a layer. */
  inProcess: boolean;
  /** True if a file that the team shares is the better place. */
  isShared: boolean;
  form: string;
  about?: string | undefined;
}

function howToGive({ variable, at, file, inProcess, isShared, form, about }: HowToGive): string {
  const ignored = isShared ? '' : ', which git has to ignore';
  const line =
    at === undefined ? file !== undefined && `add ${variable}=... to ${file}${ignored}` : `write the value at ${at}`;
  const shell = inProcess && `set ${variable} in the process environment`;
  const places = (isShared ? [line, shell] : [shell, line]).filter(Boolean);
  return `${places.join(', or ')} (${form}${about ? `: ${about}` : ''})`;
}

/** A variable without a value. */
export interface Missing extends HowToGive {
  bundle?: string | undefined;
  /** The other stages that have a value. */
  setIn: readonly string[];
  /** A similar name in the process environment. */
  near?: string | undefined;
}

function missing({ variable, bundle }: Missing, stages: readonly string[]): string {
  return `${variable} has no value in ${joinWords(stages)}${bundle === undefined ? '' : ` for ${bundle}`}`;
}

function setMissing(f: Missing): string {
  const rename = f.near === undefined ? '' : `rename ${f.near} to ${f.variable} there, or `;
  return rename + howToGive(f);
}

/** Stages that are compared, with where their values come from. */
export interface Compared {
  variable: string;
  stages: readonly string[];
  sources: readonly string[];
}

function compared({ variable, sources }: Compared): string {
  return `${variable}${sources.length === 0 ? '' : ` (${joinWords(sources)})`}`;
}

const dollar = 'write \\$ for a dollar sign';

/** A value with a reference to a name without a value. */
export interface UnknownReference {
  variable: string;
  name: string;
  isEmpty: boolean;
  /** The reach for a name that is not in the contract. */
  declare?: string | undefined;
  /** True if the name has a narrower reach, so that the value would be withheld with it. */
  isWithheld?: boolean | undefined;
}

export const valueWords = words({
  'value/withheld': {
    meaning: "a build's configuration reads a name that is set here, but that `adder with` withholds from the build",
    help: 'A build gets the values of its bundle, a short list of usual names, and the names under `passes`. Names that a pipeline sets, such as `GITHUB_SHA`, belong into `passes`. Declare a name with a value of the project as a variable; no build gets one with the reach `server`.',
    variants: {
      name: ({ path, name }: { path: string; name: string }) => ({
        message: `${path} reads ${name}, which is set here, but the build does not get it`,
        remedy: `add it to the contract: passes: [${name}]`,
      }),
      server: ({ path, variable }: { path: string; variable: string }) => ({
        message: `${path} reads ${variable}, a server-only variable, so the build does not get it`,
        remedy: `remove the read; if the build needs it, set ${variable}: build in the contract, or ${variable}: public if anybody may know it`,
      }),
    },
  },
  'value/missing': {
    meaning: 'a required variable has no value in this stage',
    help: 'No layer of the stage sets the name, and the contract has no default. Add a line to the layer that the message names, or set `required: false`.',
    variants: {
      unset: (f: Missing & { stage: string; searched: readonly string[]; broken?: string | undefined }) => {
        const why = f.broken ? `The line ${f.broken} cannot be parsed` : `Searched: ${f.searched.join(', ')}`;
        const elsewhere = f.setIn.length === 0 ? '' : `. Set in: ${f.setIn.join(', ')}`;
        const near = f.near === undefined ? '' : `. The process environment has ${f.near}`;
        return { message: `${missing(f, [f.stage])}. ${why}${elsewhere}${near}`, remedy: setMissing(f) };
      },
      elsewhere: ({ variable, stage }: { variable: string; stage: string }) => ({
        message: `${variable} has no value in ${stage} on this machine, and the host of its server needs one`,
        remedy: `\`adder emit needs --stage ${stage}\` lists what the host has to have; to start the server here, set ${variable} in the process environment`,
      }),
      stages: (f: Missing & { stages: readonly string[] }) => ({
        message: `${missing(f, f.stages)}${f.setIn.length === 0 ? '' : `. Set in: ${joinWords(f.setIn)}`}`,
        remedy: setMissing(f),
      }),
    },
  },
  'value/malformed': {
    meaning: 'a value does not match its form',
    help: 'The message says what is wrong without showing the value. Example: a `url` without a scheme. Fix the value, or the form in the contract.',
    variants: {
      form: ({ variable, problem, example }: { variable: string; problem: string; example: string }) => ({
        message: `${variable} ${problem}`,
        remedy: `fix it, such as ${variable}=${example}, or change the form in the contract`,
      }),
      links: ({ variable, limit }: { variable: string; limit: number }) => ({
        message: `${variable} has a chain of more than ${limit} references`,
        remedy: 'use fewer references',
      }),
      characters: ({ variable, limit }: { variable: string; limit: number }) => ({
        message: `${variable} expands to more than ${count(limit, 'character')}`,
        remedy: 'use fewer references',
      }),
    },
  },
  'value/empty': {
    meaning: 'a required variable is empty',
    help: '`NAME=` is an empty value, which is different from no value: a default does not replace it. Set a value, remove the line, or set `required: false`.',
    variants: {
      empty: (f: HowToGive & { stage: string }) => ({
        message: `${f.variable} is empty, but ${f.stage} requires a value`,
        remedy: howToGive(f),
      }),
    },
  },
  'value/untidy': {
    meaning: 'a line of an env file probably does not mean what its author intended',
    help: 'Adder accepts white space around `=` (a note); a shell does not. A lone carriage return is part of the value. Example: `NAME = value`. Remove the spaces, so that every program agrees.',
    variants: {
      spaces: ({ name }: { name: string }) => ({
        message: `white space around = after ${name}; a shell refuses this line`,
        remedy: `remove the spaces: ${name}=value`,
      }),
      'carriage-return': (_: object) => ({
        message: 'a carriage return without a line feed is part of the value',
        remedy: 'save the file with LF line endings; write \\r in double quotes for a carriage return',
      }),
      text: ({ variable, problem }: { variable: string; problem: string }) => ({
        message: `${variable} ${problem}`,
        remedy: 'remove it, unless it is intended',
      }),
      publishable: ({ variable, shape }: { variable: string; shape: string }) => ({
        message: `${variable} has the shape of ${shape}, but should be a secret key`,
        remedy: 'set the secret key here, and the publishable one in a public variable',
      }),
    },
  },
  'value/shadowed': {
    meaning: 'the process environment wins over a different value in a file',
    help: 'The shell that started Adder has the variable, often from an earlier `export`. Unset it, or change the file, so that they agree.',
    variants: {
      process: ({ variable, source }: { variable: string; source: string }) => ({
        message: `the process environment wins over ${source} with a different ${variable}`,
        remedy: `run \`unset ${variable}\` if it is left from an earlier export`,
      }),
      'local-file': (f: { variable: string; stage: string; winner: string; loser: string }) => ({
        message: `${f.winner}, a local file, wins over ${f.loser} with a different ${f.variable} in ${f.stage}, which ships`,
        remedy: `remove the file from the layers of ${f.stage}, or the line from the file`,
      }),
    },
  },
  'value/duplicate': {
    meaning: 'a name is set twice in one file',
    help: 'The later line wins. Programs differ on this, so remove one of the lines. A public value may be set under the name that code reads (`NEXT_PUBLIC_MOOD` for `MOOD`); both names with different values are an error.',
    variants: {
      line: ({ name, line }: { name: string; line: number }) => ({
        message: `${name} is set twice: line ${line} sets it too, and this line wins`,
        remedy: 'remove one of the two lines',
      }),
      'two-names': (f: { variable: string; name: string; other: string; at: string }) => ({
        message: `${f.name} and ${f.other} (${f.at}) both set ${f.variable}, to different values`,
        remedy: `remove one of the two lines: tools that load the file themselves know only the name that code reads`,
      }),
      key: ({ name, line }: { name: string; line: number }) => ({
        message: `${name} is set twice: line ${line} sets it too, and this line wins`,
        remedy: 'remove one of the two',
      }),
    },
  },
  'value/ambiguous': {
    meaning: 'programs disagree about a line of an env file',
    help: 'A shell, a container runtime or a service manager may read the same file by other rules. Examples: `GREETING=Mind the tide` is a value here and a command in a shell; in `LIST="a b"`, a container keeps the quotes. A different reading by a shell is a warning; a difference that only concerns plain readers of quotes, comments, references and `export` is a note. Write the line as the message says, or ignore the finding if no other program reads the file.',
    variants: {
      shell: (f: {
        variable: string;
        reader: string;
        differences: readonly string[];
        /** True if the reader gets a value. */
        isRead: boolean;
        /** The value that it gets, if it is public. */
        text?: string | undefined;
      }) => ({
        message: `programs disagree about ${f.variable}: ${f.reader} ${joinWords(f.differences)}, ${
          f.isRead ? `and gets ${f.text === undefined ? 'another value' : `\`${f.text}\``}` : 'and does not get it'
        }`,
        remedy: remedyOf(f.differences),
      }),
      plain: ({ reader, difference }: { reader: string; difference: string }) => ({
        message: `${reader} ${difference}`,
        remedy:
          'ignore this if no such program reads the file; all agree on NAME=value without quotes, comments, references and export',
      }),
      crlf: (_: object) => ({
        message: 'the lines end with CRLF: a POSIX shell reads the carriage return as the last character of each value',
        remedy: 'save the file with LF line endings if another program reads it',
      }),
    },
  },
  'value/undeclared': {
    meaning: 'a file sets a name that is not in the contract',
    help: 'An undeclared name counts as server: no build gets it, and `inspect` searches artifacts for its value. Declare it, or remove the line.',
    variants: {
      'node-env': (_: object) => ({
        message: 'NODE_ENV is set here, but does not select the stage: each command names its stage',
        remedy: 'remove the line: tools set NODE_ENV themselves and ignore it',
      }),
      name: ({ variable, near }: { variable: string; near?: string | undefined }) => ({
        message: `${variable} is not in the contract, so it counts as server`,
        remedy:
          near === undefined
            ? 'declare it in the contract, or remove the line'
            : `did you mean ${near}? Otherwise declare it in the contract`,
      }),
    },
  },
  'value/cycle': {
    meaning: 'values refer to each other in a circle',
    help: 'The message shows the chain. Example: `A=$B` and `B=$A`. Write one of the values without a reference.',
    variants: {
      cycle: ({ variable, chain }: { variable: string; chain: readonly string[] }) => ({
        message: `${variable} cannot be expanded because values refer to each other in a circle: ${chain.join(' → ')}`,
        remedy: 'write one of these values without a reference',
      }),
    },
  },
  'value/not-distinct': {
    meaning: 'two stages share a secret, or a value that must differ',
    help: "An error if the contract says `distinct: true`. A warning for a secret of a stage that ships, unless it says `distinct: false`. A key that staging and production share is only as safe as the weaker one, and a shared URL sends one stage's traffic to the other. Give one of them its own value, or remove `distinct`.",
    variants: {
      value: (f: Compared) => ({
        message: `${joinWords(f.stages)} have the same ${compared(f)}, which must be distinct`,
        remedy: `set a different ${f.variable} in one of them`,
      }),
      secret: (f: Compared) => ({
        message: `${joinWords(f.stages)} have the same ${compared(f)}: a leak in one exposes all`,
        remedy: `set a different ${f.variable} in each stage, or set \`distinct: false\` in the contract if this is intended`,
      }),
    },
  },
  'value/not-same': {
    meaning: 'two stages differ in a value that must be equal',
    help: 'Set the value once, in a layer that both stages have, or remove `same`.',
    variants: {
      value: (f: Compared) => ({
        message: `${joinWords(f.stages)} differ in ${compared(f)}, which must be the same`,
        remedy: `set ${f.variable} once, in a layer of both stages`,
      }),
    },
  },
  'value/old-name': {
    meaning: 'a layer uses an old name of a variable',
    help: 'The name is listed under `aka`, so the value counts. Rename the line, then remove the old name from `aka`.',
    variants: {
      name: ({ variable, old }: { variable: string; old: string }) => ({
        message: `${old} is an old name of ${variable}`,
        remedy: `rename it to ${variable}`,
      }),
    },
  },
  'value/placeholder': {
    meaning: 'a stage that ships has an example or "change me" value',
    help: "The value is the contract's example, or a usual placeholder. Set the real value.",
    variants: {
      value: (f: HowToGive & { stage: string }) => ({
        message: `${f.variable} is a placeholder in ${f.stage}, which ships`,
        remedy: howToGive(f),
      }),
    },
  },
  'value/unknown-reference': {
    meaning: 'a value refers to a name that is not set',
    help: 'No layer of the stage sets the name. Set it, or write a fallback: `${NAME:-text}`.',
    variants: {
      hidden: ({ variable }: { variable: string }) => ({
        message: `${variable} contains a $ that starts a reference to a name that is not set in this stage`,
        remedy: `${dollar}, or put the value in single quotes`,
      }),
      name: (f: UnknownReference) => ({
        message: `${f.variable} refers to ${f.name}, which ${f.isEmpty ? 'is empty' : 'is not set in this stage'}`,
        remedy: `${setReferred(f)}, or write a fallback: \${${f.name}:-text}; ${dollar}`,
      }),
    },
  },
  'value/widened': {
    meaning: 'a value refers to a value of narrower reach',
    help: 'A public value that contains a server value would publish it, so no build gets it. An undeclared name counts as server. Declare the inner name with its reach, or write its text instead of the reference.',
    variants: {
      reach: (f: { variable: string; reach: string; inner: string; innerReach: string }) => ({
        message: `${f.variable} is ${f.reach} but refers to ${f.inner}, which is ${f.innerReach}, so ${f.variable} is withheld`,
        remedy: `remove ${f.inner} from the value`,
      }),
      undeclared: (f: { variable: string; reach: string; inner: string }) => ({
        message: `${f.variable} is ${f.reach} but refers to ${f.inner}, which counts as server (not declared), so ${f.variable} is withheld`,
        remedy: `declare ${f.inner} in the contract with its reach, or write its text instead of the reference`,
      }),
    },
  },
});

function setReferred({ name, declare, isWithheld, isEmpty }: UnknownReference): string {
  if (isWithheld) return 'write the text instead of the reference';
  const set = isEmpty ? `write a value for ${name} where it is set` : `set ${name} in a layer of the stage`;
  return declare === undefined
    ? set
    : `declare \`${name}: { reach: ${declare}, required: false }\` in the contract and ${set}`;
}

/** How a line is written that its readers agree about. */
function remedyOf(differences: readonly string[]): string {
  const has = (part: string) => differences.some((difference) => difference.includes(part));
  if (has('in single quotes'))
    return 'put the value in double quotes, with `\\$` for each dollar sign, so that all agree';
  if (has('takes #')) return 'put the whole value in quotes, so that all agree';
  return has('\\n')
    ? 'write a real line break inside the quotes, so that a shell agrees'
    : 'put the whole value in single quotes, or in double quotes if it has references, so that a shell agrees';
}
