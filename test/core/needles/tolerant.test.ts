import { describe, expect, test } from 'vitest';
import { byteStrings, countOf, extremesOf, stringAt } from '../../../src/core/needles/byte-strings.js';
import { AnchoredNeedles, NeedleSet } from '../../../src/core/needles/needle-set.js';
import { fragmentsOf, looksSecret, partsOf } from '../../../src/core/needles/parts.js';
import { anchorsOf, shortAnchorOf } from '../../../src/core/needles/tolerant/anchors.js';
import {
  beginsNoEscape,
  compareAround,
  couldBegin,
  firstBytesOf,
  mayEscape,
} from '../../../src/core/needles/tolerant/compare.js';
import { inHex, inNumbers, inUtf16, nestings, unnested } from '../../../src/core/needles/tolerant/views.js';
import { writtenForms } from '../../../src/core/needles/tolerant/written.js';

const codes = Array.from({ length: 256 }, (_, code) => code);

describe('the first byte of a character', () => {
  test('begins no escape if it is printable ASCII and none of four signs', () => {
    const printable = codes.filter((code) => code >= 0x20 && code <= 0x7e);
    expect(codes.filter(beginsNoEscape)).toEqual(
      printable.filter((code) => !'\\&%+'.includes(String.fromCharCode(code))),
    );
  });

  test('may begin an escape if it is one of four signs', () => {
    expect(String.fromCharCode(...codes.filter(mayEscape))).toBe('%&+\\');
  });

  test.each([
    ['a', ['\\', '&', 'a', '%']],
    [' ', ['\\', '&', ' ', '%', '+']],
    ['é', ['\\', '&', 'Ã', '%', 'é']],
  ])('of all ways to write %s', (character, first) => {
    expect(firstBytesOf(character).sort()).toEqual([...first].sort());
  });
});

describe('the end of a text could be the beginning of a value', () => {
  const value = [...'ab"c'];
  test.each([
    ['a', true],
    ['ab', true],
    ['ab\\', true],
    ['ab\\"', true],
    ['ab&quo', true],
    ['ab&#x2', true],
    ['\\u00', true],
    ['ab"c', false],
    ['ab"x', false],
    ['ab&lt;', false],
    ['b', false],
    ['ax', false],
  ])('%s: %s', (text, expected) => expect(couldBegin(value, text, 0)).toBe(expected));

  test('from a place in it, after characters that precede it', () => {
    expect([couldBegin(value, 'xx"', 2, 2), couldBegin(value, 'xx"', 2, 1)]).toEqual([true, false]);
  });
});

describe('a value around a place of a text', () => {
  const around = (value: string, text: string, index = 0) =>
    compareAround([...value], text, text.indexOf(value[index] as string), index);

  test.each([
    ['plain', 'a"b', 'x a"b x', []],
    ['of a script', 'a"b', 'x a\\"b x', ['js-string']],
    ['of a page', 'a"b', 'x a&quot;b x', ['html']],
    ['of a style sheet', 'aéb', 'x a\\e9 b x', ['css']],
    ['of a URL', 'a/b', 'x a%2Fb x', ['percent']],
    ['in one encoding after another', 'a"b<', 'x a\\"b&lt; x', ['mixed']],
  ])('%s', (_, value, text, encoding) => {
    const found = around(value, text);
    expect([found.isWhole, found.encoding, found.first, found.characters]).toEqual([
      true,
      encoding,
      0,
      [...value].length,
    ]);
    expect([found.start, found.end]).toEqual([2, text.length - 2]);
  });

  test('in an encoding on either side', () => {
    expect(around('a"b<', 'a\\x22b&lt;', 2).encoding).toEqual(['js-string', 'html']);
  });

  test('prefers a whole escape to its first sign', () => {
    expect(around('a&', 'a&amp;').end).toBe('a&amp;'.length);
  });

  test('ends where they differ', () => {
    expect(around('abcd', 'xabxd', 1)).toMatchObject({ start: 1, end: 3, first: 0, characters: 2, isWhole: false });
  });
});

