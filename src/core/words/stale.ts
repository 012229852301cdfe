import { count, localTime } from '../text/display.js';
import { someWords } from '../text/nearest.js';
import { type Recorded, recordedText } from './recorded.js';
import { type Remedy, run, type Step, steps } from './remedy.js';
import { words } from './words.js';

/** The command that builds a bundle again, as words. */
export interface Rebuild {
  rebuild: readonly string[];
}

function rebuild({ rebuild: command }: Rebuild): Remedy {
  return steps`rebuild: ${run(...command)}`;
}

/** An old value in the output of a bundle. */
export interface OldValue extends Rebuild {
  bundle: string;
  variable: string;
  /** ISO 8601, UTC. */
  builtAt: string;
  /** Where the current value is. */
  current?: string | undefined;
}

function oldValue({ bundle, variable, builtAt }: OldValue): string {
  return `${bundle} still has the old value of ${variable}, from its build on ${localTime(builtAt)}`;
}

function currentText({ current }: OldValue): string {
  return current === undefined ? '' : `; the current value is at ${current}`;
}

/** A public value that the history has, and that its variable no longer has. */
export interface Replaced {
  variable: string;
  stage: string;
  recorded: Recorded;
  /** Number of further places in the file. */
  more?: number | undefined;
  /** The output directory, if the last build did not write the file. */
  output?: string | undefined;
}

/** Where a value comes from that a build should have replaced. */
export interface NotReplaced {
  bundle: string;
  variable: string;
  builtAt: string;
  /** The source file and line that has the text. */
  source?: string | undefined;
  /** Caches of the build tool that exist. */
  caches: readonly string[];
  /** The option that builds without a cache elsewhere. */
  uncached?: string | undefined;
}

function originOf({ source, uncached, caches }: NotReplaced): string {
  if (source !== undefined) return `it is hard-coded at ${source}: read the variable there, or generate the file again`;
  if (uncached !== undefined) return `add ${uncached} to the build command: the tool's cache has it`;
  if (caches.length > 0) return `delete ${caches.join(' and ')}, which may have it, and rebuild`;
  return 'find out where the build gets it: it is in no source file and no known cache';
}

/** Another build alone leaves an old file where it is. */
const emptyFirst = 'delete it, or empty the output directory before the build, so that it is not deployed';

/** A value that code reads and nothing contains. */
export interface Missing {
  variable: string;
  stage: string;
  bundle: string;
  /** The option that builds without the tool's cache. */
  uncached?: string | undefined;
  /** True if the build of these files was given the value, so that the same build does nothing else again. */
  wasGiven?: boolean | undefined;
}

function missing({ stage, bundle, uncached, wasGiven }: Missing): Remedy {
  const defines = run('adder', 'emit', 'defines', '--stage', stage, '--bundle', bundle);
  if (wasGiven && uncached === undefined)
    return steps`the build had the value and does not replace this read: see what \`${run('adder', 'lint')}\` says of it; for a tool that Adder does not know, let a define option replace it, with the values of \`${defines}\``;
  const option = uncached === undefined ? '' : ` and ${uncached}, as the tool's cache keeps old values`;
  return steps`rebuild with \`${withStage(stage, bundle)}\`${option}; if that does not help, the build does not replace this read: run \`${run('adder', 'lint')}\``;
}

function withStage(stage: string, bundle: string): Step {
  return run('adder', 'with', stage, '--bundle', bundle);
}

/** A values file of a bundle. */
export interface ValuesFile {
  /** The words of the command that writes it. */
  command: readonly string[];
  /** Its path, if people write it by hand: another file beside it would change nothing. */
  byHand?: string | undefined;
  /** True if the file is on a site. */
  isServed?: boolean | undefined;
}

/** The command that writes a values file, and the deployment that a site needs. */
export function writeAgain({ command, byHand, isServed }: ValuesFile): Remedy {
  if (byHand !== undefined)
    return steps`write the value of the stage where ${byHand} comes from, and ${isServed ? 'deploy it' : 'build'} again`;
  return steps`run: ${run(...command)}${isServed ? ', and deploy it' : ''}`;
}

