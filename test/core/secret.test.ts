import { inspect } from 'node:util';
import { expect, test } from 'vitest';
import { MASK, reveal, Secret, sameSecret } from '../../src/core/secrets/secret.js';

const secret = new Secret('hush-hush');

test.each<[title: string, text: string]>([
  ['String()', String(secret)],
  ['a template', `${secret}`],
  ['concatenation', `a${secret as unknown as string}`.slice(1)],
  ['JSON', JSON.parse(JSON.stringify(secret))],
  ['util.inspect', inspect(secret)],
  ['util.inspect, with what is hidden', inspect({ secret }, { showHidden: true, depth: 9 })],
  ['an array', [secret].join()],
  ['own keys', JSON.stringify(Object.getOwnPropertyNames(secret)) + MASK],
  ['an error', new Error(String(secret)).message],
])('%s gives a mask', (_, text) => {
  expect(text).toContain(MASK);
  expect(text).not.toContain('hush');
});

test('one named function opens it', () => {
  expect(reveal(secret)).toBe('hush-hush');
  expect(sameSecret(secret, new Secret('hush-hush'))).toBe(true);
  expect(sameSecret(secret, new Secret('hush'))).toBe(false);
});
