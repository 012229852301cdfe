import { expect, test } from 'vitest';
import type { Owner } from '../../../src/core/inspect/plan.js';
import { statementFor } from '../../../src/core/inspect/rules/statements.js';
import { inWords } from '../../support/words.js';

const key: Owner = { role: 'secret', variable: 'FARE_KEY', reach: 'server' };

const shipped: readonly (readonly [path: string, inside: string[], message: RegExp, remedy: RegExp])[] = [
  ['dist/assets/index.js', [], /^contains the value of FARE_KEY/, /^move the read into server code, rebuild/],
  ['dist/index.html', [], /^a page contains/, /^remove the value from the page's source, or from the data/],
  ['dist/_payload.json', [], /^a data file contains/, /^remove the value from the data that this file is built from/],
  ['dist/assets/index.js.map', [], /^a source map contains/, /keep source maps out of what ships/],
  ['dist/assets/index.js.map', ['src/fares.test.ts'], /^a source map contains/, /^remove the value from the source/],
  ['ferries.apk', ['assets/index.js.map', 'src/main.ts'], /^a source map contains/, /keep source maps out/],
  ['dist/fares.test.js', [], /^a test file contains/, /keep tests out of what ships/],
  ['ferries.zip', ['__tests__/fares.js'], /^a test file contains/, /^remove the value from the test/],
];

test.each(shipped)('a secret in %s %j is named after its file', (path, inside, message, remedy) => {
  const statement = statementFor(key, { stage: 'production', audience: 'browser' }, { path, inside });
  expect(statement).toMatchObject({ code: 'leak/known-value' });
  const words = inWords(statement ?? expect.unreachable());
  expect(words.message).toMatch(message);
  expect(words.remedy).toMatch(remedy);
  expect(words.remedy).toMatch(/rotate the key.* If it is not a secret, declare it public/);
});
