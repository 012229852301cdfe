import * as z from 'zod';
import { printerNames } from '../core/report/printers.js';

/** One option of the command line. The parser, the help, the checks and the docs page all come from this table. */
export interface OptionEntry {
  schema: z.ZodType;
  type: 'string' | 'boolean' | 'array';
  /** What stands for the value in the help. */
  value?: string;
  /** What it may be, where a text is not enough. */
  range?: string;
  help: string;
}

const text = z.string().min(1);

export const options = {
  contract: {
    schema: text.optional(),
    type: 'string',
    value: 'FILE',
    help: 'The contract; default: the nearest adder.yaml upward',
  },
  stage: {
    schema: text.optional(),
    type: 'string',
    value: 'STAGE',
    help: 'The stage; default: the one of the newest receipt',
  },
  bundle: { schema: text.optional(), type: 'string', value: 'BUNDLE', help: 'Only this bundle of the contract' },
  all: {
    schema: z.boolean().default(false),
    type: 'boolean',
    help: 'Every stage side by side, with what to do in order',
  },
  reveal: {
    schema: z.array(text).default([]),
    type: 'array',
    value: 'NAME',
    help: 'Show the value of this build or server variable',
  },
  format: {
    schema: z.enum(printerNames).default('text'),
    type: 'string',

    help: 'How to print the result',
  },
  save: {
    schema: text.optional(),
    type: 'string',
    value: 'FILE',
    help: 'Write the report there, and print the summary only',
  },
  replace: {
    schema: z.boolean().default(false),
    type: 'boolean',
    help: 'Replace the file at --save even if Adder did not write it',
  },
  'fail-on': {
    schema: z.enum(['error', 'warning', 'note', 'never']).default('error'),
    type: 'string',
    help: 'The least level that makes the exit code 1',
  },
  color: {
    schema: z.enum(['auto', 'always', 'never']).default('auto'),
    type: 'string',

    help: 'Colours',
  },
  quiet: { schema: z.boolean().default(false), type: 'boolean', help: 'Print the summary only' },
  side: {
    schema: z.enum(['public', 'server']).default('public'),
    type: 'string',
    help: 'Whose accessors a module has',
  },
  'with-values': {
    schema: z.boolean().default(false),
    type: 'boolean',
    help: 'Let a module have the public values of --stage in place of reads',
  },
  'with-build': {
    schema: z.boolean().default(false),
    type: 'boolean',
    help: 'Let defines have build values too; the file is then a secret',
  },
  as: {
    schema: z.enum(['text', 'json', 'env', 'constants']).default('text'),
    type: 'string',
    help: 'How needs and runtime are written: env for needs, constants for runtime values in an app package',
  },
  into: {
    schema: text.optional(),
    type: 'string',
    value: 'FOLDER',
    help: 'Put runtime values into this folder and point its pages at them; or launch configurations into it',
  },
  check: {
    schema: z.boolean().default(false),
    type: 'boolean',
    help: 'Only say whether the file at --save is up to date',
  },
  'from-stdin': {
    schema: text.optional(),
    type: 'string',
    value: 'NAME',
    help: 'Take the value of this variable from standard input',
  },
  caches: {
    schema: z.boolean().default(false),
    type: 'boolean',
    help: "Look into the caches of the bundles' tools too, which a pipeline may store",
  },
  packages: {
    schema: z.boolean().default(false),
    type: 'boolean',
    help: 'Look into folders of packages (node_modules) and repositories (.git) in the paths too',
  },
  threads: {
    schema: z.coerce.number().int().min(1).max(64).optional(),
    type: 'string',
    value: 'COUNT',
    range: 'a number from 1 to 64',
    help: 'How many threads look at the files; default: as many as make it shorter',
  },
  'show-env': {
    schema: z.boolean().default(false),
    type: 'boolean',
    help: 'Run nothing: list the names that the command would get, and why',
  },
  inspect: {
    schema: z.boolean().default(false),
    type: 'boolean',
    help: 'Inspect the output right after a build that succeeded',
  },
  'at-once': {
    schema: z.coerce.number().int().min(1).max(64).default(1),
    type: 'string',
    value: 'COUNT',
    range: 'a number from 1 to 64',
    help: 'With --all: how many bundles are built beside one another; default: 1',
  },
  restart: {
    schema: z.boolean().default(false),
    type: 'boolean',
    help: 'Run the command again when the contract or a layer changes',
  },
  merge: {
    schema: z.boolean().default(false),
    type: 'boolean',
    help: 'Add what is new to the contract that is there; nothing of it changes',
  },
  fix: {
    schema: z.boolean().default(false),
    type: 'boolean',
    help: 'Mend what is safe to mend: names, reads, written-out values',
  },
  since: {
    schema: text.optional(),
    type: 'string',
    value: 'REV',
    help: 'Only findings in files that changed since this revision',
  },
  explain: {
    schema: text.optional(),
    type: 'string',
    value: 'CODE',
    help: 'Say what a code means, with an example and the remedy',
  },
  'dry-run': {
    schema: z.boolean().default(false),
    type: 'boolean',
    help: 'Write nothing: print what would be written',
  },
  story: {
    schema: z.enum(['build', 'adopt', 'lint', 'promote', 'mobile']).default('build'),
    type: 'string',
    help: 'Which story the demo tells',
  },
  install: {
    schema: z.boolean().default(false),
    type: 'boolean',
    help: 'Let npm install what the demo builds with, if it is not here',
  },
  debug: { schema: z.boolean().default(false), type: 'boolean', help: 'Show where an unexpected failure happened' },
} as const satisfies Record<string, OptionEntry>;

export type OptionName = keyof typeof options;

export type OptionValues<Name extends OptionName> = { [Key in Name]: z.output<(typeof options)[Key]['schema']> };

/** What a call has that gives none of these options. */
export function defaultsOf<Name extends OptionName>(names: readonly Name[]): OptionValues<Name> {
  return Object.fromEntries(names.map((name) => [name, options[name].schema.parse(undefined)])) as OptionValues<Name>;
}

/** Options that every command has. */
export const commonOptions = ['color', 'debug'] as const;

/** Options of commands that print a report. */
export const reportOptions = ['contract', 'format', 'save', 'replace', 'fail-on', 'quiet'] as const;
