import * as z from 'zod/mini';
import { levels } from '../findings/codes.js';
import { contents, coverage, excerpt, fromOne, natural, place, rawFinding, reach, since, strings } from './shapes.js';

const held = z.strictObject({
  path: z.string(),
  inside: z.exactOptional(strings),
  offset: natural,
  length: natural,
});

/** A receipt, compared with the stage at the time when the facts were collected. */
const build = z.strictObject({
  bundle: z.string(),
  stage: z.string(),
  builtAt: z.string(),
  receipt: z.string(),
  rebuild: strings,
  files: z.array(
    z.strictObject({ name: z.string(), sha256: z.string(), isUntouched: z.exactOptional(z.literal(true)) }),
  ),
  values: z.array(
    z.strictObject({
      variable: z.string(),
      relation: z.enum(['same', 'changed', 'withdrawn', 'unknown']),
      current: z.exactOptional(z.string()),
      isPublic: z.boolean(),
      isBuildValue: z.boolean(),
      places: z.array(held),
      modules: strings,
    }),
  ),
  added: strings,
  servesStage: z.boolean(),
  isOfOtherKey: z.exactOptional(z.literal(true)),
});

/** Facts about one output. Facts of a site are never saved: a site is not inspected in parts. */
const output = z.strictObject({
  bundle: z.exactOptional(z.string()),
  isWhole: z.boolean(),
  found: z.array(rawFinding),
  present: strings,
  expected: z.array(z.strictObject({ variable: z.string(), leavesTrace: z.boolean() })),
  reads: z.array(z.strictObject({ variable: z.string(), place })),
  uncached: z.exactOptional(z.string()),
  inCode: z.array(z.strictObject({ variable: z.string(), hasValue: z.boolean(), source: z.exactOptional(z.string()) })),
  past: z.array(
    z.strictObject({
      variable: z.string(),
      builtAt: z.string(),
      place,
      source: z.exactOptional(z.string()),
      caches: strings,
      uncached: z.exactOptional(z.string()),
    }),
  ),
  build: z.exactOptional(build),
  earlier: z.array(build),
  hasBuilds: z.boolean(),
  files: z.array(z.strictObject({ path: z.string(), inside: strings, sha256: strings })),
  located: z.array(
    z.strictObject({
      receipt: z.string(),
      variable: z.string(),
      path: z.string(),
      offset: natural,
      place,
      excerpt: z.exactOptional(excerpt),
    }),
  ),
  loadTime: z.array(rawFinding),
  skipped: strings,
});

/** Everything that a shard of `adder inspect --shard` collected, and the rules that judge the findings of all shards. */
export const savedFacts = z.strictObject({
  stage: z.string(),
  variables: z.array(z.strictObject({ name: z.string(), reach })),
  coverage,
  withoutValue: strings,
  withoutHistory: z.exactOptional(z.string()),
  outputs: z.array(output),
  contents: z.exactOptional(contents),
  since,
  isAll: z.boolean(),
  builtStage: z.exactOptional(z.string()),
  shards: z.array(z.strictObject({ part: fromOne, of: fromOne, listing: z.string() })),
  rules: z.strictObject({
    path: z.string(),
    levels: z.record(z.string(), z.enum(levels)),
    accept: z.array(
      z.strictObject({
        finding: z.exactOptional(z.string()),
        unread: z.exactOptional(z.string()),
        where: z.exactOptional(z.string()),
        variable: z.exactOptional(z.string()),
        fingerprint: z.exactOptional(z.string()),
        because: z.string(),
        until: z.string(),
        at: z.strictObject({ line: fromOne, column: fromOne, offset: natural }),
      }),
    ),
  }),
});
