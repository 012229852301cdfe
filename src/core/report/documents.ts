import * as z from 'zod/mini';
import { hostScopes } from '../contract/hosts.js';
import { hostStates } from '../handoff/compare.js';
import { valueStates } from '../resolve/value-state.js';
import { askedName, trialRow } from '../trial/row-schema.js';
import { savedFacts } from './facts-schema.js';
import type { FindingsReport } from './findings-report.js';
import { change, contents, coverage, finding, fromOne, natural, reach, since, strings } from './shapes.js';
import { REPORT_VERSION } from './version.js';

const source = z.strictObject({
  layer: z.string(),
  path: z.exactOptional(z.string()),
  line: z.exactOptional(fromOne),
  column: z.exactOptional(fromOne),
});

/** A variable in one stage. `value` is there for public ones, and if the user asked for it by name. */
const valueRow = z.strictObject({
  name: z.string(),
  /** The bundle with layers of its own that the value is for. */
  bundle: z.exactOptional(z.string()),
  reach,
  form: z.string(),
  state: z.enum(valueStates),
  value: z.exactOptional(z.string()),
  from: z.exactOptional(source),
  overrides: z.array(source),
  /** Bundle to the name that its code reads. */
  names: z.record(z.string(), z.string()),
});

const answer = z.strictObject({
  answer: z.enum(['yes', 'no', 'not known', 'not asked']),
  /** Why it is not known. */
  because: z.exactOptional(
    z.array(
      z.strictObject({ because: z.string(), remedy: z.string(), isWithoutValue: z.exactOptional(z.literal(true)) }),
    ),
  ),
  /** The values that a yes rests on, if the history has some that this machine does not. */
  of: z.exactOptional(z.string()),
  /** Number of accepted findings that would otherwise make a yes a no. */
  accepted: z.exactOptional(fromOne),
});

const answers = z.strictObject({ nothingLeaked: answer, allThere: answer, current: answer });

/** The fields of every report with findings. */
const judged = {
  findings: z.array(finding),
  summary: z.strictObject({ error: natural, warning: natural, note: natural, accepted: natural }),
  /** Findings that the contract accepts. */
  accepted: z.exactOptional(z.array(z.extend(finding, { because: z.string(), until: z.string() }))),
};

/** Where a report comes from. */
const made = z.strictObject({
  at: z.string(),
  adder: z.string(),
  project: z.exactOptional(z.string()),
  revision: z.exactOptional(z.strictObject({ id: z.string(), dirty: z.boolean() })),
});

const report = <Kind extends string, Shape extends z.core.$ZodLooseShape>(kind: Kind, shape: Shape) =>
  z.strictObject({ report: z.literal(REPORT_VERSION), kind: z.literal(kind), made: z.exactOptional(made), ...shape });

/** `adder lint`, `adder inspect`, a refused build, a broken contract. */
const findingsReport = report('findings', {
  command: z.string(),
  stage: z.exactOptional(z.string()),
  coverage: z.exactOptional(coverage),
  /** The three answers (inspect only). */
  answers: z.exactOptional(answers),
  /** Checked and skipped parts (gate only). */
  checked: z.exactOptional(
    z.array(
      z.strictObject({
        part: z.string(),
        state: z.enum(['checked', 'skipped']),
        because: z.exactOptional(z.string()),
      }),
    ),
  ),
  /** Answers for each bundle, if there are several (gate only). */
  bundles: z.exactOptional(z.array(z.strictObject({ bundle: z.string(), answers }))),
  /** Statements of trial builds (gate only). */
  trials: z.exactOptional(
    z.array(
      z.strictObject({
        bundle: z.string(),
        builtAt: z.iso.datetime(),
        commit: z.exactOptional(z.string()),
        keptIn: strings,
        letOut: strings,
        unsure: z.array(z.strictObject({ name: z.string(), because: z.string() })),
        notSearched: z.array(z.strictObject({ name: z.string(), because: z.string() })),
      }),
    ),
  ),
  contents: z.exactOptional(contents),
  /** The served site (probe only). */
  served: z.exactOptional(
    z.strictObject({
      url: z.string(),
      requests: natural,
      hosts: strings,
      builds: z.array(z.strictObject({ stage: z.string(), builtAt: z.string(), files: natural })),
      unknown: natural,
    }),
  ),
  /** Facts of one shard, from which all shards together are concluded. */
  facts: z.exactOptional(savedFacts),
  /** Changes since the last builds (inspect and gate only). */
  since: z.exactOptional(since),
  /** Differences from an earlier report (show --changes only); then `findings` are the new ones. */
  changes: z.exactOptional(
    z.strictObject({
      since: z.exactOptional(z.string()),
      gone: z.array(finding),
      same: z.array(finding),
      answers: z.array(
        z.strictObject({
          question: z.enum(['nothingLeaked', 'allThere', 'current']),
          was: answer.shape.answer,
          is: answer.shape.answer,
        }),
      ),
    }),
  ),
  ...judged,
});

