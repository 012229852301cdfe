import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { jsonText } from '../../../src/core/report/json.js';
import { makeStyle } from '../../../src/core/report/style.js';
import { Outlet } from '../../../src/core/secrets/outlet.js';
import { displayText, escapeControls } from '../../../src/core/text/display.js';
import { runs } from '../../support/runs.js';

// biome-ignore lint/suspicious/noControlCharactersInRegex: these are what must not come through
const control = /[\x00-\x08\x0b-\x1f\x7f-\x9f\u200e\u200f\u2028-\u202e\u2066-\u2069\ufeff]/;
const anyText = fc.string({
  unit: fc.oneof(
    fc.string({ minLength: 1, maxLength: 1, unit: 'binary' }),
    fc.constantFrom('\x1b', '\x9b', '\n', '\t', '\r', '\u202e', '[', '2', 'J', 'm'),
  ),
});

describe('the way out', () => {
  test('masks protected values, plain and in JSON, anywhere', () => {
    const outlet = new Outlet();
    outlet.protect(['made-up "key" of the tests', 'another-made-up-key']);
    const text = `a made-up "key" of the tests b ${JSON.stringify('made-up "key" of the tests')} another-made-up-keyanother-made-up-key`;
    expect(outlet.clean(text)).toBe('a [masked] b "[masked]" [masked][masked]');
    outlet.reveal('another-made-up-key');
    expect(outlet.clean('another-made-up-key')).toBe('another-made-up-key');
  });

  test('lets through a value that was asked for, and the secrets that are parts of it', () => {
    const outlet = new Outlet();
    outlet.protect(['postgres://quay:made-up-word@db', 'made-up-word', 'another-made-up-key']);
    outlet.reveal(' postgres://quay:made-up-word@db\n');
    expect(outlet.clean('postgres://quay:made-up-word@db')).toBe('postgres://quay:made-up-word@db');
    expect(outlet.clean('another-made-up-key')).toBe('[masked]');
  });

  test('lets through no secret because a part of it was asked for', () => {
    const outlet = new Outlet();
    outlet.protect(['postgres://quay:made-up-word@db', 'made-up-word']);
    outlet.reveal('made-up-word');
    expect(outlet.clean('postgres://quay:made-up-word@db')).toBe('[masked]');
  });

  test('lets through lines, and colours of our own style alone', () => {
    const style = makeStyle(true);
    const styled = [
      style.strong('a'),
      style.dim('b'),
      style.level('error'),
      style.level('note'),
      style.reach('server'),
      style.good('c'),
      style.caret('^'),
    ].join('\n');
    expect(escapeControls(styled)).toBe(styled);
    expect(escapeControls('\x1b[2Ja\x1b]0;x\x07\x9b1m\r\n')).toBe('\\x1b[2Ja\\x1b]0;x\\x07\\x9b1m\\x0d\n');
  });

  test('no text has a control character afterwards, and JSON stays the same data', () => {
    fc.assert(
      fc.property(anyText, (text) => {
        expect(displayText(text)).not.toMatch(control);
        // biome-ignore lint/suspicious/noControlCharactersInRegex: the colours of our own style
        expect(escapeControls(text).replace(/\x1b\[(0|1|2|22|31|32|33|35|36|39)m/g, '')).not.toMatch(control);
        const json = jsonText({ text });
        expect(json).not.toMatch(control);
        expect(JSON.parse(json)).toEqual({ text });
        expect(new Outlet().clean(json)).toBe(json);
      }),
      { numRuns: runs(500) },
    );
  });
});
