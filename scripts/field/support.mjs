// The page docs/support.md has a part for each suite, which alone writes it.
import { readFileSync, writeFileSync } from 'node:fs';

const page = 'docs/support.md';
const suites = ['field', 'strangers', 'windows'];

/** @param {string} suite @param {string} text of its part, with its heading */
export function writePart(suite, text) {
  const old = readFileSync(page, 'utf8');
  const partOf = (name) => new RegExp(`<!-- By \`npm run ${name}\`. -->\n([^]*?)(?=\n<!-- By |$)`).exec(old)?.[1] ?? '';
  const parts = suites.map(
    (name) => `<!-- By \`npm run ${name}\`. -->\n${(name === suite ? text : partOf(name)).trim()}\n`,
  );
  writeFileSync(page, parts.join('\n'));
}
