import * as z from 'zod/mini';
import { codePattern, levels } from '../findings/codes.js';
import { reaches } from '../findings/reach.js';
import { forms } from '../forms/index.js';
import { isDay } from '../text/day.js';
import { once } from '../text/once.js';
import { table } from '../text/table.js';
import { toolchains } from '../toolchains/index.js';
import { readFrom } from '../toolchains/read-from.js';
import { runsIn } from '../toolchains/toolchain.js';
import { buildModes, deliveries, mapRules, searches, slashRules } from './contract.js';
import { hostKeys, hostSchema } from './host-schema.js';
import { label, text, timedCommand, words } from './schema-parts.js';

// Compiling the checks takes longer than running them once.
z.config({ jitless: true });

/** A variable's name, as env files and every bundler can write it. */
export const variableName = z
  .string()
  .check(z.regex(/^[A-Za-z_][A-Za-z0-9_]*$/, 'use letters, digits and _; do not start with a digit'));

const fileName = z
  .string()
  .check(
    z.regex(
      /(^|\/)(\.(env|dev\.vars)(\.[^/]+)?|[^/]+\.(env|json|ya?ml|[cm]?[jt]s))$/,
      'use an env file (.env, .env.NAME, NAME.env), a .json, .yaml, .ts or .js file, `process`, or { command: [...] }',
    ),
  );

const flag = (usual: boolean) => z._default(z.boolean(), usual);

const fileLayer = z.strictObject({
  file: fileName,
  'must-exist': flag(false),
  key: z.optional(text('write the key under which the file has the values')),
});

const layer = z.union([z.literal('process'), fileName, fileLayer, timedCommand]);

const path = text('write a path');
const paths = z._default(
  z.union([
    z.pipe(
      path,
      z.transform((one) => [one]),
    ),
    z.array(path),
  ]),
  [],
);

const formName = z.enum(Object.keys(forms) as [string, ...string[]]);
const choiceForm = z.strictObject({ choice: z.array(z.string()).check(z.minLength(1, 'list the possible values')) });
const listForm = z.strictObject({ list: z.union([formName, choiceForm]) });
const form = z.union([formName, choiceForm, listForm]);

const pattern = z.string().check(z.refine((source) => isPattern(source), 'write a valid regular expression'));
const scalar = z.union([z.string(), z.number(), z.boolean()]);
/** All stages, none, or the named ones. */
const stages = z.union([z.boolean(), z.array(label)]);

const variable = z.strictObject({
  reach: z.enum(reaches),
  form: z._default(form, 'text'),
  about: z.optional(z.string()),
  example: z.optional(scalar),
  required: z._default(stages, true),
  default: z.optional(scalar),
  min: z.optional(z.number()),
  max: z.optional(z.number()),
  pattern: z.optional(pattern),
  https: z._default(stages, false),
  slash: z.optional(z.enum(slashRules)),
  distinct: z.optional(z.boolean()),
  same: flag(false),
  bundles: z.optional(z.array(label)),
  delivery: z._default(z.enum(deliveries), 'inline'),
  names: z._default(z.record(label, variableName), {}),
  aka: z._default(z.array(variableName), []),
  'secret-parts': flag(true),
  search: z._default(z.enum(searches), 'auto'),
});

