import { describe, expect, test } from 'vitest';
import { parseEnvFile } from '../../../src/core/envfile/parse.js';
import { envExcerpt, type NameFacts } from '../../../src/core/resolve/env-findings.js';
import { readEnvFileLayer } from '../../../src/core/resolve/layers.js';
import { misnamedFinding } from '../../../src/core/resolve/misnamed.js';
import { asOthersRead, rejectedLines } from '../../../src/core/resolve/rejected.js';
import { MASK, reveal } from '../../../src/core/secrets/secret.js';

const facts: NameFacts = {
  isPublic: (name) => name.startsWith('PUBLIC') || name === 'CLIENT_SECRET',
  isDeclared: (name) => ['KEY', 'CLIENT_SECRET'].includes(name) || name.startsWith('PUBLIC'),
};
const layerOf = (text: string) => readEnvFileLayer('.env', '.env', Buffer.from(text), facts);
const shown = (text: string) =>
  layerOf(text).findings.map(({ code, variable, excerpt }) => [code, variable, excerpt?.text]);

describe('the line of an env file in a finding', () => {
  test.each<[title: string, text: string, found: (string | undefined)[][]]>([
    ['a broken line of a known name', 'KEY="hush', [['file/syntax', 'KEY', `KEY=${MASK}`]]],
    ['a broken line of a name that only this line has', 'HUSH="hush', [['file/syntax', undefined, MASK]]],
    ['a broken line of a name that a valid line has', 'A=b\nA="hush', [['file/syntax', 'A', `A=${MASK}`]]],
    ['text without a name', 'hush hush', [['file/syntax', undefined, MASK]]],
    ['a broken public line', 'PUBLIC_A="x', [['file/syntax', 'PUBLIC_A', 'PUBLIC_A="x']]],
    [
      'a public line with the name of a secret',
      'CLIENT_SECRET="x',
      [['file/syntax', 'CLIENT_SECRET', `CLIENT_SECRET=${MASK}`]],
    ],
    ['another encoding', 'A=1\0', [['file/encoding', undefined, undefined]]],
    ['white space around =', '  export KEY = b', [['value/untidy', 'KEY', `  export KEY =${MASK}`]]],
    [
      'several names that the shell reads differently',
      'PUBLIC_A=$1\nKEY=x;y',
      [
        ['value/ambiguous', 'PUBLIC_A', 'PUBLIC_A=$1'],
        ['value/ambiguous', 'KEY', `KEY=${MASK}`],
      ],
    ],
  ])('with %s', (_, text, found) => {
    const ofShell = shown(text).filter(([code]) => code !== 'value/ambiguous' || /[;$]/.test(text));
    expect(ofShell).toEqual(found);
  });

  test.each<[text: string, variants: string[]]>([
    ['PUBLIC_A=x\r\n', ['crlf']],
    ['PUBLIC_A=x\n', []],
    ['PUBLIC_A=x  \n', ['plain']],
    ['PUBLIC_A=x #\n', ['plain', 'plain']],
    [' PUBLIC_A=x\n', []],
    ['PUBLIC_A=\n', []],
  ])('%j is read differently as %j', (text, variants) => {
    const all = layerOf(text).findings.filter(({ code }) => code === 'value/ambiguous');
    expect(all.map(({ variant }) => variant)).toEqual(variants);
  });

  test.each<[text: string, read: object]>([
    ['PUBLIC_A=a$1;b', { isRead: true, text: 'a…$1' }],
    ['PUBLIC_A=a&b', { isRead: false }],
    ['KEY=a;b', { isRead: true }],
  ])('%j is read by a shell as %j', (text, read) => {
    const [found = expect.unreachable()] = layerOf(text).findings;
    expect(found.facts).toEqual({
      variable: text.split('=')[0],
      reader: 'a POSIX shell',
      differences: expect.anything(),
      ...read,
    });
  });

  test.each<[text: string | Buffer, isUnreadable: boolean]>([
    [Buffer.from('FERRY=b\nSEASON=summer', 'utf16le'), true],
    ['hush hush', false],
    ['A=\0\nB=c', false],
    ['A=b', false],
  ])('%j cannot be read at all: %s', (text, isUnreadable) => {
    expect(readEnvFileLayer('.env', '.env', Buffer.from(text), facts).isUnreadable).toBe(isUnreadable);
  });

  const file = (text: string) => parseEnvFile(Buffer.from(text));
  test.each<[title: string, text: string, column: number, length: number, range: [string, number, number]]>([
    ['of a public value is where it was', 'PUBLIC_A=abc', 10, 2, ['PUBLIC_A=abc', 10, 2]],
    ['is cut at the end of the line', 'PUBLIC_A=abc', 10, 99, ['PUBLIC_A=abc', 10, 3]],
    ['behind the end has one sign', 'PUBLIC_A=abc', 13, 5, ['PUBLIC_A=abc', 13, 1]],
    ['in a value is the whole mask', 'KEY=abcdefghijklmnop', 9, 2, [`KEY=${MASK}`, 5, MASK.length]],
    ['at a name stays', 'KEY=abc', 1, 3, [`KEY=${MASK}`, 1, 3]],
    ['over name and value covers the mask', 'KEY=a', 1, 99, [`KEY=${MASK}`, 1, 4 + MASK.length]],
    ['at an empty value is behind it', 'KEY=', 5, 1, ['KEY=', 5, 1]],
    ['of an unknown name is the mask', 'OTHER abc', 3, 1, [MASK, 1, MASK.length]],
  ])('the stretch %s', (_, text, column, length, [line, from, signs]) => {
    const known: NameFacts = { ...facts, isDeclared: (name) => facts.isDeclared(name) };
    const name = text.split('=')[0];
    expect(envExcerpt(file(text), { line: 1, column }, length, known, name)).toMatchObject({
      text: line,
      column: from,
      length: signs,
    });
  });

  test('a secret in a public value is a mask', () => {
    const key = ['ghp', 'Zx81Kq0Lm47Tn2Vb93Rw5Yc6Pd8Hf1Js0aGu'].join('_');
    expect(envExcerpt(file(`PUBLIC_A=${key}`), { line: 1, column: 1 }, 8, facts, 'PUBLIC_A').text).toBe(
      `PUBLIC_A=${MASK}`,
    );
  });
});