describe('ways to write a character', () => {
  const written = (character: string) => writtenForms(character).map(({ text }) => text);

  test.each([
    ['\n', ['\\n', '\\x0a', '\r\n', '&#10;', '&NewLine;', '%0A', '\\a ']],
    ['\0', ['\\0', '\\x00']],
    ["'", ["\\'", '&apos;', '&#39;', '&#039;', '&#x27;', '&#X27;', '%27', '\\27 ', '\\000027', "'"]],
    [' ', ['+', '%20', ' ']],
    ['é', ['\\xe9', '\\xE9', '\\u00e9', '\\u{e9}', '&eacute;', '%C3%A9', '%c3%a9', '\xe9', 'Ã©']],
    ['🚢', ['\\ud83d\\udea2', '\\uD83D\\uDEA2', '\\u{1f6a2}', '&#128674;', '%F0%9F%9A%A2']],
  ])('%j', (character, some) => expect(written(character)).toEqual(expect.arrayContaining(some)));

  test('a letter is never escaped by a backslash alone, and a half of a pair has no bytes', () => {
    expect(written('q')).not.toContain('\\q');
    expect(written('\ud83d').some((text) => text.startsWith('%'))).toBe(false);
  });

  test('longer ones come first', () => {
    const lengths = written('"').map(({ length }) => length);
    expect(lengths).toEqual([...lengths].sort((a, b) => b - a));
  });

  test('the character itself is no escape, also where an encoding leaves it alone', () => {
    expect(writtenForms('a').find(({ text }) => text === 'a')?.ways).toBe(0);
  });
});

describe('a text is read', () => {
  const decoded = (name: string, text: string, anchor: string) => {
    const nesting = nestings.find((one) => one.name === name) ?? expect.unreachable();
    const start = text.indexOf(anchor);
    const view = unnested(text, { start, end: start }, nesting);
    if (!view) return undefined;
    expect(Buffer.from(view.text, 'latin1').toString().indexOf(anchor)).toBe(
      Buffer.from(view.text.slice(0, view.at), 'latin1').toString().length,
    );
    const place = view.text.indexOf(anchor);
    expect(text.slice(view.startOf(place), view.endOf(place + anchor.length))).toBe(anchor);
    return Buffer.from(view.text, 'latin1').toString();
  };

  test.each([
    ['js-string', '\\x41\\u00e9-key', 'Aé-key'],
    ['js-string', '\\ud83d\\udea2-key', '🚢-key'],
    ['js-string', '\\uD83D\\uDEA2-key', '🚢-key'],
    ['js-string', '\\udbff\\udfff-key', '\u{10ffff}-key'],
    ['js-string', '\\u{1F6a2}-key', '🚢-key'],
    ['js-string', '\\u{41}-key', 'A-key'],
    ['js-string', '\\u{110000}-key', '-key'],
    ['js-string', '\\b\\t\\n\\v\\f\\r\\0-key', '\b\t\n\v\f\r\0-key'],
    ['js-string', '\\"\\\\\\/-key', '"\\/-key'],
    ['js-string', '\\\n-key', '\n-key'],
    ['html', '&lt;&#65;&#x42;&#X43;&eacute;-key', '<ABCé-key'],
    ['html', '&#128674;&#x1F6A2;-key', '🚢🚢-key'],
    ['html', '&CounterClockwiseContourIntegral;-key', '∳-key'],
    ['percent', '%c3%A9%2F-key', 'é/-key'],
  ])('as %s: %j', (name, text, expected) => expect(decoded(name, text, '-key')).toBe(expected));

  test.each([
    ['js-string', 'a key'],
    ['html', 'a & key; &; &#; &#x; &1;'],
    ['percent', '100% key %2 %zz'],
  ])('as %s: nothing to decode in %j', (name, text) => expect(decoded(name, text, 'key')).toBeUndefined());

  test('not if the anchor is in an escape', () => expect(decoded('html', '&lt;', 'lt')).toBeUndefined());
});

