import * as z from 'zod/mini';
import { pipelineNames } from '../core/report/pipelines.js';
import { printerNames } from '../core/report/printers.js';
import { isDay } from '../core/text/day.js';
import { once } from '../core/text/once.js';

/** Headings of the help, in this order. */
export const optionGroups = ['What to check', 'What to do', 'Output', 'General'] as const;

/** One option of the command line. Parsing, checks, help, completions and the docs page come from this table. */
export interface OptionEntry {
  schema: () => z.ZodMiniType;
  /** The words that the value can be, if there are only a few. */
  words?: readonly string[];
  type: 'string' | 'boolean' | 'array';
  group: (typeof optionGroups)[number];
  /** The placeholder for the value in the help. */
  value?: string;
  /** Description of a valid value, if the schema is not a list of words. */
  range?: string;
  /** Names that complete the value. */
  completes?: 'stage' | 'bundle' | 'variable' | 'code' | 'host';
  help: string;
}

// Each schema is created on first use: creating all of them takes longer than parsing a command line.
const text = once(() => z.optional(z.string().check(z.minLength(1))));
const flag = once(() => z._default(z.boolean(), false));
const texts = once(() => z._default(z.array(z.string().check(z.minLength(1))), []));
const threads = () => z.coerce.number().check(z.int(), z.gte(1), z.lte(64));

/** One of a few words. They are listed without the schema, which takes longer to create than all else of a command line. */
function oneOf<const Words extends readonly string[]>(words: Words, usual: Words[number]) {
  return { words, schema: once(() => z._default(z.enum(words), usual)) };
}

