import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { EnvFile, Template } from '../../../src/core/envfile/ast.js';
import { parseEnvFile } from '../../../src/core/envfile/parse.js';
import { writeEnvFile } from '../../../src/core/envfile/write.js';
import { runs } from '../../support/runs.js';
import { inWords } from '../../support/words.js';

const parse = (text: string | Uint8Array): EnvFile => parseEnvFile(typeof text === 'string' ? Buffer.from(text) : text);

/** The template as a shell would write it, so that a table can show it. */
function show(template: Template): string {
  return template
    .map((part) => {
      if (part.kind === 'text') return part.text;
      return `<${part.name}${part.operator ?? ''}${part.word ? show(part.word) : ''}>`;
    })
    .join('');
}

const shown = (text: string) => parse(text).entries.map(({ name, value }) => [name, show(value)]);
const problems = (text: string | Uint8Array) =>
  parse(text).problems.map(
    ({ code, level, start }) => `${start.line}:${start.column} ${code}${level ? ` (${level})` : ''}`,
  );

describe('lines that are read', () => {
  test.each<[title: string, text: string, name: string, value: string]>([
    ['plain', 'A=b', 'A', 'b'],
    ['export', 'export A=b', 'A', 'b'],
    ['a variable named export', 'export=b', 'export', 'b'],
    ['indented', '\t A=b', 'A', 'b'],
    ['no value', 'A=', 'A', ''],
    ['blanks inside, trimmed at both ends', 'A=  b  c \t', 'A', 'b  c'],
    ['comment behind white space', 'A=b # c', 'A', 'b'],
    ['comment behind a tab', 'A=b\t# c', 'A', 'b'],
    ['comment behind a tab in a fallback', 'A=${B:-x}\t# c', 'A', '<B:-x>'],
    ['# without white space before it', 'A=b#c', 'A', 'b#c'],
    ['# right behind =', 'A=#c', 'A', '#c'],
    ['only a comment', 'A= # c', 'A', ''],
    ['quotes inside unquoted text', 'A=b"c"\'d\'', 'A', 'b"c"\'d\''],
    ['= in the value', 'A=b=c==', 'A', 'b=c=='],
    ['backslashes stay in unquoted text', 'A=C:\\new\\$x', 'A', 'C:\\new$x'],
    ['single quotes are literal', "A='b $c `d` \\n # e' # f", 'A', 'b $c `d` \\n # e'],
    ['single quotes over lines', "A='b\n c'", 'A', 'b\n c'],
    ['double quotes, escapes', 'A="\\n\\r\\t\\"\\\\\\$x\\q\\`"', 'A', '\n\r\t"\\$x\\q`'],
    ['double quotes over lines', 'A="b\nc"\t#d', 'A', 'b\nc'],
    ['line breaks in quotes are one \\n, in a CRLF file too', 'A="b\r\nc"\r\n', 'A', 'b\nc'],
    ['CRLF', 'A=b\r\n', 'A', 'b'],
    ['references', 'A=$B-${C}x', 'A', '<B>-<C>x'],
    ['a name ends where it ends', 'A=$B.c', 'A', '<B>.c'],
    ['operators', 'A="${B:-x y}${C-}${D:+$E}${F?no F}"', 'A', '<B:-x y><C-><D:+<E>><F?no F>'],
    ['a fallback holds what would end the line', 'A=${B:-x #y} z', 'A', '<B:-x #y> z'],
    ['a brace in a fallback', 'A=${B:-{\\}}', 'A', '<B:-{}>'],
    ['a dollar sign that begins nothing', 'A=$ $1 $$ 5$', 'A', '$ $1 $$ 5$'],
    ['no references in single quotes', "A='$B'", 'A', '$B'],
    ['other alphabets', 'A=Überfahrt ⛴', 'A', 'Überfahrt ⛴'],
  ])('%s', (_, text, name, value) => {
    expect(shown(text)).toEqual([[name, value]]);
    expect(problems(text).filter((one) => !one.endsWith('(note)'))).toEqual([]);
  });

  test('blank lines and comments hold nothing', () => {
    expect(shown('\n  # A=b\n\t\n#\r\n')).toEqual([]);
    expect(problems('\n  # A=b\n\t\n#\r\n')).toEqual([]);
  });
});

