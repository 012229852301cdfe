import type { Contract } from '../contract/contract.js';
import { weakness } from '../needles/weak.js';
import { reveal } from '../secrets/secret.js';
import { strengthOf } from '../tokens/strength.js';
import { type Resolution, reachOf } from './resolve.js';

/** Shorter secrets would also match ordinary words of a report. */
const SHORTEST = 8;

/**
 * The values of a stage that no output may contain: build and server values that are secrets, are not part of a public value
 * and are too long to be ordinary text. Masking settings (hosts, ports, paths) would break paths and commands.
 */
export function protectedTexts(
  contract: Contract,
  { values, undeclared, overridden, rejected }: Pick<Resolution, 'values' | 'undeclared' | 'overridden' | 'rejected'>,
): string[] {
  const resolved = [...values.values()].flatMap(({ variable: { name }, value }) => (value ? [{ name, value }] : []));
  const isPublic = (name: string) => reachOf(contract, name) === 'public';
  // One text for all: there may be thousands of both.
  const publicText = resolved.flatMap(({ name, value }) => (isPublic(name) ? [reveal(value)] : [])).join('\0');
  const secrets = [...resolved, ...undeclared, ...overridden, ...rejected].flatMap(({ name, value }) => {
    const text = reveal(value).trim();
    const counts = !isPublic(name) && text.length >= SHORTEST && !weakness(text) && strengthOf(name, text) === 'secret';
    return counts && !publicText.includes(text) ? [text] : [];
  });
  return [...new Set(secrets)];
}