export const options = {
  contract: {
    schema: text,
    type: 'string',
    group: 'General',
    value: 'FILE',
    help: 'Use this contract (default: the nearest adder.yaml, searching upward)',
  },
  stage: {
    schema: text,
    type: 'string',
    group: 'What to check',
    value: 'STAGE',
    completes: 'stage',
    help: 'The stage (default: the stage of the newest receipt)',
  },
  bundle: {
    schema: text,
    type: 'string',
    group: 'What to check',
    value: 'BUNDLE',
    completes: 'bundle',
    help: 'Only this bundle',
  },
  all: {
    schema: flag,
    type: 'boolean',
    group: 'What to check',
    help: 'Show all stages side by side, and what to do first',
  },
  reveal: {
    schema: texts,
    type: 'array',
    group: 'Output',
    value: 'NAME',
    completes: 'variable',
    help: 'Show the value of this build or server variable',
  },
  real: {
    schema: texts,
    type: 'array',
    group: 'What to check',
    value: 'NAME',
    completes: 'variable',
    help: 'Give the build the real value of this variable, in place of a made-up one',
  },
  format: {
    ...oneOf(printerNames, 'text'),
    type: 'string',
    group: 'Output',
    help: 'Format of the report',
  },
  save: {
    schema: text,
    type: 'string',
    group: 'Output',
    value: 'FILE',
    help: 'Write the report to this file and print only the summary',
  },
  replace: {
    schema: flag,
    type: 'boolean',
    group: 'Output',
    help: 'Let --save replace a file that Adder did not write',
  },
  'fail-on': {
    ...oneOf(['error', 'warning', 'note', 'never'], 'error'),
    type: 'string',
    group: 'Output',
    help: 'Exit with code 1 on findings of this level or higher',
  },
  color: {
    ...oneOf(['auto', 'always', 'never'], 'auto'),
    type: 'string',
    group: 'General',
    help: 'Use colors',
  },
  annotations: {
    ...oneOf(['auto', 'never', ...pipelineNames], 'auto'),
    type: 'string',
    group: 'Output',
    help: 'Write annotations for this pipeline to standard error (default: the detected one)',
  },
  changes: {
    schema: flag,
    type: 'boolean',
    group: 'What to do',
    help: 'Compare two reports: new findings, and those that are gone. The exit code is that of the new ones',
  },
  contents: {
    schema: flag,
    type: 'boolean',
    group: 'Output',
    help: 'Also list which files contain which public values',
  },
  quiet: { schema: flag, type: 'boolean', group: 'Output', help: 'Print only the summary' },
  side: {
    ...oneOf(['public', 'server'], 'public'),
    type: 'string',
    group: 'What to do',
    help: 'Which variables the module covers',
  },
  'with-values': {
    schema: flag,
    type: 'boolean',
    group: 'What to do',
    help: 'Write the public values of --stage into the module, instead of reads',
  },
  'with-build': {
    schema: flag,
    type: 'boolean',
    group: 'What to do',
    help: 'Include build values in defines; the file is then a secret',
  },
  as: {
    ...oneOf(['text', 'json', 'env', 'constants'], 'text'),
    type: 'string',
    group: 'What to do',
    help: 'Format of needs (text, json, env) and runtime (text, json, constants)',
  },
  into: {
    schema: text,
    type: 'string',
    group: 'What to do',
    value: 'DIR',
    help: 'Put runtime values into this build output and its pages, or launch configurations into this directory',
  },
  check: {
    schema: flag,
    type: 'boolean',
    group: 'What to do',
    help: 'Report whether the file is up to date; write nothing',
  },
  'from-stdin': {
    schema: text,
    type: 'string',
    group: 'What to do',
    value: 'NAME',
    completes: 'variable',
    help: 'Read the value of this variable from standard input',
  },
  caches: {
    schema: flag,
    type: 'boolean',
    group: 'What to check',
    help: "Include the caches of the bundles' build tools",
  },
  packages: {
    schema: flag,
    type: 'boolean',
    group: 'What to check',
    help: 'Include installed packages (node_modules) and repositories (.git)',
  },
  'allow-incomplete': {
    schema: flag,
    type: 'boolean',
    group: 'What to do',
    help: 'Allow build and server variables without a value here, which cannot be searched for',
  },
  shard: {
    schema: once(() =>
      z.optional(
        z
          .string()
          .check(z.regex(/^\d{1,4}\/\d{1,4}$/))
          .check(
            z.refine((text) => {
              const [part = 0, of = 0] = text.split('/').map(Number);
              return part >= 1 && part <= of;
            }),
          ),
      ),
    ),
    type: 'string',
    group: 'What to check',
    value: 'PART/PARTS',
    range: 'a part and the number of parts, such as 2/8',
    help: 'Only this part of the outputs; `adder show` merges the JSON reports of all parts',
  },
  threads: {
    schema: once(() => z.optional(threads())),
    type: 'string',
    group: 'General',
    value: 'COUNT',
    range: 'a number from 1 to 64',
    help: 'Number of threads (default: chosen by input size)',
  },
  'show-env': {
    schema: flag,
    type: 'boolean',
    group: 'What to do',
    help: 'List the names that the command would get, and why; run nothing',
  },
  inspect: { schema: flag, type: 'boolean', group: 'What to do', help: 'Inspect the output after a successful build' },
  parallel: {
    schema: once(() => z._default(threads(), 1)),
    type: 'string',
    group: 'What to do',
    value: 'COUNT',
    range: 'a number from 1 to 64',
    help: 'With --all: number of bundles built in parallel (default: 1)',
  },
  restart: {
    schema: flag,
    type: 'boolean',
    group: 'What to do',
    help: 'Restart the command when its values change',
  },
  'in-place': {
    schema: flag,
    type: 'boolean',
    group: 'What to do',
    help: 'Build the project itself, for builds that cannot be copied: made-up values are in the environment alone, and the output has them afterwards',
  },
  twice: {
    schema: flag,
    type: 'boolean',
    group: 'What to do',
    help: 'Also follow flags, choices and short numbers, by building again with other values',
  },
  again: {
    schema: flag,
    type: 'boolean',
    group: 'What to do',
    help: 'Build again, although nothing changed since the last trial',
  },
  trial: {
    schema: flag,
    type: 'boolean',
    group: 'What to do',
    help: 'Build a copy with made-up values first, and say what the build shows',
  },
  merge: { schema: flag, type: 'boolean', group: 'What to do', help: 'Add what is new to the existing contract' },
  because: {
    schema: text,
    type: 'string',
    group: 'What to do',
    value: 'TEXT',
    help: 'Why the findings are accepted',
  },
  until: {
    schema: once(() => z.optional(z.string().check(z.refine(isDay)))),
    type: 'string',
    group: 'What to do',
    value: 'DATE',
    range: 'a date such as 2027-03-01',
    help: 'When the acceptance ends (default: in 90 days)',
  },
  fix: {
    schema: flag,
    type: 'boolean',
    group: 'What to do',
    help: 'Fix names, reads and hard-coded values where that is safe',
  },
  since: {
    schema: text,
    type: 'string',
    group: 'What to check',
    value: 'REV',
    help: 'Report only findings in files changed since this git revision',
  },
  explain: {
    schema: text,
    type: 'string',
    group: 'What to do',
    value: 'CODE',
    completes: 'code',
    help: 'Explain a finding code, with an example and the remedy',
  },
  print: {
    schema: flag,
    type: 'boolean',
    group: 'What to do',
    help: "Print the key alone, for a pipeline's secret store",
  },
  rotate: {
    schema: flag,
    type: 'boolean',
    group: 'What to do',
    help: 'Make a new key; it also opens what the old one opened',
  },
  'dry-run': { schema: flag, type: 'boolean', group: 'What to do', help: 'Print what would be written; write nothing' },
  receipt: {
    schema: text,
    type: 'string',
    group: 'What to do',
    value: 'FILE',
    help: 'Also write the receipt to this file, for another machine; `{bundle}` stands for the name of the bundle',
  },
  receipts: {
    schema: text,
    type: 'string',
    group: 'What to check',
    value: 'DIR',
    help: 'Also use the receipts in this directory, or this one receipt, which `adder with --receipt` wrote on another machine',
  },
  build: {
    schema: text,
    type: 'string',
    group: 'What to check',
    value: 'BUILD',
    help: 'The build that the site should serve: `previous`, the path of a receipt, or a commit (default: the newest one)',
  },
  depth: {
    schema: once(() => z._default(z.coerce.number().check(z.int(), z.gte(0), z.lte(10)), 1)),
    type: 'string',
    group: 'What to check',
    value: 'COUNT',
    range: 'a number from 0 to 10',
    help: 'How many links to other pages of the site to follow, one after the other (default: 1)',
  },
  also: {
    schema: texts,
    type: 'array',
    group: 'What to check',
    value: 'REQUEST',
    help: 'Also check the answer of this request: `/path`, `POST /path @body.json`',
  },
  header: {
    schema: texts,
    type: 'array',
    group: 'What to check',
    value: 'HEADER',
    help: 'Header for --also, such as `Authorization: Bearer {API_TOKEN}`: the variable comes from the stage or the environment',
  },
  'site-header': {
    schema: texts,
    type: 'array',
    group: 'What to check',
    value: 'HEADER',
    help: 'Header for every request to the site itself, such as `Authorization: Basic {SITE_LOGIN}`: for a site behind a login',
  },
  cookie: {
    schema: texts,
    type: 'array',
    group: 'What to check',
    value: 'COOKIE',
    help: 'Cookie for the site itself, such as `session={SITE_SESSION}`',
  },
  resolve: {
    schema: texts,
    type: 'array',
    group: 'What to check',
    value: 'HOST:ADDRESS',
    help: 'Ask this address for the host, before its name leads there',
  },
  ca: {
    schema: text,
    type: 'string',
    group: 'What to check',
    value: 'FILE',
    help: 'Also trust the certificates in this file (PEM)',
  },
  'asset-host': {
    schema: once(() => z._default(z.array(z.string().check(z.regex(/^[A-Za-z0-9.:[\]-]+$/))), [])),
    type: 'array',
    group: 'What to check',
    value: 'HOST',
    range: 'a host, such as assets.saltmarsh.example',
    help: 'Also read files from this host (default: the site, and hosts of its scripts, style sheets and fonts)',
  },
  probe: {
    schema: flag,
    type: 'boolean',
    group: 'What to check',
    help: 'Also probe the sites under `served` in the contract, after a deployment',
  },
  browser: {
    schema: flag,
    type: 'boolean',
    group: 'What to check',
    help: 'Also open the page in Chromium: values that disappear after hydration',
  },
  rate: {
    schema: once(() => z.optional(z.coerce.number().check(z.gte(0.1), z.lte(1000)))),
    type: 'string',
    group: 'General',
    value: 'COUNT',
    range: 'a number from 0.1 to 1000',
    help: 'Requests per second (default: 40, without a limit on this machine)',
  },
  host: {
    schema: text,
    type: 'string',
    group: 'What to check',
    value: 'HOST',
    completes: 'host',
    help: 'Only this host of the contract',
  },
  apply: { schema: flag, type: 'boolean', group: 'What to do', help: 'Set what is missing or wrong, after a question' },
  yes: { schema: flag, type: 'boolean', group: 'What to do', help: 'With --apply: do not ask' },
  story: {
    ...oneOf(['build', 'adopt', 'lint', 'promote', 'mobile', 'ship', 'serve', 'trial', 'history'], 'build'),
    type: 'string',
    group: 'What to do',
    help: 'Which story to run',
  },
  install: {
    schema: flag,
    type: 'boolean',
    group: 'What to do',
    help: 'Install the packages that the demo builds with, if they are missing',
  },
  debug: { schema: flag, type: 'boolean', group: 'General', help: 'Show where an unexpected failure happened' },
} as const satisfies Record<string, OptionEntry>;

export type OptionName = keyof typeof options;

export type OptionValues<Name extends OptionName> = {
  [Key in Name]: z.output<ReturnType<(typeof options)[Key]['schema']>>;
};

/** The values of options that were not given. */
export function defaultsOf<Name extends OptionName>(names: readonly Name[]): OptionValues<Name> {
  return Object.fromEntries(names.map((name) => [name, options[name].schema().parse(undefined)])) as OptionValues<Name>;
}

/** The words that an option takes; none if it takes something else. */
export function wordsOf(name: OptionName): readonly string[] {
  return (options[name] as OptionEntry).words ?? [];
}

/** Options of commands that print a report. */
export const reportOptions = ['contract', 'format', 'save', 'replace', 'annotations', 'fail-on', 'quiet'] as const;

/** The words of a command line that are neither options nor their values. */
export function positionalsIn(words: readonly string[]): string[] {
  const takesValue = (word = '') => word.startsWith('--') && !word.includes('=') && typeOf(word) !== 'boolean';
  return words.filter((word, index) => !word.startsWith('-') && !takesValue(words[index - 1]));
}

function typeOf(word: string): OptionEntry['type'] {
  return options[word.slice(2) as OptionName]?.type ?? 'boolean';
}