/** `adder values STAGE`. */
const valuesReport = report('values', {
  command: z.literal('values'),
  stage: z.string(),
  /** The bundle whose names are shown. */
  bundle: z.exactOptional(z.string()),
  /** In their order; the last one wins. */
  layers: z.array(
    z.strictObject({ name: z.string(), state: z.enum(['read', 'absent']), bundle: z.exactOptional(z.string()) }),
  ),
  values: z.array(valueRow),
  /** Changes since the last builds. */
  since: z.exactOptional(since),
  ...judged,
});

/** `adder values --all`: every stage, with the findings of all of them together. */
const allValuesReport = report('all-values', {
  command: z.literal('values'),
  stages: z.array(z.strictObject({ stage: z.string(), values: z.array(valueRow) })),
  ...judged,
});

/** `only-first`: the second stage has no value. */
const relations = ['same', 'different', 'only-first', 'only-second', 'neither'] as const;

/** `adder compare`: two stages side by side. Values of public variables are shown; others are compared only. */
const compareReport = report('compare', {
  command: z.literal('compare'),
  stages: z.tuple([z.string(), z.string()]),
  compared: z.array(
    z.strictObject({
      name: z.string(),
      /** The bundle with layers of its own that the values are for. */
      bundle: z.exactOptional(z.string()),
      reach,
      relation: z.enum(relations),
      first: z.exactOptional(z.string()),
      second: z.exactOptional(z.string()),
    }),
  ),
  ...judged,
});

/** A build by its receipt, or a stage as it is now. */
const build = z.strictObject({
  stage: z.string(),
  /** The receipt's path, and when it was built; absent for a stage. */
  receipt: z.exactOptional(z.string()),
  builtAt: z.exactOptional(z.string()),
  /** SHA-256 of the contract. */
  contract: z.exactOptional(z.string()),
  revision: z.exactOptional(z.strictObject({ id: z.string(), dirty: z.boolean() })),
  tools: z.exactOptional(z.record(z.string(), z.string())),
});

/** `adder compare RECEIPT RECEIPT` and `adder compare RECEIPT STAGE`. */
const buildsReport = report('builds', {
  command: z.literal('compare'),
  bundle: z.string(),
  builds: z.tuple([build, build]),
  changes: z.array(change),
  /** Commands that build the bundle for the second stage, and write its values file. */
  rebuild: strings,
  reload: strings,
  /** The number of values that are the same. */
  same: natural,
  ...judged,
});

const whyStage = z.strictObject({
  stage: z.string(),
  /** The bundle with layers of its own that the value is for. */
  bundle: z.exactOptional(z.string()),
  state: z.enum([...valueStates, 'undeclared']),
  value: z.exactOptional(z.string()),
  from: z.exactOptional(source),
  /** Other layers with a value, in the order of the layers; they lost. */
  overrides: z.array(source),
  /** Names that the value refers to. */
  tookIn: strings,
  /** Layers without a value. */
  without: strings,
});

const whyBundle = z.strictObject({
  bundle: z.string(),
  /** The name that its code reads. */
  name: z.string(),
  code: z.array(z.strictObject({ path: z.string(), line: fromOne, column: fromOne })),
  /** The last build, and the places of its files that contained the value. */
  built: z.exactOptional(
    z.strictObject({
      stage: z.string(),
      at: z.string(),
      places: z.array(
        z.strictObject({ path: z.string(), inside: z.exactOptional(strings), offset: natural, length: natural }),
      ),
      modules: strings,
    }),
  ),
});

/** `adder why`: one variable in all stages and bundles. */
const whyReport = report('why', {
  command: z.literal('why'),
  variable: z.strictObject({
    name: z.string(),
    reach,
    declared: z.boolean(),
    form: z.exactOptional(z.string()),
    about: z.exactOptional(z.string()),
    at: z.exactOptional(z.strictObject({ path: z.string(), line: fromOne })),
  }),
  stages: z.array(whyStage),
  bundles: z.array(whyBundle),
  ...judged,
});

/** `adder draft`. */
const draftReport = report('draft', {
  command: z.literal('draft'),
  /** The path of the contract. */
  contract: z.string(),
  written: z.boolean(),
  /** True if the entries were added to an existing contract. */
  merged: z.boolean(),
  drafted: z.strictObject({
    stages: z.array(z.strictObject({ stage: z.string(), layers: strings, because: z.string() })),
    bundles: z.array(
      z.strictObject({ bundle: z.string(), runs: z.string(), toolchain: z.string(), because: z.string() }),
    ),
    variables: z.array(z.strictObject({ name: z.string(), reach, form: z.string(), because: strings })),
  }),
  ...judged,
});

