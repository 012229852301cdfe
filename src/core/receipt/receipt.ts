import * as z from 'zod/mini';
import { type Reach, reaches } from '../findings/reach.js';
import { reveal, type Secret } from '../secrets/secret.js';
import { hmacSha256 } from '../text/hash.js';

export const STATEMENT_TYPE = 'https://in-toto.io/Statement/v1';
export const PREDICATE_TYPE = 'https://adder.example/receipt/v1';

/** A place of an artifact that holds a value, in bytes of the file, or of the embedded file that `inside` leads to. */
export interface HeldPlace {
  path: string;
  inside?: string[];
  offset: number;
  length: number;
}

/** A value as it was given to a build. */
export interface ReceiptValue {
  name: string;
  reach: Reach;
  /** The name that the build saw it under. */
  readAs: string;
  /** See {@link fingerprint}. */
  fingerprint: string;
  from?: { layer: string; path?: string; line?: number };
  /** For public values: the first places in the artifacts right after the build. */
  places: HeldPlace[];
  /** If a plugin did the inlining: the modules that read it, by paths from the contract's directory. */
  modules?: string[];
}

/**
 * The record of one build, as an in-toto Statement v1 whose subjects are the output files. It holds no value: only
 * fingerprints under a key that never leaves the machine.
 */
export interface Receipt {
  _type: typeof STATEMENT_TYPE;
  subject: { name: string; digest: { sha256: string } }[];
  predicateType: typeof PREDICATE_TYPE;
  predicate: {
    bundle: string;
    stage: string;
    /** ISO 8601, UTC. */
    builtAt: string;
    adder: string;
    /** The command and its arguments, with values masked. */
    command: string[];
    values: ReceiptValue[];
    /** Output files, by their names, that stood there before and that this build did not write. */
    untouched?: string[];
  };
}

export type ReceiptFacts = Receipt['predicate'] & { digests: ReadonlyMap<string, string> };

export function makeReceipt({ digests, ...predicate }: ReceiptFacts): Receipt {
  const subject = [...digests].map(([name, sha256]) => ({ name, digest: { sha256 } }));
  return { _type: STATEMENT_TYPE, subject, predicateType: PREDICATE_TYPE, predicate };
}

const place = z.object({
  path: z.string(),
  inside: z.optional(z.array(z.string())),
  offset: z.number(),
  length: z.number(),
});
const value = z.object({
  name: z.string(),
  reach: z.enum(reaches),
  readAs: z.string(),
  fingerprint: z.string(),
  from: z.optional(z.object({ layer: z.string(), path: z.optional(z.string()), line: z.optional(z.number()) })),
  places: z.array(place),
  modules: z.optional(z.array(z.string())),
});
const schema = z.object({
  _type: z.literal(STATEMENT_TYPE),
  subject: z.array(z.object({ name: z.string(), digest: z.object({ sha256: z.string() }) })),
  predicateType: z.literal(PREDICATE_TYPE),
  predicate: z.object({
    bundle: z.string(),
    stage: z.string(),
    builtAt: z.iso.datetime(),
    adder: z.string(),
    command: z.array(z.string()),
    values: z.array(value),
    untouched: z.optional(z.array(z.string())),
  }),
});

/** Parses a receipt. Returns undefined if the text is not a valid receipt of this version. */
export function parseReceipt(text: string): Receipt | undefined {
  try {
    const { success, data } = schema.safeParse(JSON.parse(text));
    return success ? (data as Receipt) : undefined;
  } catch {
    return undefined;
  }
}

/**
 * A value's keyed fingerprint: HMAC-SHA-256 (RFC 2104) over the name and the value. Without the key, a short value cannot be
 * guessed from it, and it does not show that two variables have the same value.
 * @param key at least 32 bytes
 */
export function fingerprint(key: Uint8Array, name: string, value: Secret): string {
  return hmacSha256(key, `${name}\0${reveal(value)}`).toString('hex');
}
