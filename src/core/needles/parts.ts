import { jsonIn, stringValues } from '../text/json.js';
import { percentDecoded } from '../text/percent.js';
import type { ValuePart } from '../words/value-part.js';
import { joinedPieces, leastOf } from './part-table.js';
import { weakness } from './weak.js';

/** A piece of a value that often travels alone. */
export interface SecretPart {
  part: ValuePart;
  text: string;
  /** The rest of a value that was cut or wrapped, searched for only in plain form. */
  asItStands?: true;
}

/** Pieces that no structure tells from ordinary text. */
const SHORTEST_TAIL = leastOf('last-part');
const { ofWords: SHORTEST_FRAGMENT, ofRandom: WINDOW } = joinedPieces;
/** More needles would make every search slower. */
const MOST_WINDOWS = 24;
const KEY_LINE = new RegExp(`^[A-Za-z0-9+/=]{${leastOf('key-line')},}$`);

/** The parts of a value to search for, each once; none that ordinary text could contain. */
export function partsOf(value: string): SecretPart[] {
  const all = [...credentials(value), ...leaves(value), ...pemLines(value), ...lastPart(value), ...cuts(value)];
  const unique = new Map<string, SecretPart>();
  for (const one of all) {
    const { text, part } = one;
    if (text !== value && text.length >= leastOf(part.is) && !weakness(text) && !unique.has(text))
      unique.set(text, one);
  }
  return [...unique.values()];
}

/**
 * Finds substrings that are still in one piece after code cuts a value into two or three. A script with one of them is parsed.
 * A substring of words is at least a third of the value, because shorter words are in every script.
 */
export function fragmentsOf(value: string): string[] {
  return [...new Set([...thirds(value), ...windows(value)])].filter((text) => !weakness(text));
}

/** The pieces of equal length, two or three. */
function thirds(value: string): string[] {
  const count = value.length >= 3 * SHORTEST_FRAGMENT ? 3 : value.length >= 2 * SHORTEST_FRAGMENT ? 2 : 0;
  const length = Math.floor(value.length / count);
  return Array.from({ length: count }, (_, index) => value.slice(index * length, (index + 1) * length));
}

/** Short substrings without words, all of a short value. The pieces of a longer value are longer, so fewer are enough. */
function windows(value: string): string[] {
  if (value.length < 2 * SHORTEST_FRAGMENT) return [];
  const step = Math.max(1, Math.floor(value.length / MOST_WINDOWS));
  const all: string[] = [];
  for (let at = 0; at + WINDOW <= value.length; at += step) all.push(value.slice(at, at + WINDOW));
  return all.filter((text) => !/\s/.test(text) && isMixed(text));
}

/** Letters with a digit between them, or capitals among small letters: no words of a script. */
function isMixed(text: string): boolean {
  return /[A-Za-z]\d[A-Za-z]|[a-z]\d|\d[A-Z]/.test(text) || /[a-z][A-Z]+[a-z]+[A-Z]/.test(text);
}

/** User and password of a URL (RFC 3986, 3.2.1), encoded and decoded, and their authorization header. */
function credentials(value: string): SecretPart[] {
  const found = userInfoOf(value);
  if (!found) return [];
  const { userInfo, user, password } = found;
  const both = [
    { is: 'user', text: user },
    { is: 'password', text: password },
    // Its base64 is one of this text's needles (RFC 7617, 2).
    { is: 'login', text: userInfo },
  ] as const;
  return both.flatMap(({ is, text }) => [
    { part: { is }, text },
    { part: { is }, text: percentDecoded(text) },
  ]);
}

/** User and password of a URL, as written; an empty password if there is none. */
export function userInfoOf(value: string): { userInfo: string; user: string; password: string } | undefined {
  const [, userInfo] = /^[A-Za-z][A-Za-z0-9+.-]*:\/\/([^/?#]*)@/.exec(value) ?? [];
  if (userInfo === undefined) return undefined;
  const colon = userInfo.indexOf(':');
  return colon < 0
    ? { userInfo, user: userInfo, password: '' }
    : { userInfo, user: userInfo.slice(0, colon), password: userInfo.slice(colon + 1) };
}

/** The texts of a JSON document that look like secrets. */
function leaves(value: string): SecretPart[] {
  if (!/^\s*[[{]/.test(value)) return [];
  return stringValues(jsonIn(value)).flatMap(({ key, text }) => {
    const lines = pemLines(text).map((line): SecretPart => ({ ...line, part: { is: 'key-line', key } }));
    return looksSecret(text) ? [{ part: { is: 'string', key }, text }, ...lines] : lines;
  });
}

/** The lines of the body of PEM blocks (RFC 7468, section 3); the first line of many keys of one kind begins alike. */
function pemLines(value: string): SecretPart[] {
  const bodies = [...value.matchAll(/-----BEGIN [^-]+-----([\s\S]*?)-----END /g)].map(([, body = '']) => body);
  return bodies.flatMap((body) =>
    body
      .split(/[\r\n]+|\\n/)
      .filter((line) => KEY_LINE.test(line))
      .map((text) => ({ part: { is: 'key-line' as const }, text, asItStands: true as const })),
  );
}

/** The secret part of `kind_live_3f...`, and the signature of a token of several parts. */
function lastPart(value: string): SecretPart[] {
  if (/\s|:\/\//.test(value)) return [];
  const text = /[._:|/~-]([A-Za-z0-9+=]+)$/.exec(value)?.[1] ?? '';
  return looksSecret(text) ? [{ part: { is: 'last-part' }, text }] : [];
}

/** Two thirds from either end: the rest of a value that a log or a screen cut. A URL has none: two thirds of it would be its host. */
function cuts(value: string): SecretPart[] {
  if (/\s|:\/\//.test(value)) return [];
  const length = Math.ceil((value.length * 2) / 3);
  return [
    { part: { is: 'beginning' }, text: value.slice(0, length), asItStands: true },
    { part: { is: 'end' }, text: value.slice(-length), asItStands: true },
  ];
}

/** Long, in one word, of several kinds of characters; no address, no plain name. */
export function looksSecret(text: string): boolean {
  if (text.length < SHORTEST_TAIL || /\s|:\/\/|@/.test(text)) return false;
  const kinds = [/[a-z]/, /[A-Z]/, /\d/, /[^A-Za-z0-9]/].filter((kind) => kind.test(text)).length;
  return /\d/.test(text) && kinds >= 2;
}
