import { generateKeyPairSync } from 'node:crypto';
import { describe, expect, test } from 'vitest';
import { tokensIn } from '../../../src/core/tokens/in-text.js';
import { shapeOf, tokenShapes } from '../../../src/core/tokens/shapes.js';

const run = 'MadeUp0made1Up2MADE3up4Made5Up6made7Up8';
const { privateKey, publicKey } = generateKeyPairSync('rsa', {
  modulusLength: 1024,
  privateKeyEncoding: { type: 'pkcs8', format: 'pem' },
  publicKeyEncoding: { type: 'spki', format: 'pem' },
});

/** Examples by mark, assembled here so that no file contains a whole token. */
const examples: Readonly<Record<string, string>> = {
  '-----BEGIN ': privateKey.trim(),
  github_pat_: `github_pat_${run}${run}`,
  AKIA: `AKIA${'MADEUP23MADEUP45'}`,
  ASIA: `ASIA${'MADEUP23MADEUP45'}`,
  AIza: `AIza${run.slice(0, 35)}`,
  'SG.': `SG.${run.slice(0, 22)}.${run}`,
  'sk.eyJ': `sk.eyJ${run}.${run}`,
  'pk.eyJ': `pk.eyJ${run}.${run}`,
  npm_: `npm_${run.slice(0, 36)}`,
};
const exampleOf = (mark: string) => examples[mark] ?? mark + run.slice(0, 36);

describe.each(tokenShapes.flatMap((shape) => shape.marks.map((mark) => [mark, shape] as const)))(
  '%s',
  (mark, shape) => {
    const token = exampleOf(mark);
    // A header alone is found in parsers of keys, a quoted token in code.
    test.each([token, `const a = "${token}";`, `A=${token}\n`, `{"a":"${token}"}`])('is found (%#)', (text) => {
      expect(tokensIn(text).map((one) => [one.shape.name, text.slice(one.start, one.end).slice(0, 20)])).toEqual([
        [shape.name, token.slice(0, 20)],
      ]);
    });

    test('is the shape of the whole value', () => expect(shapeOf(token)?.name).toBe(shape.name));

    test.each([mark, `${mark}short`, token.slice(1), `https://a.example/${mark}`])('not in %j', (text) => {
      expect(tokensIn(text)).toEqual([]);
    });
  },
);

test('neither a public key nor the header of a private one is a private key', () => {
  const header = ['-----BEGIN', 'PRIVATE KEY-----'].join(' ');
  expect(tokensIn(publicKey)).toEqual([]);
  expect(tokensIn(`if (text.startsWith('${header}')) parse(text, '-----END')`)).toEqual([]);
});
