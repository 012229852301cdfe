import { generateKeyPairSync } from 'node:crypto';
import fc from 'fast-check';
import type { TokenShape } from '../../src/core/tokens/shapes.js';

const { privateKey, publicKey } = generateKeyPairSync('rsa', {
  modulusLength: 1024,
  privateKeyEncoding: { type: 'pkcs8', format: 'pem' },
  publicKeyEncoding: { type: 'spki', format: 'pem' },
});

export { publicKey };

/** A part of a signed web token. */
export const part = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url');

/** Examples that an expression cannot produce. Assembled here, so that no file contains a whole token. */
const examples: Readonly<Record<string, () => string>> = {
  '-----BEGIN': () => privateKey.trim(),
  eyJ: () => `${part({ alg: 'HS256', typ: 'JWT' })}.${part({ sub: 'crew' })}.${'MadeUp0made1Up2MADE3up4'}`,
};

/** Made-up tokens with a mark, by the expression of their shape. */
export function tokensOf(mark: string, { pattern, accepts }: TokenShape): string[] {
  const example = examples[mark];
  if (example) return [example()];
  // Real tokens have few signs.
  const flat = pattern.source.replace(/\[(?:\\w|A-Za-z0-9)[.+/=_-]*\]/g, '[A-Za-z0-9]');
  const source = flat.replaceAll('[^\\s:@/"\'`<>\\\\]', '[a-zA-Z0-9]');
  // The expressions of URLs allow any scheme.
  const url = mark.endsWith('://') ? source.slice(source.indexOf('\\/\\/') + 4) : undefined;
  const made = fc
    .stringMatching(new RegExp(url === undefined ? source : `^${url}`))
    .map((one) => (url === undefined ? one : mark + one))
    .filter((one) => one.includes(mark) && accepts?.(one) !== false);
  // Real ones use all of their characters.
  return fc.sample(fc.noBias(made), { numRuns: 3, seed: 7 });
}