describe('hexadecimal around an anchor', () => {
  const view = (text: string, anchor: string, reach = 100) => {
    const start = text.indexOf(anchor);
    const { text: decoded, at, startOf, endOf } = inHex(text, { start, end: start + anchor.length }, reach);
    return [decoded, at, text.slice(startOf(0), endOf(decoded.length))];
  };

  test.each([
    ['both sides', 'x"6162636465"', '6364', ['abcde', 2, '6162636465']],
    ['the end of the text', '6162', '62', ['ab', 1, '6162']],
    ['one digit more', '061626', '6162', ['ab', 0, '6162']],
    ['both letter cases', '4A4b4C', '4b', ['JKL', 1, '4A4b4C']],
    ['other letters', '61g16263g1', '6263', ['bc', 0, '6263']],
  ])('%s', (_, text, anchor, expected) => expect(view(text, anchor)).toEqual(expected));

  test('no farther than it is asked for', () => {
    expect(view('61626364656667', '6465', 2)).toEqual(['cd', 1, '6364']);
  });
});

describe('UTF-16 around an anchor', () => {
  const anchor = 'k\0e\0y';
  test.each([
    ['little-endian', 'utf16le'],
    ['big-endian', 'utf16be'],
  ])('%s', (_, order) => {
    const units = Buffer.from('é-key!', 'utf16le');
    const text = (order === 'utf16be' ? Buffer.from(units).swap16() : units).toString('latin1');
    const start = text.indexOf(anchor);
    const views = inUtf16(text, { start, end: start + anchor.length });
    const right = views.find(({ text: decoded }) => Buffer.from(decoded, 'latin1').toString() === 'é-key!');
    expect(right?.at).toBe(Buffer.byteLength('é-'));
    expect([right?.startOf(0), right?.endOf(Buffer.byteLength('é-key!'))]).toEqual([0, text.length]);
  });

  test('at the beginning of a text there is no byte before it', () => {
    expect(inUtf16('k\0e\0y\0', { start: 0, end: 5 })).toHaveLength(1);
  });
});

describe('numbers around an anchor', () => {
  const views = (text: string, anchor: string, reach = 200) => {
    const start = text.indexOf(anchor);
    return inNumbers(text, { start, end: start + anchor.length }, reach).map((view) => [
      Buffer.from(view.text, 'latin1').toString(),
      view.at,
      text.slice(view.startOf(0), view.endOf(view.text.length)),
    ]);
  };

  test.each([
    ['bytes', 'x=[195,169,107,101,121]', '107,', 'é', 2],
    ['spaces', 'x=[97, 107 ,\n101, 121]', '107 ', 'a', 1],
  ])('%s, as UTF-8', (_, text, anchor, before, at) => {
    expect(views(text, anchor)[0]).toEqual([`${before}key`, at, text.slice(3, -1)]);
  });

  test('UTF-16 units beyond a byte', () => {
    expect(views('[8217,107,101,121]', '107')).toEqual([['’key', 3, '8217,107,101,121']]);
  });

  test('powers of ten, as minifiers write them', () => {
    expect(views('[1e2,107]', '107')[0]).toEqual(['dk', 1, '1e2,107']);
  });

  test('a list ends at a gap', () => {
    expect(views('[97];[107,101,121];[98]', '107')[0]).toEqual(['key', 0, '107,101,121']);
  });
});

