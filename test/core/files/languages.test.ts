import { describe, expect, test } from 'vitest';
import { isPage, scriptLanguage } from '../../../src/core/files/languages.js';

describe('the language of a file', () => {
  test.each([
    ['a.js', 'jsx', false],
    ['a.mts', 'ts', false],
    ['a.html', undefined, true],
    ['data:text/javascript@12', 'js', false],
    ['data:application/x-javascript@12', 'js', false],
    ['data:text/html@12', undefined, true],
    ['data:text/plain@12', undefined, false],
    ['data:text/javascripts@12', undefined, false],
  ])('%s: %s, a page: %s', (name, language, page) =>
    expect([scriptLanguage(name), isPage(name)]).toEqual([language, page]),
  );
});
