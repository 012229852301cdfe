import { looksRandom } from './strength.js';

/** Names that say that the text after them is a secret, as code, JSON, markup and headers write it. */
const secretName =
  /(?:api[-_]?key|app[-_]?key|access[-_]?key|secret|passw(?:or)?d|passphrase|private[-_]?key|signing[-_]?key|encryption[-_]?key|auth[-_]?token|access[-_]?token|bearer|authorization|credential)s?[\w-]{0,12}["'`\]]{0,2}\s{0,3}(?:[:=,]|\?\?|\|\||=>)?\s{0,3}\(?["'`]?(?:(?:Bearer|Basic|Token)\s)?["'`]?$/i;

/** Names of text that only looks like a secret. */
const harmlessName =
  /(?:sha\d*|md5|hash|digest|integrity|checksum|etag|commit|revision|rev|version|build[-_]?id|uuid|guid|fingerprint|nonce|public[-_]?key|mappings|sources?content|selector|testid|placeholder|token_type|class(?:name)?)["'`\]]{0,2}\s{0,3}[:=,-]?\s{0,3}["'`]?$/i;

/** Alphabets and counting, as encoders have them. */
const sequences = /abcdef|bcdefg|ABCDEF|BCDEFG|012345|123456|qwerty|zyxwvu/i;

/** Signatures of pictures, fonts and programs in base64. */
const binary = /^(?:iVBOR|\/9j\/|R0lGOD|UklGR|d09G|AAEAAAA|T1RUT|AGFzbQ|PHN2Zy|PD94bWw|H4sI|UEsDB)/;

/** Names in code: words in camel case, or joined by `_`, with a number after a word. */
const identifier =
  /^(?:[A-Z]?[a-z]+(?:[A-Z][a-z]+|[A-Z]{2,4}(?=[A-Z\d]|$))*\d{0,4}|[A-Za-z]+\d{0,4}(?:_[A-Za-z]+\d{0,4})+)$/;

const SHORTEST = 20;
/** Longer text is data. */
export const LONGEST_SECRET = 200;

/**
 * Tells whether a run of characters is probably a secret: it looks random, and a name before it says what it is. Hashes, identifiers, alphabets
 * and files in base64 are not.
 * @param before the text before it
 */
export function isProbablySecret(run: string, before: string): boolean {
  if (run.length < SHORTEST || run.length > LONGEST_SECRET) return false;
  if (!secretName.test(before) || harmlessName.test(before)) return false;
  if (sequences.test(run) || binary.test(run) || /^sha\d+-/.test(run)) return false;
  if (identifier.test(run)) return false;
  // A path, words joined by dashes, and a UUID.
  if (run.split('/').length > 2 || /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i.test(run)) return false;
  return looksRandom(run.replace(/[+/]/g, ''));
}
