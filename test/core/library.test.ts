import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { inspect, mergeReports } from '../../src/core/index.js';
import { reportSchema } from '../../src/core/report/documents.js';
import { zipOf } from '../support/unpack.js';

/** Runs the first example of the page, as it is there. @returns what it logs */
async function runExample(): Promise<unknown[]> {
  const page = readFileSync(join(import.meta.dirname, '../../docs/library.md'), 'utf8');
  const [, code = ''] = /```ts\n([\s\S]*?)```/.exec(page) ?? [];
  const logged: unknown[] = [];
  const body = code.replace(/^import .*$/m, '');
  const run = new Function('inspect', 'console', `return (async () => {${body}})()`);
  await run(inspect, { log: (one: unknown) => logged.push(one) });
  const comments = [...code.matchAll(/\/\/ (.*)$/gm)].map(([, comment]) => comment);
  expect(comments).toHaveLength(3);
  return [logged, comments];
}

test('the example of the documentation logs what its comments say', async () => {
  const [logged, comments] = (await runExample()) as [unknown[], string[]];
  expect(logged.slice(0, 2)).toEqual(comments.slice(0, 2));
  expect(logged[2]).toEqual(['API_URL in dist/app.js']);
  expect(comments[2]).toBe("[ 'API_URL in dist/app.js' ]");
});

const contract = `adder: 1
stages:
  staging: { layers: [.env.staging] }
  production: { layers: [.env.production, process] }
bundles: { shop: { code: [src], server-code: [src/server], output: [dist], source-maps: forbidden } }
variables: { API_URL: public, SIGNING_KEY: server }
accept:
  - { finding: leak/source-in-map, because: a test, until: 2026-01-31 }
`;
const layers = {
  '.env.staging': 'API_URL=https://api.staging.saltmarsh.test\nSIGNING_KEY=made-up-signing-key-of-staging-44\n',
  '.env.production': 'API_URL=https://api.saltmarsh.example\n',
};

test('archives, other stages, the process, acceptances, and values that are unknown', async () => {
  const artifacts = [
    { path: 'dist/crew.apk', bytes: zipOf({ 'assets/a.js': 'k="made-up-signing-key-of-staging-44"' }) },
    { path: 'dist/a.js', bundle: 'shop', bytes: 'f("https://api.staging.saltmarsh.test")' },
    { path: 'dist/a.js.map', bundle: 'shop', bytes: '{"version":3,"sources":[],"mappings":""}' },
  ];
  const report = await inspect({ contract, stage: 'production', layers, artifacts, today: '2026-01-01' });
  expect(reportSchema.parse(report)).toEqual(report);
  expect(report.findings.map(({ code, place }) => [code, place?.path, ...(place?.inside ?? [])])).toEqual([
    ['stage/foreign-value', 'dist/a.js'],
    ['leak/known-value', 'dist/crew.apk', 'assets/a.js'],
  ]);
  expect(report.summary.accepted).toBe(1);
  expect(report.coverage).toMatchObject({ files: 3, members: 1, unread: [] });
  expect(report.coverage?.notSearched).toEqual([
    { variable: 'SIGNING_KEY', stage: 'production', because: 'no value here' },
  ]);
  const later = await inspect({ contract, stage: 'production', layers, artifacts, today: '2026-02-01' });
  expect(later.summary.accepted).toBe(0);
  const known = { ...layers, process: { SIGNING_KEY: 'made-up-signing-key-of-production-55' } };
  const clean = await inspect({ contract, stage: 'production', layers: known, artifacts: [] });
  expect(clean.answers?.nothingLeaked.answer).toBe('yes');
  expect(mergeReports([report, clean], '2026-01-01').findings).toEqual(report.findings);
});

test.each([
  [{ contract: 'adder: 1\nstages: 3\n', stage: 'production', layers: {}, artifacts: [] }, /adder\.yaml:2 /],
  [{ contract, stage: 'prod', layers: {}, artifacts: [] }, /the contract has no stage prod/],
  [
    { contract, stage: 'production', layers: {}, artifacts: [{ path: 'a.js', bytes: '', bundle: 'web' }] },
    /the contract has no bundle web/,
  ],
])('mistake %# is an error', async (input, message) => expect(inspect(input)).rejects.toThrow(message));
