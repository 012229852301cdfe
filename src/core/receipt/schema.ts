import * as z from 'zod/mini';
import { deliveries } from '../contract/contract.js';
import { reaches } from '../findings/reach.js';
import { PREDICATE_TYPE, type Receipt, STATEMENT_TYPE } from './receipt.js';

const place = z.object({
  path: z.string(),
  inside: z.optional(z.array(z.string())),
  offset: z.number(),
  length: z.number(),
});
const identity = {
  name: z.string(),
  reach: z.enum(reaches),
  fingerprint: z.string(),
  from: z.optional(z.object({ layer: z.string(), path: z.optional(z.string()), line: z.optional(z.number()) })),
};
const value = z.object({
  ...identity,
  readAs: z.string(),
  entry: z.optional(z.string()),
  delivery: z.optional(z.enum(deliveries)),
  places: z.array(place),
  isUnsought: z.optional(z.literal(true)),
  modules: z.optional(z.array(z.string())),
  isReadAtStart: z.optional(z.literal(true)),
});

/** A receipt as it is stored. The package ships it as JSON Schema: schema/receipt.json. */
export const receiptSchema = z.object({
  _type: z.literal(STATEMENT_TYPE),
  subject: z.array(
    z.object({
      name: z.string(),
      digest: z.object({ sha256: z.string() }),
      annotations: z.optional(z.object({ bytes: z.number() })),
    }),
  ),
  predicateType: z.literal(PREDICATE_TYPE),
  predicate: z.object({
    bundle: z.string(),
    stage: z.string(),
    builtAt: z.iso.datetime(),
    adder: z.string(),
    command: z.array(z.string()),
    values: z.array(value),
    others: z.optional(z.array(z.object({ ...identity, delivery: z.enum(deliveries) }))),
    contract: z.optional(z.string()),
    revision: z.optional(z.object({ id: z.string(), dirty: z.boolean() })),
    tools: z.optional(z.record(z.string(), z.string())),
    key: z.optional(z.string()),
    untouched: z.optional(z.array(z.string())),
  }),
});

/** Parses a receipt. Returns undefined if the text is not a valid receipt of this version. */
export function parseReceipt(text: string): Receipt | undefined {
  try {
    const { success, data } = receiptSchema.safeParse(JSON.parse(text));
    return success ? (data as Receipt) : undefined;
  } catch {
    return undefined;
  }
}