describe('problems of a line', () => {
  test.each<[title: string, text: string, said: string[], left: string[]]>([
    ['no =', 'AB\nC=d', ['1:1 file/syntax'], ['C']],
    ['export without =', 'export A', ['1:8 file/syntax'], []],
    ['not a name', 'MY-NAME=1', ['1:1 file/syntax'], []],
    ['name that starts with a digit', '1A=1', ['1:1 file/syntax'], []],
    ['no name', '=1', ['1:1 file/syntax'], []],
    ['white space around =', 'A = b', ['1:2 value/untidy (note)'], ['A']],
    ['text behind a quote', "A='b'c\nD=e", ['1:6 file/syntax'], ['D']],
    ['a quote that is never closed', 'A="b\nC=d\n', ['1:3 file/syntax'], ['C']],
    ['a quote that is closed by the next line', 'A="b\nC="d"\n', ['1:3 file/syntax'], ['C']],
    ['command substitution', 'A=$(date)', ['1:3 file/syntax'], []],
    ['backticks', 'A="`date`"\nB=c', ['1:4 file/syntax', '1:9 file/syntax'], ['B']],
    ['all problems of one value', 'A="$(a)\n${}"\nB=c', ['1:4 file/syntax', '2:1 file/syntax'], ['B']],
    ['other forms of expansion', 'A=${B%%x}\nC=${#D}', ['1:3 file/syntax', '2:3 file/syntax'], []],
    ['unclosed ${', 'A=${B\nC="${D"', ['1:3 file/syntax', '2:4 file/syntax'], []],
    ['a name twice', 'A=1\nB=2\nexport A=3', ['3:8 value/duplicate'], ['A', 'B', 'A']],
    ['a lone carriage return', 'A=b\rc', ['1:4 value/untidy'], ['A']],
    ['a lone carriage return at the end', 'A=b\r', ['1:4 value/untidy'], ['A']],
    ['two lone carriage returns', 'A=b\rc\rd', ['1:4 value/untidy'], ['A']],
    ['a lone carriage return on the next line', 'A=b\r\nC=d\re\n', ['2:4 value/untidy'], ['A', 'C']],
    ['white space before =', 'A =b', ['1:2 value/untidy (note)'], ['A']],
    ['white space after =', 'A= b', ['1:2 value/untidy (note)'], ['A']],
    ['white space alone after =', 'A= ', [], ['A']],
    ['the mark of another encoding, one byte of it', 'A=\u00ff', [], ['A']],
    ['padding that is doubled', 'Ab==\nB=c', ['1:1 file/syntax'], ['B']],
    ['padding that is doubled, of one letter', 'A==', [], ['A']],
    ['padding that is doubled, of a name', 'A_B==', [], ['A_B']],
    ['padding that is doubled, in quotes', "Ab='='", [], ['Ab']],
    ['a short word behind a broken line', 'x y\naB=', ['1:1 file/syntax', '2:1 file/syntax'], []],
    ['a short name behind a broken line', 'x y\nab=\nAB=', ['1:1 file/syntax'], ['ab', 'AB']],
    ['digits behind a broken line', 'x y\na1=', ['1:1 file/syntax', '2:1 file/syntax'], []],
    ['a short word with a value', 'x y\naB=c', ['1:1 file/syntax'], ['aB']],
    [`a short word behind 40 signs`, `A=${'x'.repeat(40)}\naB=`, ['2:1 file/syntax'], ['A']],
    [`a short word behind 39 signs`, `A=${'x'.repeat(39)}\naB=`, [], ['A', 'aB']],
    ['NUL as the first byte', '\0A=b', ['1:1 file/syntax', '1:1 file/encoding'], []],
    ['text behind a quote that closes on a later line', 'A="b\nc" d', ['1:3 file/syntax', '2:1 file/syntax'], []],
    ['references nested beyond reason', `A=${'${B:-'.repeat(30)}${'}'.repeat(30)}`, ['1:103 file/syntax'], []],
  ])('%s', (_, text, said, left) => {
    expect(problems(text)).toEqual(said);
    expect(parse(text).entries.map(({ name }) => name)).toEqual(left);
  });

  test('byte-order mark: a warning, and the first name is right', () => {
    expect(problems('\ufeffA=b')).toEqual(['1:1 file/encoding (warning)']);
    expect(shown('\ufeffA=b')).toEqual([['A', 'b']]);
  });

  test.each([
    ['with a mark', Buffer.from('\ufeffA=b\n', 'utf16le')],
    ['without one', Buffer.from('FERRY=b\nSEASON=summer', 'utf16le')],
    ['without one, of 8 bytes', Buffer.from('A=bc', 'utf16le')],
    ['big-endian, without one', Buffer.from('FERRY=b\nSEASON=summer', 'utf16le').swap16()],
    ['big-endian', Buffer.from('\ufeffA=b\n', 'utf16le').swap16()],
  ])('UTF-16 %s is reported once', (_, bytes) => {
    expect(problems(bytes)).toEqual(['1:1 file/encoding']);
    expect(parse(bytes).entries).toEqual([]);
  });

  test('six bytes with a NUL in every other one are too few to tell', () => {
    expect(problems(Buffer.from('A=b', 'utf16le'))).not.toEqual(['1:1 file/encoding']);
  });

  test.each(['constructor', 'toString'])('%s, which every object has, is found when it is there twice', (name) => {
    expect(parse(`${name}=1\n${name}=2`).problems.map(({ code }) => code)).toEqual(['value/duplicate']);
  });

  test('__proto__, which no map of names can hold, is no name', () => {
    expect(problems('__proto__=b')).toEqual(['1:1 file/syntax']);
    expect(parse('__proto__=b').entries).toEqual([]);
  });

  test('a bad byte spoils its own line only', () => {
    const bytes = Buffer.concat([
      Buffer.from('A=1\nB=x'),
      Buffer.from([0xe4]),
      Buffer.from('\n#'),
      Buffer.from([0]),
      Buffer.from('\nC=3'),
    ]);
    expect(problems(bytes)).toEqual(['2:4 file/encoding', '3:2 file/encoding']);
    expect(parse(bytes).entries.map(({ name }) => name)).toEqual(['A', 'C']);
  });

  test('a bad byte names the variable of its line, and only one of an entry', () => {
    const bytes = Buffer.from('A=1\0\n# \0\n');
    expect(parse(bytes).problems.map(({ name, variant }) => [name, variant])).toEqual([
      ['A', 'nul'],
      [undefined, 'nul'],
    ]);
  });

  test('a NUL is what is reported of a line with a bad byte too', () => {
    const bytes = Buffer.concat([Buffer.from('A='), Buffer.from([0xe4, 0])]);
    expect(parse(bytes).problems).toMatchObject([{ variant: 'nul', start: { column: 4 } }]);
  });

  test.each([
    ['{\\rt', false],
    ['{\\rtf', true],
  ])('%j is rich text: %s', (text, isRich) => {
    expect(parse(text).problems.some(({ variant }) => variant === 'rich-text')).toBe(isRich);
  });

  test('rich text is reported once', () => {
    const { entries, problems } = parseEnvFile(Buffer.from('{\\rtf1\\ansi\nA=1\\\n}'));
    expect(entries).toEqual([]);
    expect(problems).toMatchObject([{ code: 'file/encoding', variant: 'rich-text' }]);
  });

  test('columns count UTF-16 units, offsets count bytes', () => {
    const [problem] = parse("A='ä⛴😀'x").problems;
    expect(problem?.start).toEqual({ line: 1, column: 9, offset: 13 });
  });

  test('no problem text contains the value', () => {
    for (const text of ['A="hush', "A='hush'hush", 'A=$(hush)', 'A=${hush!}', 'hush', 'A=`hush`']) {
      for (const { start: _, end: __, name: ___, ...problem } of parse(text).problems)
        expect(JSON.stringify(inWords(problem))).not.toContain('hush');
    }
  });
});

