import * as z from 'zod/mini';
import { actions } from '../findings/change.js';
import { type Code, codes, levels } from '../findings/codes.js';
import { reaches } from '../findings/reach.js';
import type { FactValue } from '../words/words.js';

export const natural = z.int().check(z.gte(0));
export const fromOne = z.int().check(z.gte(1));
export const reach = z.enum(reaches);
export const strings = z.array(z.string());

export const place = z.strictObject({
  path: z.string(),
  inside: strings,
  line: z.exactOptional(fromOne),
  column: z.exactOptional(fromOne),
  endLine: z.exactOptional(fromOne),
  endColumn: z.exactOptional(fromOne),
  offset: z.exactOptional(natural),
  length: z.exactOptional(natural),
});

export const origin = z.strictObject({ path: z.string(), line: fromOne, column: fromOne });

export const excerpt = z.strictObject({ line: fromOne, text: z.string(), column: fromOne, length: fromOne });

/** Any fact: findings of all codes have one schema. */
const fact: z.ZodMiniType<FactValue> = z.lazy(() =>
  z.union([z.string(), z.number(), z.boolean(), z.array(fact), z.record(z.string(), fact)]),
);

export const finding = z.strictObject({
  code: z.enum(Object.keys(codes) as [Code, ...Code[]]),
  /** The case of the code that the finding is about. */
  variant: z.string(),
  /** Facts for the message and the remedy, by name. */
  facts: z.record(z.string(), fact),
  level: z.enum(levels),
  variable: z.exactOptional(z.string()),
  reach: z.exactOptional(reach),
  stage: z.exactOptional(z.string()),
  bundle: z.exactOptional(z.string()),
  place: z.exactOptional(place),
  encoding: z.exactOptional(strings),
  origin: z.exactOptional(origin),
  /** Without a source map: names of functions, variables and properties around the place, from the outside inwards. */
  within: z.exactOptional(strings),
  /** Files from an entry to the place, each imported by the one before. */
  chain: z.exactOptional(strings),
  message: z.string(),
  remedy: z.string(),
  excerpt: z.exactOptional(excerpt),
  /** The layer that it is about, if that is a command. */
  layer: z.exactOptional(z.string()),
  fingerprint: z.string().check(z.regex(/^[0-9a-f]{32}$/)),
});

/** A finding before it is judged, as a rule returns it. */
export const rawFinding = z.extend(z.omit(finding, { level: true, fingerprint: true, message: true, remedy: true }), {
  level: z.exactOptional(z.enum(levels)),
});

const unread = z.strictObject({ path: z.string(), inside: strings, because: z.string() });

export const coverage = z.strictObject({
  files: natural,
  members: natural,
  bytes: natural,
  unread: z.array(unread),
  /** Never opened: pipes, sockets, devices, caches, packages. */
  skipped: z.exactOptional(z.array(unread)),
  notSearched: z.exactOptional(
    z.array(z.strictObject({ variable: z.string(), stage: z.string(), because: z.string() })),
  ),
  /** The search for values of the history, or why there was none. */
  past: z.exactOptional(
    z.union([
      z.strictObject({
        values: natural,
        until: z.string(),
        instead: z.array(z.strictObject({ variable: z.string(), values: natural })),
      }),
      z.strictObject({ because: z.string() }),
    ]),
  ),
});

/** Variables of the contract, checked files, and the public values in them (inspect only). */
export const contents = z.strictObject({
  variables: z.array(z.strictObject({ name: z.string(), reach })),
  files: z.array(
    z.strictObject({
      path: z.string(),
      bytes: natural,
      members: natural,
      bundle: z.exactOptional(z.string()),
      for: z.enum(['browser', 'server', 'cache']),
    }),
  ),
  values: z.array(
    z.strictObject({
      variable: z.string(),
      bundle: z.exactOptional(z.string()),
      path: z.string(),
      inside: strings,
      places: fromOne,
      origin: z.exactOptional(origin),
    }),
  ),
});

/** A value that differs from the one of a build, and what to do about it. */
export const change = z.strictObject({
  variable: z.string(),
  reach,
  /** Absent for a server value that no bundle gets. */
  bundle: z.exactOptional(z.string()),
  change: z.enum(['changed', 'added', 'removed']),
  action: z.enum(actions),
  because: z.string(),
  /** The files of the build that contained the value. */
  files: strings,
});

/** Changes since the last build of each bundle. */
export const since = z.array(
  z.strictObject({
    bundle: z.string(),
    stage: z.string(),
    builtAt: z.string(),
    rebuild: strings,
    reload: strings,
    changes: z.array(change),
  }),
);
