import { createHash, createHmac, hash as digest } from 'node:crypto';

/** SHA-256 (FIPS 180-4) in hexadecimal. */
export function sha256(data: string | Uint8Array): string {
  return digest('sha256', data);
}

/** SHA-384 (FIPS 180-4). */
export function sha384(data: string | Uint8Array): Buffer {
  return createHash('sha384').update(data).digest();
}

/** HMAC (RFC 2104) with SHA-256. */
export function hmacSha256(key: Uint8Array, text: string): Buffer {
  return createHmac('sha256', key).update(text).digest();
}

/** Passes chunks on, and tells the SHA-256 of all of them in hexadecimal when the last one is through. */
export async function* hashed(
  chunks: AsyncIterable<Uint8Array>,
  onEnd: (digest: string) => void,
): AsyncIterable<Uint8Array> {
  const hash = createHash('sha256');
  for await (const chunk of chunks) {
    hash.update(chunk);
    yield chunk;
  }
  onEnd(hash.digest('hex'));
}
