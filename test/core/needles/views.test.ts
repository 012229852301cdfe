import { describe, expect, test } from 'vitest';
import { inBase64View } from '../../../src/core/needles/tolerant/views.js';

const value = 'made-up fare signing key';

/** The part of a text that the view takes for the value, from an anchor in its middle. */
function placeOf(text: string, encoded: string, lead: number): string {
  // An anchor of whole groups, which begins with a byte at the start of one.
  const start = text.indexOf(encoded) + 8;
  const view = inBase64View(text, { start, end: start + 8 }, 0, 100);
  const at = view.text.indexOf(value);
  expect(at).toBe(view.at - 6 + lead);
  return text.slice(view.startOf(at), view.endOf(at + value.length));
}

describe('the place of a value in base64', () => {
  test.each([
    [0, 'x', 'bWFkZS11cCBmYXJlIHNpZ25pbmcga2V5'],
    [1, 'yz', '1hZGUtdXAgZmFyZSBzaWduaW5nIGtl'],
    [2, 'z', 'tYWRlLXVwIGZhcmUgc2lnbmluZyBrZX'],
  ])('with %i bytes before it begins and ends with the characters that depend on it alone', (lead, rest, expected) => {
    const encoded = Buffer.from('ab'.slice(0, lead) + value + rest).toString('base64');
    expect(placeOf(`f("${encoded}")`, encoded, lead)).toContain(expected);
  });

  test('ends with its last character, in lines too', () => {
    const encoded = Buffer.from(value).toString('base64');
    const lines = encoded.replace(/.{16}/g, '$&\n');
    expect(placeOf(`f("${encoded}")`, encoded, 0)).toBe(encoded);
    expect(placeOf(lines, lines.slice(0, 16), 0)).toBe(lines.trimEnd());
  });
});