/** The words of a command. It runs without a shell, so quotes and operators would have no effect. */
const command = z.union([
  z.pipe(
    z
      .string()
      .check(z.regex(/^[^"'`|&;<>$*\\]+$/, 'write a command with quotes or shell operators as a list of words')),
    z.transform((line: string) => line.trim().split(/\s+/)),
  ),
  words,
]);

const reads = z
  .string()
  .check(
    z.refine(
      (entry) => readFrom(entry) !== undefined,
      'use an object (import.meta.env), a call (window.env()), a module ($env/static/public), a constant (__*__), or a configuration (useRuntimeConfig().public.*)',
    ),
  );

const prefix = z.string().check(z.regex(/^[A-Za-z0-9_]*$/, 'use letters, digits and _'));

const siteUrl = z.string().check(z.refine(isSiteUrl, 'use a URL such as https://shop.example/, without a user name'));

const request = z
  .string()
  .check(
    z.regex(
      /^((GET|HEAD|POST|PUT|PATCH|DELETE|OPTIONS)\s+)?\/\S*(\s+@\S+)?$/i,
      'use a path such as /api/config, or POST /api/session @body.json',
    ),
  );

const servedSite = z.strictObject({
  url: siteUrl,
  headers: z._default(
    z.record(z.string().check(z.regex(/^[A-Za-z0-9-]+$/, 'use the name of a header')), z.string()),
    {},
  ),
  resolve: z._default(z.record(z.string(), z.string().check(z.regex(/^[0-9A-Fa-f.:]+$/, 'use an IP address'))), {}),
  ca: z.optional(path),
  also: z._default(z.array(request), []),
});

const bundle = z.strictObject({
  runs: z._default(z.enum(runsIn), 'browser'),
  toolchain: z._default(z.enum(Object.keys(toolchains) as [string, ...string[]]), 'other'),
  code: paths,
  entry: paths,
  'server-code': paths,
  output: paths,
  'server-output': z.optional(
    z.union([
      z.pipe(
        path,
        z.transform((one) => [one]),
      ),
      z.array(path),
    ]),
  ),
  'source-maps': z._default(z.enum(mapRules), 'allowed'),
  prefix: z.optional(z.union([prefix, z.array(prefix)])),
  layers: z._default(z.record(label, z.array(layer).check(z.minLength(1, 'list at least one layer'))), {}),
  build: z.optional(command),
  served: z._default(z.record(label, z.union([siteUrl, servedSite])), {}),
  reads: z.optional(z.array(reads).check(z.minLength(1, 'list what the code reads from, or remove `reads`'))),
});

const stage = z.strictObject({
  layers: z.array(layer).check(z.minLength(1, 'list at least one layer')),
  'build-as': z.optional(z.enum(buildModes)),
});

/** Codes of later versions are accepted, so that one contract serves a team with several versions. */
const codeName = z.string().check(z.regex(codePattern, 'use a code such as leak/known-value'));

const decision = once(() => ({
  because: text('say why it is accepted'),
  until: z.string().check(z.refine(isDay, 'use a date such as 2027-03-01')),
}));

const acceptedFinding = once(() =>
  z.strictObject({
    finding: codeName,
    where: z.exactOptional(path),
    variable: z.exactOptional(variableName),
    fingerprint: z.exactOptional(z.string()),
    ...decision(),
  }),
);

/** Files that cannot be read. */
const acceptedGap = once(() => z.strictObject({ unread: path, ...decision() }));

const acceptance = once(() => z.union([acceptedFinding(), acceptedGap()]));

const keep = z
  .string()
  .check(z.regex(/^[1-9]\d{0,3} (day|week|month|year)s?$/, 'write a time such as `90 days` or `2 years`'));

/** The history of values. */
const history = z.union([z.literal('required'), z.strictObject({ keep: z.optional(keep), required: flag(false) })]);

/** adder.yaml as it is written; docs/contract.md describes each key. */
export const contractSchema = z.strictObject({
  adder: z.literal(1),
  'default-stage': z.optional(label),
  stages: z.record(label, stage),
  bundles: z._default(z.record(label, bundle), {}),
  variables: z._default(z.record(variableName, z.union([z.enum(reaches), variable])), {}),
  accept: z._default(z.array(z.lazy(acceptance)), []),
  passes: z._default(z.array(variableName), []),
  levels: z._default(z.record(codeName, z.enum(levels)), {}),
  hosts: z._default(z.record(label, hostSchema), {}),
  history: z.optional(history),
});

export type RawContract = z.output<typeof contractSchema>;

/** The keys that a map of the contract may have, for the messages about unknown ones. */
export const knownKeys = once(
  (): Readonly<Record<string, readonly string[]>> =>
    table({
      contract: Object.keys(contractSchema.shape),
      stages: Object.keys(stage.shape),
      bundles: Object.keys(bundle.shape),
      variables: Object.keys(variable.shape),
      accept: [...Object.keys(acceptedFinding().shape), 'unread'],
      form: [...Object.keys(choiceForm.shape), ...Object.keys(listForm.shape)],
      history: ['keep', 'required'],
      ...hostKeys(),
      layers: [...Object.keys(fileLayer.shape), ...Object.keys(timedCommand.shape)],
    }),
);

function isSiteUrl(text: string): boolean {
  if (!URL.canParse(text)) return false;
  const { protocol, username, password } = new URL(text);
  return /^https?:$/.test(protocol) && username === '' && password === '';
}

function isPattern(text: string): boolean {
  try {
    return new RegExp(text, 'u') !== undefined;
  } catch {
    return false;
  }
}
