import type { deliveries } from '../contract/contract.js';
import type { Reach } from '../findings/reach.js';
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

/** A value that a build was given. */
export interface ReceiptValue {
  name: string;
  reach: Reach;
  /** The name that the build saw it under. */
  readAs: string;
  /** See {@link fingerprint}. */
  fingerprint: string;
  /** Id of the value's entry in the history, if it has one. */
  entry?: string;
  from?: { layer: string; path?: string; line?: number };
  /** How it reaches the code; absent in receipts of earlier versions. */
  delivery?: (typeof deliveries)[number];
  /** The first places in the artifacts right after the build. */
  places: HeldPlace[];
  /** The artifacts were not searched for it, because ordinary text may contain it. */
  isUnsought?: true;
  /**
   * The modules that read it, by paths from the contract's directory: as the plugin recorded them, or else as the code says.
   * Absent if the code may also read it in a way that no analysis sees.
   */
  modules?: string[];
  /** The modules read it only in ways that a framework's server fills as it starts. */
  isReadAtStart?: true;
}

/** A value of the stage that the build did not get: the server reads it, or the app when it loads. */
export type OtherValue = Pick<ReceiptValue, 'name' | 'reach' | 'fingerprint' | 'from'> & {
  delivery: (typeof deliveries)[number];
};

/** The state of version control before a build. */
export interface Revision {
  /** The commit's full id. */
  id: string;
  /** True if files differed from the commit. */
  dirty: boolean;
}

/**
 * The record of one build, as an in-toto Statement v1 whose subjects are the output files. It holds no value: only
 * fingerprints under a key that never leaves the machine.
 */
export interface Receipt {
  _type: typeof STATEMENT_TYPE;
  /** Output files; `bytes` is their size, absent in receipts of earlier versions. */
  subject: { name: string; digest: { sha256: string }; annotations?: { bytes: number } }[];
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
    /** Load-time and server values, to tell later whether they changed. */
    others?: OtherValue[];
    /** SHA-256 of the contract's file. */
    contract?: string;
    revision?: Revision;
    /** Versions of Node.js and of the bundle's build tool, by package name. */
    tools?: Record<string, string>;
    /** The {@link keyMark} of the fingerprint key. Fingerprints of different keys cannot be compared. */
    key?: string;
    /** Output files, by their names, that stood there before and that this build did not write. */
    untouched?: string[];
  };
}

/** `digests`: SHA-256 of each output file, by its name. `sizes`: in bytes. */
export type ReceiptFacts = Receipt['predicate'] & {
  digests: ReadonlyMap<string, string>;
  sizes?: ReadonlyMap<string, number>;
};

export function makeReceipt({ digests, sizes, ...predicate }: ReceiptFacts): Receipt {
  const subject = [...digests].map(([name, sha256]) => {
    const bytes = sizes?.get(name);
    return { name, digest: { sha256 }, ...(bytes !== undefined && { annotations: { bytes } }) };
  });
  return { _type: STATEMENT_TYPE, subject, predicateType: PREDICATE_TYPE, predicate };
}

/**
 * A value's keyed fingerprint: HMAC-SHA-256 (RFC 2104) over the name and the value. Without the key, a short value cannot be
 * guessed from it, and it does not show that two variables have the same value.
 * @param key at least 32 bytes
 */
export function fingerprint(key: Uint8Array, name: string, value: Secret): string {
  return hmacSha256(key, `${name}\0${reveal(value)}`).toString('hex');
}

/** Tells keys apart without showing anything of them. */
export function keyMark(key: Uint8Array): string {
  return hmacSha256(key, 'key').toString('hex').slice(0, 16);
}

/** Tells whether a receipt's fingerprints are of a key. Older receipts do not name theirs. */
export function isOfKey({ predicate }: Receipt, key: Uint8Array | undefined): boolean {
  return predicate.key === undefined || (key !== undefined && predicate.key === keyMark(key));
}

/**
 * The command that repeats a build for a stage.
 * @param build the command that the contract has for the bundle
 */
export function rebuildCommand(stage: string, { predicate }: Receipt, build: readonly string[] | undefined): string[] {
  const { bundle, command } = predicate;
  const isUsual = command.join(' ') === build?.join(' ');
  return ['adder', 'with', stage, '--bundle', bundle, ...(isUsual ? [] : ['--', ...command])];
}
