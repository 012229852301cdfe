import * as z from 'zod/mini';

const texts = z.array(z.string());

/** The values of a stage: names of variables that have none, and those whose values are wrong. */
const stage = z.strictObject({ stage: z.string(), lacking: texts, wrong: texts });

/** The last build of a bundle through `adder with`. */
const build = z.strictObject({
  stage: z.string(),
  at: z.iso.datetime(),
  /** Changes since then, as phrases: names of variables, numbers of files. Empty for a current build. */
  since: texts,
});

const bundle = z.strictObject({
  bundle: z.string(),
  /** Absent if there is none. */
  build: z.exactOptional(build),
  /** Why the receipt of the last build cannot be read, as a phrase after its path. */
  unread: z.exactOptional(z.string()),
});

const answer = z.enum(['yes', 'no', 'not known', 'not asked']);

/** The last gate of a stage, or the last trial of a bundle. */
const check = z.strictObject({
  check: z.enum(['gate', 'trial']),
  stage: z.string(),
  bundle: z.exactOptional(z.string()),
  at: z.iso.datetime(),
  passed: z.boolean(),
  answers: z.exactOptional(z.strictObject({ nothingLeaked: answer, allThere: answer, current: answer })),
  errors: z.number(),
  warnings: z.number(),
  since: texts,
});

/** The command that comes next, and why; without a command, what a person has to do, or that nothing is left. */
const step = z.strictObject({ command: z.exactOptional(z.string()), because: z.string() });

/**
 * Where a project stands, as its files, receipts and kept results say. Nothing is built or searched for it. No value is in it.
 */
export const overviewSchema = z.strictObject({
  report: z.literal(1),
  kind: z.literal('overview'),
  /** Absent if there is no contract, or no valid one. */
  contract: z.exactOptional(z.strictObject({ path: z.string(), variables: z.number() })),
  /** Mistakes in the contract, each with its place. */
  mistakes: texts,
  stages: z.array(stage),
  bundles: z.array(bundle),
  checks: z.array(check),
  next: step,
});

export type Overview = z.infer<typeof overviewSchema>;
export type Step = z.infer<typeof step>;
export type BundleOverview = z.infer<typeof bundle>;
export type CheckOverview = z.infer<typeof check>;
