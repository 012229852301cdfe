import * as z from 'zod/mini';
import { type Reach, reaches } from '../findings/reach.js';
import { windowKinds } from '../search/windows/byte-windows.js';
import { reveal, type Secret } from '../secrets/secret.js';
import { hmacSha256 } from '../text/hash.js';
import { SEAL_BYTES, seal, unseal } from '../text/sealed.js';
import { isSecretByText } from '../tokens/strength.js';
import { FEWEST_BITS, strengthInBits } from './guess-bits.js';
import { type HashedWindows, hashWindows } from './hashes.js';
import { FILE_BYTES, type SectionKeys } from './keys.js';
import { chooseWindows } from './windows.js';

const PLAIN_BYTES = FILE_BYTES - SEAL_BYTES;

/** Public text that an entry keeps; a longer value is known by its windows. */
const MOST_TEXT = 480;

/** A value that a variable had in a stage. It is not in the entry, unless it is public and guessable anyway. */
export interface ValueEntry {
  is: 'value';
  variable: string;
  stage: string;
  reach: Reach;
  /** Day when it was first recorded: YYYY-MM-DD, UTC. */
  day: string;
  /** Length in bytes. */
  length: number;
  /** Strength in bits, rounded down to a multiple of 32. */
  bits: number;
  /** HMAC of the value, in hexadecimal. */
  fingerprint: string;
  windows?: HashedWindows;
  /** A public value that looks like no secret. */
  text?: string;
}

/** The day when a value was replaced, and why. */
export interface Retirement {
  is: 'retired';
  /** Id of the value's entry. */
  entry: string;
  day: string;
  because?: string;
}

/** A value that was recorded again when the key changed. */
export interface Renewal {
  is: 'renewed';
  /** Id of the entry in the older section, and of that in the newer one. */
  entry: string;
  as: string;
}

export type Entry = ValueEntry | Retirement | Renewal;

/** Why a value is not kept, as a phrase after its name. */
export type NotKept = { notKept: string };

/** Facts that an entry is made from. */
export interface RecordedValue {
  variable: string;
  stage: string;
  reach: Reach;
  value: Secret;
  day: string;
}

/** Makes the entry of a value: a function of the arguments alone. */
export function makeEntry(keys: SectionKeys, { value, ...about }: RecordedValue): ValueEntry | NotKept {
  const text = reveal(value);
  const bytes = Buffer.from(text);
  const bits = strengthInBits(text);
  if (bytes.length > 0xffff) return { notKept: 'is too long' };
  const common = {
    is: 'value' as const,
    ...about,
    length: bytes.length,
    bits: Math.floor(bits / 32) * 32,
    fingerprint: valueFingerprint(keys, about.variable, bytes),
  };
  if (about.reach === 'public' && !isSecretByText(text) && bytes.length <= MOST_TEXT)
    return fitting({ ...common, text });
  if (bits < FEWEST_BITS)
    return { notKept: `has fewer than ${FEWEST_BITS} bits of strength, so whoever has the key could guess it` };
  const chosen = chooseWindows(bytes);
  if (!chosen) return { notKept: 'has no long random part by which it could be recognised' };
  return fitting({ ...common, windows: hashWindows(keys.windows, bytes, chosen) });
}

/** An entry fits in its file unless its names are long. */
function fitting(entry: ValueEntry): ValueEntry | NotKept {
  return Buffer.byteLength(encoded(entry)) <= PLAIN_BYTES ? entry : { notKept: 'has a name that is too long' };
}

/** HMAC-SHA-256 (RFC 2104) of a value under the name of its variable, in hexadecimal. */
export function valueFingerprint(keys: SectionKeys, variable: string, value: Uint8Array): string {
  return hmacSha256(keys.value, Buffer.concat([Buffer.from(`${variable}\0`), value])).toString('hex');
}

/** Name of an entry's file, which is its id: a keyed digest of what the entry is about. */
export function entryName(keys: SectionKeys, entry: Entry): string {
  const about =
    entry.is === 'value'
      ? [entry.is, entry.variable, entry.stage, entry.reach, entry.fingerprint, entry.day]
      : entry.is === 'retired'
        ? [entry.is, entry.entry, entry.day, entry.because ?? '']
        : [entry.is, entry.entry, entry.as];
  return hmacSha256(keys.name, about.join('\0')).toString('hex').slice(0, 32);
}

/** The bytes of an entry's file. */
export function sealEntry(keys: SectionKeys, entry: Entry): Uint8Array {
  const bytes = Buffer.alloc(PLAIN_BYTES, ' ');
  bytes.write(encoded(entry));
  return seal(keys.seal, bytes, entryName(keys, entry));
}

/** @param name of its file @returns undefined if the file is damaged, was renamed, or is of another section */
export function openEntry(keys: SectionKeys, name: string, bytes: Uint8Array): Entry | undefined {
  const plain = bytes.length === FILE_BYTES ? unseal(keys.seal, bytes, name) : undefined;
  if (!plain) return undefined;
  try {
    const { success, data } = schema.safeParse(JSON.parse(Buffer.from(plain).toString()));
    return success ? (data as Entry) : undefined;
  } catch {
    return undefined;
  }
}

/** A retirement's reason may have so many characters. */
export const LONGEST_REASON = 200;

const hashes = z.pipe(
  z.string(),
  z.transform((text) => {
    const bytes = Buffer.from(text, 'base64');
    return Array.from({ length: Math.floor(bytes.length / WINDOW) }, (_, index) => ({
      at: bytes.readUInt16LE(index * WINDOW),
      low: bytes.readUInt32LE(index * WINDOW + 2),
      high: bytes.readUInt32LE(index * WINDOW + 6),
    }));
  }),
);

const schema = z.discriminatedUnion('is', [
  z.object({
    is: z.literal('value'),
    variable: z.string(),
    stage: z.string(),
    reach: z.enum(reaches),
    day: z.iso.date(),
    length: z.number(),
    bits: z.number(),
    fingerprint: z.string(),
    windows: z.optional(
      z.object({ kind: z.enum(windowKinds), stride: z.number(), width: z.number(), windows: hashes }),
    ),
    text: z.optional(z.string()),
  }),
  z.object({ is: z.literal('retired'), entry: z.string(), day: z.iso.date(), because: z.optional(z.string()) }),
  z.object({ is: z.literal('renewed'), entry: z.string(), as: z.string() }),
]);

/** Bytes of a window: its offset, and both halves of its hash, little-endian. */
const WINDOW = 10;

function encoded(entry: Entry): string {
  if (entry.is !== 'value' || !entry.windows) return JSON.stringify(entry);
  const { windows, ...rest } = entry.windows;
  const bytes = Buffer.alloc(windows.length * WINDOW);
  for (const [index, { at, low, high }] of windows.entries()) {
    bytes.writeUInt16LE(at, index * WINDOW);
    bytes.writeUInt32LE(low, index * WINDOW + 2);
    bytes.writeUInt32LE(high, index * WINDOW + 6);
  }
  return JSON.stringify({ ...entry, windows: { ...rest, windows: bytes.toString('base64') } });
}