describe('anchors', () => {
  const anchors = (value: string) =>
    anchorsOf([...value]).map(({ codes: bytes, index }) => [index, Buffer.from(bytes).toString()]);

  test.each([
    ['abcdefghijk', 1],
    ['abcdefghij', 0],
    ['abcdefghijk lmnopqrstuv', 1],
    ['abcdefghijkl mnopqrstuvw', 2],
    ['abcdefghijkl.mnopqrstuvwx', 2],
    ['abcdefghij-_~.lm', 1],
    ['abcdefghijké', 1],
    ['abcdefghijk\u0301', 0],
    ['abcdefghijkl\u0301', 1],
  ])('%j has %i', (value, count) => expect(anchors(value)).toHaveLength(count));

  test('one is at most 12 long, and without the letter of an accent', () => {
    expect(anchors('q'.repeat(30)).every(([, text]) => String(text).length === 12)).toBe(true);
    expect(anchors('abcdefghijkl\u0301')).toEqual([[0, 'abcdefghijk']]);
  });

  test('runs of letters are preferred to runs with signs, and rare ones to common ones', () => {
    expect(anchors('a-b-c-d-e-f-ghijklmnopq')).toEqual([[12, expect.stringMatching(/^[a-z]{11}$/)]]);
    expect(anchors('functionnam qxzvkjwpyqx')[0]?.[0]).toBe(12);
  });

  test.each([
    ['ab & cdef', [4, ' cdef'.slice(1 - 1)]],
    ['a&b', undefined],
    ['abc&def', undefined],
    ['abcd&def', [0, 'abcd']],
  ])('a short one of %j', (value, expected) => {
    const anchor = shortAnchorOf([...value]);
    const found = anchor && [anchor.index, Buffer.from(anchor.codes).toString()];
    if (expected === undefined) expect(found).toBeUndefined();
    else expect(value.slice(found?.[0] as number)).toMatch(new RegExp(`^${found?.[1]}`));
    expect(found === undefined).toBe(expected === undefined);
  });
});

describe('needles', () => {
  const owned = (sought: { value: string; asItStands?: boolean }[]) => {
    const all = sought.map((one, owner) => ({ ...one, owner }));
    const needles = new AnchoredNeedles(all);
    const owners = Array.from({ length: needles.length }, (_, at) => needles.at(at)?.owners ?? []);
    return { others: needles.others.map(({ owner }) => owner), owners, needles };
  };

  test('equal values share their anchors', () => {
    const { owners, others } = owned([{ value: 'made-up-key-0001' }, { value: 'made-up-key-0001' }]);
    expect(others).toEqual([]);
    expect(owners.length).toBeGreaterThan(5);
    for (const all of owners) expect(all).toEqual([0, 1]);
  });

  test('each form is of its own value', () => {
    const { needles } = owned([{ value: 'made-up-key-0001' }, { value: 'other-key-of-2' }]);
    const texts = Array.from({ length: needles.length }, (_, at) => needles.at(at)?.anchor?.value.text);
    expect([...new Set(texts)]).toEqual(['made-up-key-0001', 'other-key-of-2']);
    expect(needles.at(needles.length)).toBeUndefined();
  });

  test('a value that is searched for in no encoding has no anchor', () => {
    expect(owned([{ value: 'made-up-key-0001', asItStands: true }])).toMatchObject({ others: [0], owners: [] });
  });

  test('a value of short words has one, and its forms too', () => {
    const { others, owners, needles } = owned([{ value: 'fair & fare' }, { value: 'fair & fare' }]);
    expect([others, owners]).toEqual([[0, 1], [[0, 1]]]);
    expect(needles.at(0)?.anchor?.isShort).toBe(true);
  });

  test('a value without any run has forms alone', () => {
    expect(owned([{ value: '<&>"&<>"' }])).toMatchObject({ others: [0], owners: [] });
  });

  test('a long value has anchors in each of its pieces, or none', () => {
    const long = Array.from({ length: 600 }, (_, at) => `made-up-key-${1000 + at} `).join('');
    const { needles, others } = owned([{ value: long }]);
    const pieces = new Set(Array.from({ length: needles.length }, (_, at) => needles.at(at)?.anchor?.value.text));
    expect([pieces.size, others]).toEqual([3, []]);
    expect(owned([{ value: `${long}${'& '.repeat(4000)}` }])).toMatchObject({ others: [0], owners: [] });
  });

  test('a set has the anchors first', () => {
    const set = new NeedleSet([
      { value: 'a&b "c" d<e', owner: 0 },
      { value: 'made-up-key-0001', owner: 1 },
    ]);
    expect(set.length).toBe(countOf(set.strings));
    expect(set.at(0)?.owners).toEqual([1]);
    expect(set.at(set.length - 1)?.owners).toEqual([0]);
    expect(set.at(set.length)).toBeUndefined();
  });
});

