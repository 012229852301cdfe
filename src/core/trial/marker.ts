/** Letters of a marker. With 20 of them, no output has one by accident. */
const LETTERS = 'abcdefghijklmnopqrstuvwxyz0123456789';
const LENGTH = 20;

/** The place that a value is set in. */
export interface MarkedPlace {
  /** Absent for the environment of the process. */
  path?: string;
  /** From 1. */
  line?: number;
}

/** A made-up value that can be recognised in any output, and says where it was set. */
export interface Marker {
  text: string;
  /** The name that the place sets. */
  name: string;
  setAt: MarkedPlace;
}

/** Makes the texts of markers. @param random gives as many random bytes as asked for */
export function markerText(random: (bytes: number) => Uint8Array): string {
  const letter = (byte: number, among: number) => LETTERS[byte % among] ?? 'a';
  const [first = 0, ...rest] = random(LENGTH);
  return `t${letter(first, 26)}${rest.map((byte) => letter(byte, LETTERS.length)).join('')}`;
}

/** Values that a build may compare or count with, so that a marker in their place would change what it does. */
const unmarkable =
  /^(?:true|false|yes|no|on|off|null|undefined|-?[\d.]{1,20}%?|\d+(?:ms|s|m|h|d|px|rem)|#[0-9a-f]{3,8})$/i;

/** The contract's forms whose values have no room for a marker. */
const unmarkableForms = new Set(['flag', 'integer', 'number', 'port', 'choice', 'date']);

/**
 * A value of the same shape with a marker in it: an address on a reserved host (RFC 2606), JSON with its texts replaced.
 * @param text the value in whose place it is
 * @param isShown whether everybody may know the value: a short word then stays, as code may compare with it
 * @returns undefined if the value has no room for a marker
 */
export function markedValue(
  text: string,
  marker: string,
  { form, isShown = false }: { form?: string | undefined; isShown?: boolean } = {},
): string | undefined {
  if (text === '' || unmarkable.test(text) || unmarkableForms.has(form ?? '')) return undefined;
  const [, scheme] = /^([a-z][a-z0-9+.-]*):\/\//i.exec(text) ?? [];
  if (scheme !== undefined || form === 'url') return `${scheme ?? 'https'}://${marker}.invalid/`;
  if (/^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(text) || form === 'email') return `${marker}@${marker}.invalid`;
  if (/^\s*[[{]/.test(text)) return markedJson(text, marker) ?? marker;
  if (/^\/[\w./-]*$/.test(text)) return `/${marker}${text.endsWith('/') ? '/' : ''}`;
  if (/^[\w-]+(?:\.[\w-]+)+(?::\d+)?$/.test(text)) return `${marker}.invalid${/:\d+$/.exec(text)?.[0] ?? ''}`;
  if (isShown && /^[a-z][a-z-]{0,15}$/i.test(text)) return undefined;
  if (text.includes(',') && !/\s/.test(text)) return text.replaceAll(/[^,]+/g, marker);
  return marker;
}

/** Tells whether a value is a key or a certificate as text (RFC 7468): only another real one can stand for it. */
export function isKeyBlock(text: string): boolean {
  return /-----BEGIN [A-Z ]+-----/.test(text);
}

/** A value of the same length and shape with other digits, for one that has no room for a marker and is not for everybody. */
export function otherDigits(text: string, random: (bytes: number) => Uint8Array): string {
  const bytes = random(text.length);
  return text.replaceAll(/\d/g, (_, at: number) => String(1 + ((bytes[at] ?? 0) % 9)));
}

function markedJson(text: string, marker: string): string | undefined {
  try {
    const isText = (value: unknown) => typeof value === 'string' && value !== '';
    return JSON.stringify(JSON.parse(text), (_, value: unknown) => (isText(value) ? marker : value));
  } catch {
    return undefined;
  }
}
