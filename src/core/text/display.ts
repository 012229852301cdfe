/**
 * Control and format characters: a terminal obeys them, line separators break lines in some viewers, and bidirectional
 * ones make a line read as another (UTR 36, 2.7).
 */
const unsafe = /[\p{Cc}\u200e\u200f\u2028\u2029\u202a-\u202e\u2066-\u2069\ufeff]/gu;

/**
 * Text from outside, made safe for a terminal: control characters, escapes among them, become `\xNN` or `\uNNNN`.
 * File names, names in archives and lines of source all come from outside.
 */
export function displayText(text: string): string {
  return text.replace(unsafe, (character) => (character === '\t' ? ' ' : visible(character)));
}

/** The colours of our own style (ECMA-48, select graphic rendition); nothing else of a terminal's language is let through. */
const unsafeButStyle = new RegExp(`\\x1b\\[(?:0|1|2|22|31|32|33|35|36|39)m|${unsafe.source}`, 'gu');

/** A whole text of lines and colours of our own: every other control character is escaped. */
export function escapeControls(text: string): string {
  return text.replace(unsafeButStyle, (found) =>
    found.length > 1 || found === '\n' || found === '\t' ? found : visible(found),
  );
}

/** The same for JSON text, whose own escapes keep the string's content. */
export function escapeJsonControls(json: string): string {
  return json.replace(unsafe, (found) => (found === '\n' ? found : `\\u${hex(found, 4)}`));
}

/** The same for XML text, by character references. */
export function escapeXmlControls(xml: string): string {
  return xml.replace(unsafe, (found) => `&#${found.charCodeAt(0)};`);
}

function visible(character: string): string {
  return character.charCodeAt(0) < 0x100 ? `\\x${hex(character, 2)}` : `\\u${hex(character, 4)}`;
}

function hex(character: string, digits: number): string {
  return character.charCodeAt(0).toString(16).padStart(digits, '0');
}

/** `1 file`, `2 files`, `1,134 files`. By hand, as the first use of a locale takes longer than a whole report. */
export function count(number: number, one: string, many = `${one}s`): string {
  return `${grouped(number)} ${number === 1 ? one : many}`;
}

/** `1,134`. */
export function grouped(number: number): string {
  return String(number).replace(/\B(?=(\d{3})+$)/g, ',');
}

/** Bytes as a person reads them: `812 bytes`, `3.1 MB` (powers of ten, as disks and networks count). */
export function byteSize(bytes: number): string {
  const units = ['bytes', 'kB', 'MB', 'GB', 'TB'];
  let size = bytes;
  let unit = 0;
  while (size >= 1000 && unit < units.length - 1) {
    size /= 1000;
    unit++;
  }
  return unit === 0 ? count(bytes, 'byte') : `${size < 10 ? size.toFixed(1) : Math.round(size)} ${units[unit]}`;
}

/**
 * A time in text, in the time zone of this process: `2026-11-24 05:10 +01:00`, or with `UTC`.
 * @param iso ISO 8601, UTC @param beside another time in the same message; if both fall in one minute, seconds are added
 */
export function localTime(iso: string, beside?: string): string {
  const time = new Date(iso);
  const minutes = -time.getTimezoneOffset();
  const shifted = new Date(time.getTime() + minutes * 60_000).toISOString();
  const [hours, rest] = [Math.trunc(Math.abs(minutes) / 60), Math.abs(minutes) % 60].map((part) =>
    String(part).padStart(2, '0'),
  );
  const zone = minutes === 0 ? 'UTC' : `${minutes < 0 ? '-' : '+'}${hours}:${rest}`;
  const isSame = beside !== undefined && localTime(beside) === localTime(iso);
  return `${shifted.slice(0, 10)} ${shifted.slice(11, isSame ? 19 : 16)} ${zone}`;
}

/** Prose as one line, without characters that a terminal or a compiler obeys. */
export function oneLine(text: string): string {
  return displayText(text.replace(/\s+/g, ' ').trim());
}

/** A word for a POSIX shell, in quotes if it needs them, so that a suggested command can be pasted. */
export function quoted(word: string): string {
  return /^[\w@%+=:,./-]+$/.test(word) ? word : `'${word.replaceAll("'", "'\\''")}'`;
}

/** `payment service secret key` for `a payment service secret key`. */
export function withoutArticle(noun: string): string {
  return noun.replace(/^an? /, '');
}