export const staleWords = words({
  'stale/receipt': {
    meaning: 'an artifact was built from values that have changed',
    help: 'The value changed since the build that wrote the receipt. Rebuild. A warning says that the files are not those that the receipt describes.',
    variants: {
      'other-stage': (f: Rebuild & { bundle: string; builtFor: string; stage: string }) => ({
        message: `${f.bundle} was last built for ${f.builtFor}, not for ${f.stage}`,
        remedy: rebuild(f),
      }),
      'other-files': (f: Rebuild & { builtAt: string; files: number; differing: number; missing: number }) => {
        const parts = [
          f.differing > 0 && `${count(f.differing, 'file')} differ${f.differing === 1 ? 's' : ''}`,
          f.missing > 0 && `${count(f.missing, 'file')} ${f.missing === 1 ? 'is' : 'are'} missing`,
        ];
        return {
          message: `the receipt of ${localTime(f.builtAt)} describes other files: of ${f.files}, ${parts.filter(Boolean).join(' and ')}`,
          remedy: rebuild(f),
        };
      },
      restored: (f: Rebuild & { bundle: string; builtAt: string; last: string; variables: readonly string[] }) => ({
        message: `the files of ${f.bundle} are those of its build on ${localTime(f.builtAt, f.last)}, and not of the last one, on ${localTime(f.last, f.builtAt)}${
          f.variables.length > 0 ? `: they have old values of ${someWords(f.variables, 5)}` : ''
        }`,
        remedy: rebuild(f),
      }),
      clock: (f: { bundle: string; builtAt: string }) => ({
        message: `the last build of ${f.bundle} is of ${localTime(f.builtAt)} by its clock, and the build before it is of a later time`,
        remedy: 'set the clocks of the machines that build; the receipts count in the order in which they were written',
      }),
      'no-more': (f: Rebuild & { bundle: string; variable: string }) => ({
        message: `${f.bundle} was built with ${f.variable}, which it no longer gets`,
        remedy: rebuild(f),
      }),
      'not-yet': (f: Rebuild & { bundle: string; variable: string }) => ({
        message: `${f.variable} was added after the last build of ${f.bundle}`,
        remedy: rebuild(f),
      }),
      'old-value': (f: OldValue) => ({ message: oldValue(f) + currentText(f), remedy: rebuild(f) }),
      'left-over': ({ bundle, builtFor, builtAt }: { bundle: string; builtFor: string; builtAt: string }) => ({
        message: `is from the build of ${bundle} for ${builtFor}, on ${localTime(builtAt)}, and was not written since`,
        remedy: emptyFirst,
      }),
      'file-of-other-stage': ({
        bundle,
        builtFor,
        builtAt,
      }: {
        bundle: string;
        builtFor: string;
        builtAt: string;
      }) => ({
        message: `is from the build of ${bundle} for ${builtFor}, on ${localTime(builtAt)}`,
        remedy: 'take the file of the right build, or build it for this stage',
      }),
    },
  },
  'stale/past-value': {
    meaning: 'an artifact still contains a value from before a change',
    help: 'The build recorded the place, and the file has not changed since: rebuild and ship the new files; browsers may have cached the old ones. If a build with the current value left the old one in, another rebuild does not help. The remedy then names where it comes from: a hard-coded string, a generated file or a cache.',
    variants: {
      'in-build': (f: OldValue & { places: number; modules: readonly string[] }) => ({
        message: `${oldValue(f)}${f.places > 1 ? `, in ${count(f.places, 'place')}` : ''}${
          f.modules.length > 0 ? `, read by ${f.modules.join(' and ')}` : ''
        }${currentText(f)}`,
        remedy: rebuild(f),
      }),
      'left-over': (f: { bundle: string; variable: string; builtAt: string }) => ({
        message: `is from the build of ${f.bundle} on ${localTime(f.builtAt)}, was not written since, and has its value of ${f.variable}`,
        remedy: emptyFirst,
      }),
      'not-replaced': (f: NotReplaced) => ({
        message: `${f.bundle} was built with another value of ${f.variable} since then, but still contains the one from the build on ${localTime(f.builtAt)}`,
        remedy: `another rebuild does not help; ${originOf(f)}`,
      }),
      'on-site': (f: Rebuild & { variable: string }) => ({
        message: `the site has the old value of ${f.variable}`,
        remedy: steps`rebuild and deploy: ${run(...f.rebuild)}`,
      }),
      recorded: (f: Rebuild & Replaced) => ({
        message: `contains a past value of ${f.variable} for ${f.stage} (${recordedText(f.recorded)})${
          f.more === undefined ? '' : `, in ${count(f.more, 'more place')} of this file`
        }`,
        remedy: f.output === undefined ? rebuild(f) : `the last build did not write this file: ${emptyFirst}`,
      }),
    },
  },
  'stale/missing-value': {
    meaning: 'a value that the code reads is nowhere in the output',
    help: 'The output was built for another stage, without its define file, or by a tool that does not replace the read; or its files were changed since the receipt was written. Rebuild with `adder with`. If the value is still missing, `adder lint` shows what is wrong with the read. Flags, numbers and short words are not checked: a minifier may leave no trace of them.',
    variants: {
      'no-longer': (f: Rebuild & { bundle: string; variable: string }) => ({
        message: `${f.bundle} contained the value of ${f.variable} when it was built, but no longer does`,
        remedy: rebuild(f),
      }),
      'in-output': (f: Missing) => ({
        message: `the output of ${f.bundle} does not contain the ${f.stage} value of ${f.variable}, which this code reads`,
        remedy: missing(f),
      }),
      'on-site': (f: Missing) => ({
        message: `the site does not contain the ${f.stage} value of ${f.variable}, which this code reads`,
        remedy: missing(f),
      }),
    },
  },
  'stale/runtime-file': {
    meaning: 'the load-time values file does not match the stage',
    help: 'One build serves all stages, and the values file beside it selects the stage. Write it again with `adder emit runtime --stage STAGE --into DIST`; no rebuild is needed.',
    variants: {
      foreign: (f: ValuesFile) => ({ message: 'Adder did not write this values file', remedy: writeAgain(f) }),
      lacks: (f: ValuesFile & { variable: string; stage: string }) => ({
        message: `the values file lacks ${f.variable}, which ${f.stage} has`,
        remedy: writeAgain(f),
      }),
      unset: (f: ValuesFile & { variable: string; stage: string }) => ({
        message: `the values file has ${f.variable}, which has no value in ${f.stage}`,
        remedy: writeAgain(f),
      }),
      unwanted: (f: ValuesFile & { variable: string }) => ({
        message: `the values file has ${f.variable}, which must not be in it`,
        remedy: writeAgain(f),
      }),
      started: (f: { variable: string; stage: string; of?: string | undefined; isEmpty: boolean }) => ({
        message: f.isEmpty
          ? `the server started without ${f.variable}, and ${f.stage} has a value for it`
          : `the server started with a different ${f.variable} than ${f.stage}${f.of === undefined ? '' : ` (the value of ${f.of})`}`,
        remedy: `set ${f.variable} in the environment of the server, and start it again; no rebuild is needed`,
      }),
      different: (f: ValuesFile & { variable: string; stage: string; of?: string | undefined }) => ({
        message: `the values file has a different ${f.variable} than ${f.stage}${f.of === undefined ? '' : ` (the value of ${f.of})`}`,
        remedy: writeAgain(f),
      }),
    },
  },
});

