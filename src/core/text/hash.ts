import type nodeCrypto from 'node:crypto';
import { createRequire } from 'node:module';
import { once } from './once.js';

/** Loaded when something is first hashed: it loads streams, which takes as long as reading a contract. */
const crypto = once(() => createRequire(import.meta.url)('node:crypto') as typeof nodeCrypto);

/** SHA-256 (FIPS 180-4) in hexadecimal. */
export function sha256(data: string | Uint8Array): string {
  return crypto().hash('sha256', data);
}

/** SHA-384 (FIPS 180-4). */
export function sha384(data: string | Uint8Array): Buffer {
  return crypto().createHash('sha384').update(data).digest();
}

/** SHA-256 in base64, as a policy for scripts and styles names them (CSP 3, 2.3.1). */
export function base64Sha256(data: string): string {
  return crypto().createHash('sha256').update(data).digest('base64');
}

/** HMAC (RFC 2104) with SHA-256. */
export function hmacSha256(key: Uint8Array, text: string | Uint8Array): Buffer {
  return crypto().createHmac('sha256', key).update(text).digest();
}

/** Passes chunks on, and tells the SHA-256 of all of them in hexadecimal when the last one is through. */
export async function* hashed(
  chunks: AsyncIterable<Uint8Array>,
  onEnd: (digest: string) => void,
): AsyncIterable<Uint8Array> {
  const hash = crypto().createHash('sha256');
  for await (const chunk of chunks) {
    hash.update(chunk);
    yield chunk;
  }
  onEnd(hash.digest('hex'));
}
