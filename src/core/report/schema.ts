import * as z from 'zod';
import { reaches } from '../contract/contract.js';
import { type Code, codes } from '../findings/codes.js';
import { valueStates } from '../resolve/value-state.js';

const natural = z.int().min(0);
const fromOne = z.int().min(1);

const place = z.strictObject({
  path: z.string(),
  inside: z.array(z.string()),
  line: fromOne.optional(),
  column: fromOne.optional(),
  offset: natural.optional(),
  length: natural.optional(),
});

const finding = z.strictObject({
  code: z.enum(Object.keys(codes) as [Code, ...Code[]]),
  level: z.enum(['error', 'warning', 'note']),
  variable: z.string().optional(),
  stage: z.string().optional(),
  bundle: z.string().optional(),
  place: place.optional(),
  encoding: z.array(z.string()).optional(),
  origin: z.strictObject({ path: z.string(), line: fromOne, column: fromOne }).optional(),
  message: z.string(),
  remedy: z.string(),
  fingerprint: z.string().regex(/^[0-9a-f]{32}$/),
});

const summary = z.strictObject({ error: natural, warning: natural, note: natural, accepted: natural });

const unread = z.strictObject({ path: z.string(), inside: z.array(z.string()), because: z.string() });

const coverage = z.strictObject({
  files: natural,
  members: natural,
  bytes: natural,
  unread: z.array(unread),
  passedOver: z.array(unread).optional(),
  notSearched: z.array(z.strictObject({ variable: z.string(), stage: z.string(), because: z.string() })).optional(),
});

const source = z.strictObject({
  layer: z.string(),
  path: z.string().optional(),
  line: fromOne.optional(),
  column: fromOne.optional(),
});

const value = z.strictObject({
  name: z.string(),
  reach: z.enum(reaches),
  form: z.string(),
  state: z.enum(valueStates),
  value: z.string().optional(),
  from: source.optional(),
  overrides: z.array(source),
  names: z.record(z.string(), z.string()),
});

const valuesReport = z.strictObject({
  report: z.literal(1),
  command: z.literal('values'),
  stage: z.string(),
  values: z.array(value),
  findings: z.array(finding),
  summary,
});

const allValuesReport = z.strictObject({
  report: z.literal(1),
  command: z.literal('values'),
  stages: z.array(z.strictObject({ stage: z.string(), values: z.array(value) })),
  findings: z.array(finding),
  summary,
});

const compareReport = z.strictObject({
  report: z.literal(1),
  command: z.literal('compare'),
  stages: z.tuple([z.string(), z.string()]),
  compared: z.array(
    z.strictObject({
      name: z.string(),
      reach: z.enum(reaches),
      relation: z.enum(['same', 'different', 'only-first', 'only-second', 'neither']),
      first: z.string().optional(),
      second: z.string().optional(),
    }),
  ),
  findings: z.array(finding),
  summary,
});

const heldPlace = z.strictObject({ path: z.string(), offset: natural, length: natural });

const whyReport = z.strictObject({
  report: z.literal(1),
  command: z.literal('why'),
  variable: z.strictObject({
    name: z.string(),
    reach: z.enum(reaches),
    declared: z.boolean(),
    form: z.string().optional(),
    about: z.string().optional(),
    at: z.strictObject({ path: z.string(), line: fromOne }).optional(),
  }),
  stages: z.array(
    z.strictObject({
      stage: z.string(),
      state: z.enum([...valueStates, 'undeclared']),
      value: z.string().optional(),
      from: source.optional(),
      overrides: z.array(source),
      tookIn: z.array(z.string()),
      without: z.array(z.string()),
    }),
  ),
  bundles: z.array(
    z.strictObject({
      bundle: z.string(),
      name: z.string(),
      code: z.array(z.strictObject({ path: z.string(), line: fromOne, column: fromOne })),
      built: z
        .strictObject({ stage: z.string(), at: z.string(), places: z.array(heldPlace), modules: z.array(z.string()) })
        .optional(),
    }),
  ),
  findings: z.array(finding),
  summary,
});

const draftReport = z.strictObject({
  report: z.literal(1),
  command: z.literal('draft'),
  contract: z.string(),
  written: z.boolean(),
  merged: z.boolean(),
  drafted: z.strictObject({
    stages: z.array(z.strictObject({ stage: z.string(), layers: z.array(z.string()), because: z.string() })),
    bundles: z.array(
      z.strictObject({ bundle: z.string(), runs: z.string(), toolchain: z.string(), because: z.string() }),
    ),
    variables: z.array(
      z.strictObject({ name: z.string(), reach: z.enum(reaches), form: z.string(), because: z.array(z.string()) }),
    ),
  }),
  findings: z.array(finding),
  summary,
});

/** `adder with STAGE --show-env`: names alone. */
const environmentReport = z.strictObject({
  report: z.literal(1),
  command: z.literal('with'),
  stage: z.string(),
  bundle: z.string().optional(),
  given: z.array(z.strictObject({ name: z.string(), because: z.string() })),
  withheld: z.array(z.string()),
  /** Env files that the bundle's tool reads by itself, and that are there. */
  readByTool: z.array(z.string()).optional(),
});

const findingsReport = z.strictObject({
  report: z.literal(1),
  command: z.string(),
  stage: z.string().optional(),
  coverage: coverage.optional(),
  findings: z.array(finding),
  summary,
});

/** What `--format json` prints. The package ships it as JSON Schema: schema/report.json. */
export const reportSchema = z.union([
  valuesReport,
  allValuesReport,
  compareReport,
  whyReport,
  draftReport,
  environmentReport,
  findingsReport,
]);