/** Result of an unreplaced read in a browser, by its object. */
const effects = {
  'import.meta.env': 'reading it throws, because import.meta.env does not exist in a browser',
  'process.env': 'a browser has no process, so reading it throws unless the page defines one',
  placeholder: 'the page shows the placeholder',
} as const;

export interface Unreplaced {
  text: string;
  object: keyof typeof effects;
}

export const readWords = words({
  'read/unreplaced': {
    meaning: 'the build left a read of a public variable in code that ships',
    help: 'Example: `import.meta.env.VITE_FERRY_API_URL` in a script of the output. A browser has no such object, so the script throws there; a placeholder such as `%VITE_TITLE%` in a page stays visible. The bundler has no define option for the name, or the module was not built at all. Any other use of `process.env` throws there as well, unless a condition asks for `process` first. Strings and comments do not count.',
    variants: {
      server: ({ text, object }: Unreplaced) => ({
        message: `${text}, which only a server or the build has, was left in code for browsers: ${effects[object]}`,
        remedy: 'move the read into code that runs on the server, and rebuild; `adder lint` shows what imports it',
      }),
      read: ({ text, object }: Unreplaced) => ({
        message: `${text} was not replaced by a value: ${effects[object]}`,
        remedy:
          'build with the tool that replaces it, or with the Adder plugin; `adder lint` shows reads that no build replaces',
      }),
    },
  },
});
