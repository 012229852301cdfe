import { describe, expect, test } from 'vitest';
import { isTooDeep, readYaml } from '../../../src/core/contract/yaml.js';
import { limits } from '../../../src/core/limits/index.js';

const DEEPEST = limits.yamlDepth.value;

describe('a YAML text', () => {
  test.each<[what: string, text: string, data: unknown]>([
    ['a map', 'a: 1', { a: 1 }],
    ['an anchor and its alias', 'a: &x [1]\nb: *x', { a: [1], b: [1] }],
    ['nothing', '', null],
  ])('with %s is read', (_, text, data) => expect(readYaml(text)).toMatchObject({ data, problems: [] }));

  test.each<[what: string, text: string, problem: object]>([
    ['a bracket that stays open', 'a: [', { variant: 'yaml', problem: 'BAD_INDENT' }],
    ['an unknown tag', 'a: !x 1', { variant: 'yaml', problem: 'TAG_RESOLVE_FAILED', start: 3, end: 5 }],
    ['two documents', 'a: 1\n---\nb: 2\n', { variant: 'yaml', problem: 'MULTIPLE_DOCS' }],
    ['a key twice', 'a: 1\nbb: 2\na: 3', { variant: 'duplicate-key', start: 11, end: 12 }],
    ['an alias of nothing', 'a: *nobody', { variant: 'alias', start: 3, end: 10 }],
    ['an alias before its anchor', 'a: *x\nb: &x 1', { variant: 'alias', start: 3, end: 5 }],
    ['a list as a key', '? [hush]\n: 1', { variant: 'yaml', problem: 'BLOCK_AS_IMPLICIT_KEY', start: 2, end: 8 }],
    ['the prototype as a key', 'a: { __proto__: 1 }', { variant: 'prototype-key', start: 5, end: 14 }],
  ])('with %s has a problem there', (_, text, problem) => {
    const { problems, data } = readYaml(text);
    expect([problems.length, problems[0], data]).toEqual([1, expect.objectContaining(problem), undefined]);
  });

  test('whose aliases multiply it has a problem at the first alias', () => {
    const level = (n: number) =>
      `${'abcdefgh'[n]}: &${n} [${Array(9)
        .fill(`*${n - 1}`)
        .join(', ')}]`;
    const text = `a: &0 [1]\n${[1, 2, 3, 4, 5].map(level).join('\n')}\n`;
    const at = text.indexOf('*0');
    expect(readYaml(text).problems).toEqual([{ variant: 'aliases', start: at, end: at + 2 }]);
  });

  test('that is too deep has a problem, and is not parsed', () => {
    const read = readYaml('['.repeat(DEEPEST + 1));
    expect(read).toEqual({ problems: [{ variant: 'yaml', problem: 'TOO-DEEP', start: 0, end: 1 }] });
  });
});

describe('the depth of a text', () => {
  test.each<[what: string, text: string, isDeep: boolean]>([
    ['brackets at the limit', '['.repeat(DEEPEST), false],
    ['brackets beyond it', '['.repeat(DEEPEST + 1), true],
    ['braces beyond it', '{'.repeat(DEEPEST + 1), true],
    ['brackets with texts between', '[a, '.repeat(DEEPEST + 1), true],
    ['brackets that are closed again', '[]'.repeat(DEEPEST + 1), false],
    ['closing ones first', `${']'.repeat(5)}${'['.repeat(DEEPEST + 1)}`, true],
    ['indentation at the limit', `\n${' '.repeat(8 * DEEPEST - 1)}a`, false],
    ['indentation beyond it', `\n${' '.repeat(8 * DEEPEST)}a`, true],
  ])('of %s is too much: %s', (_, text, isDeep) => expect(isTooDeep(text)).toBe(isDeep));
});