describe('any bytes', () => {
  const scraps = [
    'A=',
    'export ',
    '"',
    "'",
    '\n',
    '\r\n',
    '\r',
    '#',
    ' ',
    '\\',
    '$',
    '${',
    '}',
    ':-',
    'B',
    '`',
    '$(',
    '\0',
    'ä',
    '\ufeff',
    '=',
  ];
  const envText = fc.array(fc.constantFrom(...scraps), { maxLength: 40 }).map((parts) => Buffer.from(parts.join('')));
  const anyBytes = fc.uint8Array({ maxLength: 200 });

  test('parse without a throw, and write back the same', () => {
    fc.assert(
      fc.property(fc.oneof(envText, anyBytes), (bytes) => {
        const file = parseEnvFile(bytes);
        expect(Buffer.from(writeEnvFile(file)).equals(bytes)).toBe(true);
        const ends = [0, ...file.nodes.map(({ end }) => end)];
        expect(file.nodes.map(({ start }) => start)).toEqual(ends.slice(0, -1));
        expect(ends.at(-1)).toBe(bytes.length);
        for (const { start, end } of file.problems) expect(start.offset).toBeLessThanOrEqual(end.offset);
      }),
      { numRuns: runs(3000) },
    );
  });

  test('deep nesting and long lines do not exhaust the stack', () => {
    expect(() => parse(`A=${'${B:-'.repeat(100_000)}`)).not.toThrow();
    expect(() => parse(`A="${'\\'.repeat(500_000)}`)).not.toThrow();
  });
});
