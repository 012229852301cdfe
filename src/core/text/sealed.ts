import type nodeCrypto from 'node:crypto';
import { createRequire } from 'node:module';
import { hmacSha256 } from './hash.js';
import { once } from './once.js';

const crypto = once(() => createRequire(import.meta.url)('node:crypto') as typeof nodeCrypto);

/** Bytes of the nonce and of the tag (NIST SP 800-38D, 8.2 and 5.2.1.2). */
const [NONCE, TAG] = [12, 16];

/** Bytes that {@link seal} adds. */
export const SEAL_BYTES = NONCE + TAG;

export function randomKey(bytes: number): Uint8Array {
  return crypto().randomBytes(bytes);
}

/** A key for one purpose: HKDF with SHA-256 (RFC 5869), without a salt. @param purpose its `info` */
export function derivedKey(key: Uint8Array, purpose: string, length = 32): Uint8Array {
  return Buffer.from(crypto().hkdfSync('sha256', key, Buffer.alloc(0), purpose, length));
}

/** Two keys for {@link seal}. */
export interface SealKeys {
  cipher: Uint8Array;
  nonce: Uint8Array;
}

/**
 * Encrypts and authenticates bytes with AES-256-GCM (NIST SP 800-38D). The nonce is an HMAC of the bytes, so the same bytes give the
 * same result, and no nonce serves two texts (the synthetic nonce of RFC 5297, 3).
 * @param about text that {@link unseal} must know too
 */
export function seal({ cipher, nonce: nonceKey }: SealKeys, bytes: Uint8Array, about: string): Uint8Array {
  const nonce = hmacSha256(nonceKey, Buffer.concat([Buffer.from(`${about}\0`), bytes])).subarray(0, NONCE);
  const gcm = crypto().createCipheriv('aes-256-gcm', cipher, nonce).setAAD(Buffer.from(about));
  return Buffer.concat([nonce, gcm.update(bytes), gcm.final(), gcm.getAuthTag()]);
}

/** Decrypts what {@link seal} made; undefined if it was changed, or made with other keys or about another text. */
export function unseal(
  { cipher }: Pick<SealKeys, 'cipher'>,
  sealed: Uint8Array,
  about: string,
): Uint8Array | undefined {
  if (sealed.length < SEAL_BYTES) return undefined;
  try {
    const gcm = crypto().createDecipheriv('aes-256-gcm', cipher, sealed.subarray(0, NONCE)).setAAD(Buffer.from(about));
    gcm.setAuthTag(sealed.subarray(sealed.length - TAG));
    return Buffer.concat([gcm.update(sealed.subarray(NONCE, sealed.length - TAG)), gcm.final()]);
  } catch {
    return undefined;
  }
}
