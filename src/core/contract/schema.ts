import * as z from 'zod';
import { codePattern } from '../findings/codes.js';
import { reaches } from '../findings/reach.js';
import { forms } from '../forms/index.js';
import { table } from '../text/table.js';
import { toolchains } from '../toolchains/index.js';
import { readFrom } from '../toolchains/read-from.js';
import { runsIn } from '../toolchains/toolchain.js';
import { buildModes, deliveries, searches, slashRules } from './contract.js';

// A contract is checked once: to compile the check takes longer than to do it.
z.config({ jitless: true });

/** A variable's name, as env files and every bundler can write it. */
export const variableName = z
  .string()
  .regex(/^[A-Za-z_][A-Za-z0-9_]*$/, 'a name is letters, digits and _, not starting with a digit');

const label = z.string().regex(/^[A-Za-z0-9][A-Za-z0-9._-]*$/, 'a name is letters, digits, dots, - and _');

const fileName = z
  .string()
  .regex(
    /(^|\/)(\.env(\.[^/]+)?|[^/]+\.(env|json|ya?ml|[cm]?[jt]s))$/,
    'a layer is an env file (.env, .env.NAME, NAME.env), a .json or .yaml file, a .ts or .js module of constants, the word process, or { command: [...] }',
  );

const fileLayer = z.strictObject({ file: fileName, 'must-exist': z.boolean().default(false) });
const commandLayer = z.strictObject({
  command: z.array(z.string().min(1)).min(1, 'a command needs a program'),
  seconds: z.number().positive().default(30),
});

const layer = z.union([z.literal('process'), fileName, fileLayer, commandLayer]);

const path = z.string().min(1, 'a path cannot be empty');
const paths = z.union([path.transform((one) => [one]), z.array(path)]);

const formName = z.enum(Object.keys(forms) as [string, ...string[]]);
const choiceForm = z.strictObject({ choice: z.array(z.string()).min(1, 'a choice needs words to choose from') });
const listForm = z.strictObject({ list: z.union([formName, choiceForm]) });
const form = z.union([formName, choiceForm, listForm]);

const pattern = z.string().refine((text) => isPattern(text), 'it is not a regular expression');

const variable = z.strictObject({
  reach: z.enum(reaches),
  form: form.default('text'),
  about: z.string().optional(),
  example: z.union([z.string(), z.number(), z.boolean()]).optional(),
  required: z.union([z.boolean(), z.array(label)]).default(true),
  default: z.union([z.string(), z.number(), z.boolean()]).optional(),
  min: z.number().optional(),
  max: z.number().optional(),
  pattern: pattern.optional(),
  https: z.union([z.boolean(), z.array(label)]).default(false),
  slash: z.enum(slashRules).optional(),
  distinct: z.boolean().optional(),
  same: z.boolean().default(false),
  bundles: z.array(label).optional(),
  delivery: z.enum(deliveries).default('inline'),
  names: z.record(label, variableName).default({}),
  aka: z.array(variableName).default([]),
  'secret-parts': z.boolean().default(true),
  search: z.enum(searches).default('auto'),
});

/** Words of a command. It is run without a shell, so a text with signs of one has to say which words it means. */
const command = z.union([
  z
    .string()
    .regex(/^[^"'`|&;<>$*\\]+$/, 'a command with quotes or signs of a shell is written as a list of words')
    .transform((text) => text.trim().split(/\s+/)),
  z.array(z.string().min(1)).min(1, 'a command needs a program'),
]);

const reads = z
  .string()
  .refine(
    (entry) => readFrom(entry) !== undefined,
    'code reads from an object (import.meta.env), a call (window.env()), a module ($env/static/public), a constant (__*__), or a configuration (useRuntimeConfig().public.*)',
  );

const bundle = z.strictObject({
  runs: z.enum(runsIn).default('browser'),
  toolchain: z.enum(Object.keys(toolchains) as [string, ...string[]]).default('other'),
  code: paths.default([]),
  entry: paths.default([]),
  'server-code': paths.default([]),
  output: paths.default([]),
  'server-output': paths.optional(),
  prefix: z
    .string()
    .regex(/^[A-Za-z0-9_]*$/, 'a prefix is letters, digits and _')
    .optional(),
  build: command.optional(),
  reads: z.array(reads).min(1, 'name what the code reads from, or leave reads out').optional(),
});

const stage = z.strictObject({
  layers: z.array(layer).min(1, 'a stage needs at least one layer'),
  'build-as': z.enum(buildModes).optional(),
});

/** Codes of later versions are let through, so that one contract serves a team whose versions differ. */
const codeName = z.string().regex(codePattern, 'a finding is named by its code, such as leak/known-value');

const acceptance = z.strictObject({
  finding: codeName,
  where: path.optional(),
  variable: variableName.optional(),
  fingerprint: z.string().optional(),
  because: z.string().min(1, 'say why the finding is accepted'),
  until: z.iso.date('until is a date such as 2027-03-01'),
});

const level = z.enum(['error', 'warning', 'note']);

/** adder.yaml as it is written; docs/contract.md describes each key. */
export const contractSchema = z.strictObject({
  adder: z.literal(1),
  stages: z.record(label, stage),
  bundles: z.record(label, bundle).default({}),
  variables: z.record(variableName, z.union([z.enum(reaches), variable])).default({}),
  accept: z.array(acceptance).default([]),
  passes: z.array(variableName).default([]),
  levels: z.record(codeName, level).default({}),
});

export type RawContract = z.output<typeof contractSchema>;

/** The keys that a map of the contract may have, for the messages about unknown ones. */
export const knownKeys: Readonly<Record<string, readonly string[]>> = table({
  contract: Object.keys(contractSchema.shape),
  stages: Object.keys(stage.shape),
  bundles: Object.keys(bundle.shape),
  variables: Object.keys(variable.shape),
  accept: Object.keys(acceptance.shape),
  form: [...Object.keys(choiceForm.shape), ...Object.keys(listForm.shape)],
  layers: [...Object.keys(fileLayer.shape), ...Object.keys(commandLayer.shape)],
});

function isPattern(text: string): boolean {
  try {
    return new RegExp(text, 'u') !== undefined;
  } catch {
    return false;
  }
}
