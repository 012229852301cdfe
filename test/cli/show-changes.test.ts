import { gzipSync } from 'node:zlib';
import { describe, expect, test } from 'vitest';
import { reportSchema } from '../../src/core/report/documents.js';
import { TestProject } from '../support/adder.js';

const key = 'made-up-signing-key-for-fares-0001';

const contract = `adder: 1
stages: { production: { layers: [.env] } }
bundles: { desk: { toolchain: vite, code: [src], output: [dist] } }
variables: { FARE_SIGNING_KEY: server }
`;

type Files = Readonly<Record<string, string | Uint8Array>>;

/** Creates a project with reports from before and after a change of its output. */
function withReports(before: Files, after: Files): TestProject {
  const at = new TestProject({ 'adder.yaml': contract, '.env': `FARE_SIGNING_KEY=${key}\n` });
  for (const [name, files] of [['before', before] as const, ['after', after] as const]) {
    for (const [path, text] of Object.entries(files)) at.write(`dist/${path}`, text);
    at.adder(['inspect', '--stage', 'production', '--format', 'json', '--save', `${name}.json`]);
  }
  return at;
}

const show = ['show', 'before.json', 'after.json', '--changes'];
const [leaks, other] = [{ 'a.js': `f("${key}")` }, { 'b.js': `f("${key}")` }];
const fine = { 'a.js': 'f()' };

interface Said {
  place?: { path: string };
}
const paths = (all: readonly Said[]) => all.map(({ place }) => place?.path);

describe('what changed between two reports', () => {
  test.each([
    ['a leak that came', fine, leaks, { code: 1, added: ['dist/a.js'], gone: [], same: [] }],
    ['one that went', leaks, fine, { code: 0, added: [], gone: ['dist/a.js'], same: [] }],
    ['one that stayed', leaks, leaks, { code: 0, added: [], gone: [], same: ['dist/a.js'] }],
    ['another one', leaks, { ...fine, ...other }, { code: 1, added: ['dist/b.js'], gone: ['dist/a.js'], same: [] }],
  ])('%s', (_, before, after, expected) => {
    const at = withReports(before, after);
    const { code, stdout } = at.adder([...show, '--format', 'json']);
    const report = JSON.parse(stdout);
    expect(reportSchema.safeParse(report).error).toBeUndefined();
    const { gone, same } = report.changes;
    expect({ code, added: paths(report.findings), gone: paths(gone), same: paths(same) }).toEqual(expected);
    expect(report.summary.error).toBe(expected.added.length);
    for (const format of ['text', 'markdown', 'html', 'sarif', 'junit', 'code-quality'])
      expect(at.adder([...show, '--format', format]).stdout).not.toContain(key);
  });

  test('as text and Markdown: new findings as always, one line for what is gone, answers that changed', () => {
    const at = withReports(leaks, fine);
    const text = at.adder([...show, '--color', 'never']).stdout;
    expect(text).toMatch(/^GONE\nleak\/known-value {2}FARE_SIGNING_KEY {2}dist\/a\.js:1:4 {2}/m);
    expect(text).toMatch(/^nothing leaked: yes, was no$/m);
    expect(text).toMatch(/^0 new findings, 1 is gone, 0 are the same, since \d{4}-/m);
    expect(at.adder([...show, '--quiet']).stdout).toMatch(/^0 new findings, 1 is gone, .*\n$/);
    const markdown = at.adder([...show, '--format', 'markdown']).stdout;
    expect(markdown).toMatch(/^### adder inspect for production: 0 new findings, 1 is gone/);
    expect(markdown).toContain('<summary>Gone</summary>');
  });

  test('SARIF says the state of each result', () => {
    const at = withReports({ ...leaks, 'c.js': `f("${key}")` }, { ...fine, ...other });
    const { runs } = JSON.parse(at.adder([...show, '--format', 'sarif']).stdout);
    const states = runs[0].results.map((one: { baselineState: string }) => one.baselineState);
    expect(states.sort()).toEqual(['absent', 'new', 'unchanged']);
  });

  test('what could not be read is not gone for certain', () => {
    const at = withReports(leaks, { ...fine, 'b.js.gz': gzipSync('f()').subarray(0, 14) });
    const { code, stdout } = at.adder(show);
    expect(stdout).toContain('1 item could not be checked, so some of these may still be there');
    // The reason for the exit code.
    expect([code, stdout]).toEqual([3, expect.stringMatching(/could not check 1 item:\n {2}dist\/b\.js\.gz /)]);
  });

  test.each<[string, string[], RegExp]>([
    ['one report', ['before.json'], /--changes needs two reports/],
    ['three reports', ['before.json', 'after.json', 'after.json'], /--changes needs two reports/],
    [
      'reports of two commands',
      ['before.json', 'lint.json'],
      /before\.json is of adder inspect production, and lint\.json of/,
    ],
    ['a table of values', ['values.json', 'after.json'], /values\.json has no findings to compare/],
  ])('%s: an error', (_, files, said) => {
    const at = withReports(leaks, fine);
    at.adder(['lint', '--format', 'json', '--save', 'lint.json']);
    at.adder(['values', 'production', '--format', 'json', '--save', 'values.json']);
    const { code, stderr } = at.adder(['show', ...files, '--changes']);
    expect([code, stderr]).toEqual([2, expect.stringMatching(said)]);
  });
});