describe('byte strings one after the other', () => {
  const all = byteStrings([Buffer.from('ab'), Buffer.from(''), Buffer.from('cdef')], byteStrings([Buffer.from('xyz')]));

  test('are kept in their order', () => {
    expect(Array.from({ length: countOf(all) }, (_, at) => Buffer.from(stringAt(all, at)).toString())).toEqual([
      'xyz',
      'ab',
      '',
      'cdef',
    ]);
  });

  test('have a shortest and a longest one', () => {
    expect(extremesOf(byteStrings([Buffer.from('abc'), Buffer.from('a'), Buffer.from('ab')]))).toEqual({
      shortest: 1,
      longest: 3,
    });
    expect(extremesOf(byteStrings([]))).toEqual({ shortest: Number.POSITIVE_INFINITY, longest: 0 });
  });
});

describe('parts of a value', () => {
  test.each([
    ['a1b2c3d4e5f6', true],
    ['a1b2c3d4e5f', false],
    ['abcdefghijkl', false],
    ['123456789012', false],
    ['12345678901a', true],
    ['a1b2c3 d4e5f6', false],
    ['a1b2c3@d4e5f6', false],
    ['a1b2c3://d4e5f6', false],
    ['ABCDEFGHIJK1', true],
    ['-----------1', true],
  ])('%s looks like a secret: %s', (text, expected) => expect(looksSecret(text)).toBe(expected));

  test.each([
    // Windows of eight characters that no word is.
    ['qmxkvwtbzjhgd7fplrncsayeu', true],
    ['QMXKVWTBZJHGD7FPLRNCSAYEU', true],
    ['qmxkvwtbzjhgdfplrncsaye7-', true],
    ['-!?-!?-!?-!?-!?7FPLRNCSAY', true],
    ['QMXKVWTBZJHGDFPLRNCSAYEU7-', false],
    ['qmxkvwtbzjhgdfplrncsayeu', false],
    ['qmxkvwtbzjhgDFplRncsayeui', true],
    ['qmxkvwtbzjhgDplRncsayeuio', true],
    ['qmxkvwtbzjhgDFPLRncsayeui', false],
    ['qmxkvwtbzjhgdfPlrncsayeui', false],
  ])('%s has short fragments: %s', (value, expected) => {
    expect(fragmentsOf(value).some(({ length }) => length === 8)).toBe(expected);
  });

  test('the last short fragment ends with the value', () => {
    const value = `${'-'.repeat(16)}a1b2c3d4`;
    expect(fragmentsOf(value)).toContain('a1b2c3d4');
  });

  test.each([
    ['kind_live_4f9a8b7c6d5e', true],
    ['kind_live_4f9a8b7c6d5', false],
    ['kind_live_abcdefghijkl', false],
    ['kind live_4f9a8b7c6d5e', false],
    ['https://live_4f9a8b7c6d5e', false],
  ])('%s has a last part: %s', (value, expected) => {
    expect(partsOf(value).some(({ part }) => part.is === 'last-part')).toBe(expected);
  });

  test.each([
    ['Zt9qLw3xVb7nRk2mPd5sHj8c', true],
    ['Zt9qLw3xVb7nRk2mPd5sHj8', true],
    ['Zt9qLw3xVb7nRk2mPd5sHj', false],
    ['Zt9qLw3xVb7nRk2mPd5sHj8c z', false],
  ])('%s has a beginning and an end of two thirds: %s', (value, expected) => {
    const cuts = partsOf(value).filter(({ part }) => part.is === 'beginning' || part.is === 'end');
    expect(cuts.map(({ text }) => text)).toEqual(expected ? [value.slice(0, 16), value.slice(-16)] : []);
  });
});
