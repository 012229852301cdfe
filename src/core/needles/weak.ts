/** Shorter needles meet ordinary text too often. */
export const SHORTEST_NEEDLE = 6;

/** Words that occur in every bundle. */
const ordinaryWords = new Set(
  `true false null undefined none default enabled disabled auto always never info debug warning warn error fatal trace verbose silent
  development production staging preview testing local localhost remote public private server client browser mobile desktop
  http https utf-8 utf8 ascii json text html postgres postgresql mysql mongodb sqlite redis memory admin administrator root user
  username password secret token example sample string number boolean object function primary secondary 127.0.0.1 0.0.0.0
  europe america us-east-1 us-west-1 us-west-2 eu-west-1 eu-west-2 eu-west-3 eu-central-1 latest stable master release version`
    .split(/\s+/)
    .filter(Boolean),
);

/** Tells whether a value is a word that occurs in every bundle and every log. */
export function isOrdinaryWord(value: string): boolean {
  return ordinaryWords.has(value.trim().toLowerCase());
}

/** Settings that popular packages contain. */
const commonSettings =
  /^(https?:\/\/)?(localhost|127\.0\.0\.1|0\.0\.0\.0|\[::1\])(:\d{1,5})?\/?$|^(utc|gmt|etc\/utc)$/i;

/** Tells whether a build or server value is a text that many packages contain. */
export function isCommonSetting(value: string): boolean {
  return commonSettings.test(value.trim());
}

/**
 * Why a value is not searched for, or undefined if it is. A weak value would be found in any bundle, as a false alarm.
 */
export function weakness(value: string): string | undefined {
  const trimmed = value.trim();
  if (Buffer.byteLength(trimmed) < SHORTEST_NEEDLE) return `shorter than ${SHORTEST_NEEDLE} bytes`;
  if (/^[\d.,:+-]+$/.test(trimmed) && trimmed.replace(/\D/g, '').length < 12) return 'a short number';
  if (!hasDifferent(trimmed, 4)) return 'fewer than four different characters';
  if (isOrdinaryWord(trimmed)) return 'an ordinary word';
  if (/^([a-z]+|[A-Z]+|[A-Z][a-z]+)$/.test(trimmed) && trimmed.length < 8) return 'a short word';
  return undefined;
}

/** Tells whether a text has at least `count` different characters. Most texts reach that after a few, so it stops early. */
function hasDifferent(text: string, count: number): boolean {
  const seen = new Set<string>();
  for (const character of text) if (seen.add(character).size >= count) return true;
  return false;
}
