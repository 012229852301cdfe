import { derivedKey, randomKey, SEAL_BYTES, type SealKeys, seal, unseal } from '../text/sealed.js';

/** Bytes of every file of the history. */
export const FILE_BYTES = 1024;

/** Bytes of a project's key. */
const KEY_BYTES = 32;

/** Parses a key, which is written in hexadecimal digits; undefined if the text is none. */
export function keyFrom(text: string): Uint8Array | undefined {
  return /^\s*[0-9a-fA-F]{64}\s*$/.test(text) ? Buffer.from(text.trim(), 'hex') : undefined;
}

export function newKey(): Uint8Array {
  return randomKey(KEY_BYTES);
}

/** Keys of a section of the history, all derived from one project key. */
export interface SectionKeys {
  /** Name of the section: it tells keys apart and shows nothing of them. */
  section: string;
  seal: SealKeys;
  /** Key of entries' names. */
  name: Uint8Array;
  /** Key of values' fingerprints. */
  value: Uint8Array;
  /** Key of windows' hashes, 16 bytes. */
  windows: Uint8Array;
}

const purpose = (what: string) => `adder history 1: ${what}`;

/** @param key the project's key, 32 bytes */
export function sectionKeys(key: Uint8Array): SectionKeys {
  return {
    section: Buffer.from(derivedKey(key, purpose('section'), 8)).toString('hex'),
    seal: { cipher: derivedKey(key, purpose('entries')), nonce: derivedKey(key, purpose('nonces')) },
    name: derivedKey(key, purpose('names')),
    value: derivedKey(key, purpose('values')),
    windows: derivedKey(key, purpose('windows'), 16),
  };
}

/** The key of an older section, which only the key of a newer one opens; as long as an entry. */
export function wrapKey(newer: Uint8Array, older: Uint8Array): Uint8Array {
  const padded = Buffer.alloc(FILE_BYTES - SEAL_BYTES);
  padded.set(older);
  return seal(wrapKeys(newer), padded, purpose('older key'));
}

/** @returns undefined if another key wrapped it, or it was changed */
export function unwrapKey(newer: Uint8Array, wrapped: Uint8Array): Uint8Array | undefined {
  return unseal(wrapKeys(newer), wrapped, purpose('older key'))?.subarray(0, KEY_BYTES);
}

function wrapKeys(key: Uint8Array): SealKeys {
  return {
    cipher: derivedKey(key, purpose('wrapped keys')),
    nonce: derivedKey(key, purpose('nonces of wrapped keys')),
  };
}
