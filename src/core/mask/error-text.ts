import { looksSecret } from '../needles/parts.js';
import { MASK } from '../secrets/secret.js';
import { displayText } from '../text/display.js';
import { isSecretByText } from '../tokens/strength.js';
import type { TextMask } from './text-mask.js';

/** Longest part of a message that is shown, in characters. */
const LONGEST = 200;

/** A word of a command or message, without what may be a token that the contract does not know. */
export function withoutToken(word: string): string {
  const [, option, value = word] = /^(--?[\w-]+=)(.*)$/s.exec(word) ?? [];
  return looksSecret(value) || isSecretByText(value) ? `${option ?? ''}${MASK}` : word;
}

/**
 * The last line that a program wrote to standard error, for a message. Known values are masked, and words that look like secrets.
 * @param known masks the values of the contract @param others values of the environment that may be secrets
 */
export function lastErrorLine(stderr: string, known: TextMask, others: readonly string[]): string | undefined {
  const masked = others.reduce((text, one) => text.replaceAll(one, MASK), known.mask(stderr));
  const line = masked
    .split(/[\r\n]+/)
    .map((one) => one.trim())
    .findLast((one) => one !== '');
  if (line === undefined) return undefined;
  const words = line.split(/(\s+|["'`(),;])/).map(withoutToken);
  return displayText(words.join('').slice(0, LONGEST));
}