/** `adder with STAGE --show-env`: names only, never values. */
const environmentReport = report('environment', {
  command: z.literal('with'),
  stage: z.string(),
  bundle: z.exactOptional(z.string()),
  given: z.array(z.strictObject({ name: z.string(), because: z.string() })),
  withheld: strings,
  /** Env files that the bundle's tool loads itself, and that exist. */
  readByTool: z.exactOptional(strings),
  ...judged,
});

/** `adder handoff`: names of hosts, never values. */
const handoffReport = report('handoff', {
  command: z.literal('handoff'),
  stage: z.string(),
  hosts: z.array(
    z.strictObject({
      host: z.string(),
      /** Where the listing comes from. */
      source: z.string(),
      /** Why it could not be compared. */
      because: z.exactOptional(z.string()),
      rows: z.array(
        z.strictObject({
          name: z.string(),
          variable: z.exactOptional(z.string()),
          reach: z.exactOptional(reach),
          scopes: z.array(z.enum(hostScopes)),
          state: z.enum(hostStates),
          found: z.exactOptional(z.string()),
        }),
      ),
      /** With `--apply`: what was set, or why not. */
      applied: z.exactOptional(z.array(z.strictObject({ name: z.string(), because: z.exactOptional(z.string()) }))),
      /** With `--apply`: what could not be set, because this machine has no valid value. */
      without: z.exactOptional(z.array(z.strictObject({ name: z.string(), because: z.string() }))),
    }),
  ),
  ...judged,
});

/** `adder trial`: where made-up values arrived. */
const trialReport = report('trial', {
  command: z.literal('trial'),
  stage: z.string(),
  bundle: z.string(),
  builtAt: z.iso.datetime(),
  /** True for an earlier trial, since which nothing changed. */
  isReused: z.boolean(),
  coverage,
  rows: z.array(trialRow),
  asked: z.array(askedName),
  ...judged,
});

/** `adder history`: which values variables had, without the values. Days are YYYY-MM-DD, UTC. */
const historyReport = report('history', {
  command: z.literal('history'),
  /** The only variable, if one was asked for. */
  variable: z.exactOptional(z.string()),
  /** `no key`: entries exist, and this machine cannot read any. */
  state: z.enum(['none', 'no key', 'open']),
  /** Entries that this machine's key does not open. */
  closed: natural,
  /** Why no other machine gets the history, if version control does not. */
  hidden: z.exactOptional(z.string()),
  today: z.string(),
  values: z.array(
    z.strictObject({
      id: z.string(),
      variable: z.string(),
      stage: z.string(),
      reach,
      from: z.string(),
      to: z.exactOptional(z.string()),
      because: z.exactOptional(z.string()),
      /** The stage has it here. */
      current: z.boolean(),
      /** The stage has another value here. */
      past: z.boolean(),
    }),
  ),
  /** Builds whose receipts name values of the history. */
  builds: z.array(
    z.strictObject({
      bundle: z.string(),
      stage: z.string(),
      builtAt: z.iso.datetime(),
      /** Ids of values. */
      values: strings,
      /** The site that was last seen to serve it. */
      servedAt: z.exactOptional(z.string()),
    }),
  ),
  unread: z.array(z.strictObject({ path: z.string(), because: z.string() })),
  ...judged,
});

/** Every report, by its kind. The package ships it as JSON Schema: schema/report.json. */
export const reportSchema = z.discriminatedUnion('kind', [
  findingsReport,
  valuesReport,
  allValuesReport,
  compareReport,
  buildsReport,
  whyReport,
  draftReport,
  environmentReport,
  handoffReport,
  trialReport,
  historyReport,
]);

export type { FindingsReport } from './findings-report.js';
export type ValuesReport = z.infer<typeof valuesReport>;
export type AllValuesReport = z.infer<typeof allValuesReport>;
export type HistoryReport = z.infer<typeof historyReport>;
export type CompareReport = z.infer<typeof compareReport>;
export type BuildsReport = z.infer<typeof buildsReport>;
export type WhyReport = z.infer<typeof whyReport>;
export type DraftReport = z.infer<typeof draftReport>;
export type HandoffReport = z.infer<typeof handoffReport>;
export type TrialReport = z.infer<typeof trialReport>;
export type EnvironmentReport = z.infer<typeof environmentReport>;
export type Report = Exclude<z.infer<typeof reportSchema>, { kind: 'findings' }> | FindingsReport;
export type ValueRow = z.infer<typeof valueRow>;
export type ComparedRow = CompareReport['compared'][number];
export type Relation = ComparedRow['relation'];
export type WhyStage = z.infer<typeof whyStage>;
export type WhyBundle = z.infer<typeof whyBundle>;