describe('lines that are rejected', () => {
  const rejected = (text: string) =>
    rejectedLines(parseEnvFile(Buffer.from(text)), { layer: '.env', path: '.env' }).map(({ name, texts, source }) => [
      name,
      texts.map(reveal),
      source.line,
    ]);

  test.each<[title: string, text: string, found: unknown[]]>([
    ['keep their name', 'A="hush\n', [['A', ['"hush', 'hush'], 1]]],
    ['keep the name after export', 'export A=$(hush)\n', [['A', ['$(hush)'], 1]]],
    ['belong to the name above', 'A=x\nhush hush\n', [['A', ['hush hush'], 2]]],
    [
      'belong to the broken name above',
      'A="x\nhush hush\n',
      [
        ['A', ['"x', 'x'], 1],
        ['A', ['hush hush'], 2],
      ],
    ],
    ['belong to no name at the top', 'hush hush\n', []],
    ['are none where nothing is broken', '# hush hush\nA=x\n', []],
  ])('%s', (_, text, found) => expect(rejected(text)).toEqual(found));

  test.each<[value: string, texts: string[]]>([
    ['hush', ['hush']],
    // Texts that are too short to be searched stand for no longer one.
    ['"hush', ['"hush', 'hush']],
    ["hush'", ["hush'", 'hush']],
    ['"correct-horse', ['correct-horse']],
    ["correct-horse'", ['correct-horse']],
    ['`correct-horse`', ['correct-horse']],
    ['hu"sh', ['hu"sh']],
    ['"a" # why', ['a" # why', '"a"', 'a']],
    ['correct-horse-battery # why', ['correct-horse-battery']],
    ['correct-horse\nbattery-staple', ['correct-horse']],
    ['"correct-horse" battery-staple', ['correct-horse']],
    ['correct-horse#battery', ['correct-horse#battery']],
    ['', []],
  ])('%j is read as %j', (value, texts) => expect(asOthersRead(value).sort()).toEqual([...texts].sort()));
});

describe('a file whose name is nearly that of an absent layer', () => {
  const found = (layer: string, names: string[], listed: string[] = []) =>
    misnamedFinding(layer, names, listed)?.place?.path;

  test.each<[name: string, layer: string, isNearly: boolean]>([
    ['.env.production.txt', '.env.production', true],
    ['.env.production.txt2', '.env.production', false],
    ['.env.staging.txt', '.env.production', false],
    ['env', '.env', true],
    ['.Env', '.env', true],
    ['.env .local', '.env.local', true],
    ['.env.prodution', '.env.production', true],
    ['.env.produtio', '.env.production', false],
    ['.evn', '.env', true],
    ['.en.local', '.env.local', false],
    ['env.local', '.env.local', true],
    ['.nev.local', '.env.local', true],
    ['x.env.local', '.env.local', false],
    ['.env', '.envs', false],
    ['.enx', '.env', false],
    ['.env.locla', '.env.local', true],
    ['.env.loca', '.env.local', true],
    ['.env.locals', '.env.local', true],
    ['.env2.local', '.env.local', false],
  ])('%s for %s: %s', (name, layer, isNearly) => expect(found(layer, [name])).toBe(isNearly ? name : undefined));

  test('has its directory, and is no layer itself', () => {
    expect(found('web/.env.local', ['.env.loca', '.env.locale'], ['web/.env.loca'])).toBe('web/.env.locale');
    expect(found('web/.env.local', ['.env.loca'], ['.env.loca'])).toBe('web/.env.loca');
  });
});
