import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { yamlDocument, yamlIn } from '../../../src/core/text/yaml.js';

describe('a YAML text', () => {
  test.each<[text: string, data: unknown]>([
    ['a: [1, x]', { a: [1, 'x'] }],
    ['', null],
    ['a: [', undefined],
    ['a: *nobody', undefined],
  ])('%j is %j', (text, data) => expect(yamlIn(text)).toEqual(data));

  test('keeps the places of its nodes', () => {
    expect(yamlDocument('a: b').get('a', true)).toMatchObject({ range: [3, 4, 4] });
  });
});

describe('nothing is printed', () => {
  const written: unknown[] = [];
  beforeEach(() => {
    vi.spyOn(process, 'emitWarning').mockImplementation((warning) => void written.push(warning));
  });
  afterEach(() => {
    vi.restoreAllMocks();
  });

  test.each([
    '? { hush: Sup3rS3cret }\n: 1\n',
    'a: [{ ? [Sup3rS3cret] : 1 }]',
    'a: !Sup3rS3cret 1',
    'a: &x 1\nb: *x',
    '%FOO Sup3rS3cret\n---\na: 1',
  ])('of %j', (text) => {
    yamlIn(text);
    yamlDocument(text, { uniqueKeys: false }).toJS();
    expect(written).toEqual([]);
  });
});
