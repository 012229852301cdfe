import * as z from 'zod';
import { type Code, codes } from '../findings/codes.js';
import { forms } from '../forms/index.js';
import { reaches, runsIn } from './contract.js';
import { toolchains } from './toolchains.js';

/** A variable's name, as env files and every bundler can write it. */
export const variableName = z
  .string()
  .regex(/^[A-Za-z_][A-Za-z0-9_]*$/, 'a name is letters, digits and _, not starting with a digit');

const label = z.string().regex(/^[A-Za-z0-9][A-Za-z0-9._-]*$/, 'a name is letters, digits, dots, - and _');

const envFileLayer = z
  .string()
  .regex(
    /(^|\/)(\.env(\.[^/]+)?|[^/]+\.env)$/,
    'a layer is an env file (.env, .env.NAME, NAME.env) or the word process',
  );

const path = z.string().min(1, 'a path cannot be empty');
const paths = z.union([path.transform((one) => [one]), z.array(path)]);

const choiceForm = z.strictObject({ choice: z.array(z.string()).min(1, 'a choice needs words to choose from') });

const form = z.union([z.enum(Object.keys(forms) as [string, ...string[]]), choiceForm]);

const variable = z.strictObject({
  reach: z.enum(reaches),
  form: form.default('text'),
  about: z.string().optional(),
  required: z.union([z.boolean(), z.array(label)]).default(true),
  default: z.union([z.string(), z.number(), z.boolean()]).optional(),
  min: z.number().optional(),
  bundles: z.array(label).optional(),
});

const bundle = z.strictObject({
  runs: z.enum(runsIn).default('browser'),
  toolchain: z.enum(Object.keys(toolchains) as [string, ...string[]]).default('other'),
  code: paths.default([]),
  output: paths.default([]),
  prefix: z
    .string()
    .regex(/^[A-Za-z0-9_]*$/, 'a prefix is letters, digits and _')
    .optional(),
});

const stage = z.strictObject({
  layers: z.array(z.union([z.literal('process'), envFileLayer])).min(1, 'a stage needs at least one layer'),
});

const level = z.enum(['error', 'warning', 'note']);

/** adder.yaml as it is written; docs/contract.md describes each key. */
export const contractSchema = z.strictObject({
  adder: z.literal(1),
  stages: z.record(label, stage),
  bundles: z.record(label, bundle).default({}),
  variables: z.record(variableName, z.union([z.enum(reaches), variable])).default({}),
  passes: z.array(variableName).default([]),
  levels: z.partialRecord(z.enum(Object.keys(codes) as [Code, ...Code[]]), level).default({}),
});

export type RawContract = z.output<typeof contractSchema>;

/** The keys that a map of the contract may have, for the messages about unknown ones. */
export const knownKeys: Readonly<Record<string, readonly string[]>> = {
  contract: Object.keys(contractSchema.shape),
  stages: Object.keys(stage.shape),
  bundles: Object.keys(bundle.shape),
  variables: Object.keys(variable.shape),
  form: Object.keys(choiceForm.shape),
};
