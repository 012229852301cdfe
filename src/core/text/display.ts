/** Control and format characters: a terminal obeys them, and bidirectional ones make a line read as another (UTR 36, 2.7). */
const unsafe = /[\p{Cc}\u200e\u200f\u202a-\u202e\u2066-\u2069\ufeff]/gu;

/**
 * Text from outside, made safe for a terminal: control characters, escapes among them, stand as `\xNN` or `\uNNNN`.
 * File names, names in archives and lines of source all come from outside.
 */
export function displayText(text: string): string {
  return text.replace(unsafe, (sign) => {
    if (sign === '\t') return ' ';
    const code = sign.charCodeAt(0);
    return code < 0x100 ? `\\x${code.toString(16).padStart(2, '0')}` : `\\u${code.toString(16).padStart(4, '0')}`;
  });
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

/** A moment as a person reads it, `2026-11-24 04:10 UTC`. @param iso ISO 8601, UTC */
export function moment(iso: string): string {
  return `${iso.slice(0, 10)} ${iso.slice(11, 16)} UTC`;
}
