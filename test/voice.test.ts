import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';

/** Phrases of an older style, which no message, page, comment or test name uses. The regular expressions match whole words. */
const phrases = [
  'written out',
  'mend(s|ed|ing)?',
  'all the same',
  'in one go',
  'what is (not )?there',
  'looked (at|for)',
  'for the (server|build) alone',
  'taken as known',
  'holds the value',
  'passed over',
  '(put|set) right',
  'stands? (there|in)',
  'nothing found',
  'is there already',
  'for people',
  'members of containers',
  'Made by',
  'in silence',
  'by itself',
  'at the most',
  'takes? in',
  'g(ave|ives) back',
  '(is|are) told',
  '(not )?in order',
  'as (it|they) stands?',
];

/** The texts of the project, without the demo's made-up sources and the generated kernel. */
function texts(): [path: string, text: string][] {
  const root = join(import.meta.dirname, '..');
  const below = ['src', 'test', 'scripts', 'docs', 'bench'].flatMap((folder) =>
    readdirSync(join(root, folder), { recursive: true, encoding: 'utf8' }).map((name) => join(folder, name)),
  );
  return [...below, ...readdirSync(root)]
    .filter((path) => /\.(ts|mjs|md)$/.test(path) && !/voice\.test\.ts$|node_modules|rarity-table/.test(path))
    .map((path) => [path.replaceAll('\\', '/'), readFileSync(join(root, path), 'utf8')]);
}

describe('plain English', () => {
  const all = texts();

  test.each(phrases)('no text says /%s/', (phrase) => {
    const found = all.flatMap(([path, text]) =>
      text
        .split('\n')
        .flatMap((line, index) => (matcher(phrase).test(line) ? [`${path}:${index + 1} ${line.trim()}`] : [])),
    );
    expect(found).toEqual([]);
  });

  test('no sentence of a comment starts with a word that continues a subject nobody named', () => {
    const word =
      '(?:Of|Those|What|Whether|So much|So many|Such|That is|As (?:a|in|it|the|given|parsed|people|findings|reports)|Which of)\\b';
    const starts = new RegExp(`^\\s*(?:/\\*\\*|//) ${word}|^\\s*(?://|/?\\*+) .*\\. ${word}`);
    const isComment = (line = '') => /^\s*\/\//.test(line);
    const found = all
      .filter(([path]) => !path.endsWith('.md'))
      .flatMap(([path, text]) => {
        const lines = text.split('\n');
        return lines.flatMap((line, index) => {
          const before = lines[index - 1] ?? '';
          // A comment over several lines starts on its first.
          const isInner = isComment(line) && isComment(before);
          const isFirst = /^\s*\/\*\*\s*$/.test(before) && new RegExp(`^\\s*\\* ${word}`).test(line);
          return isFirst || (starts.test(line) && !isInner) ? [`${path}:${index + 1} ${line.trim()}`] : [];
        });
      });
    expect(found).toEqual([]);
  });

  test('the matcher finds whole words only', () => {
    expect(all.length).toBeGreaterThan(300);
    expect(matcher('mend(s|ed|ing)?').test('it is mended')).toBe(true);
    expect(matcher('mend(s|ed|ing)?').test('we recommend it, see docs/screenshots/amended.png')).toBe(false);
  });
});

function matcher(phrase: string): RegExp {
  return new RegExp(`(?<![\\w-])(${phrase})(?![\\w-])`);
}
