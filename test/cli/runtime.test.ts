import { readdirSync, rmSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { allows, pointAt, withoutValues } from '../../src/core/runtime/page.js';
import { ferryContract, ferryProject, secrets, type TestProject } from '../support/adder.js';

const page =
  '<!doctype html>\n<head>\n  <title>Desk</title>\n  <script type="module" src="/assets/a.js"></script>\n</head>\n';

const project = () =>
  ferryProject({
    'adder.yaml': ferryContract
      .replace(
        'FERRY_API_URL: { reach: public, form: url }',
        'FERRY_API_URL: { reach: public, form: url, delivery: runtime }',
      )
      .replace(
        'NOTICE_BANNER: { reach: public, required: false }',
        'NOTICE_BANNER: { reach: public, required: false, delivery: runtime }',
      ),
    '.env.staging':
      'FERRY_API_URL=https://api.staging.saltmarsh.test\nNOTICE_BANNER="</script> \u2028"\nFARE_SIGNING_KEY=made-up-fare-signing-key-of-staging-0002\n',
    'dist/index.html': page,
    'dist/assets/a.js': '',
    'dist/piers/index.html': page,
  });

const emit = (at: TestProject, stage: string, ...more: string[]) =>
  at.adder(['emit', 'runtime', '--stage', stage, '--into', 'dist', ...more]);
const scripts = (at: TestProject) => readdirSync(at.path('dist')).filter((name) => name.endsWith('.js'));

describe('adder emit runtime', () => {
  test('a build gets the values of one stage, and then of another one', () => {
    const at = project();
    const ran = emit(at, 'staging');
    expect(ran).toEqual({ code: 0, stdout: '', stderr: 'adder: the staging values in dist were written\n' });
    const [first = ''] = scripts(at);
    expect(first).toMatch(/^adder-values\.[0-9a-f]{12}\.js$/);
    expect(at.read(`dist/${first}`)).toBe(
      'globalThis.adderValues = Object.freeze({\n  FERRY_API_URL: "https://api.staging.saltmarsh.test",\n  NOTICE_BANNER: "\\u003c/script> \\u2028",\n});\n',
    );
    for (const name of ['dist/index.html', 'dist/piers/index.html'])
      expect(at.read(name)).toMatch(
        new RegExp(
          `<script src="/${first}" integrity="sha384-[\\w+/]{64}" crossorigin="anonymous"></script>\n {2}<script type="module"`,
        ),
      );
    const before = at.read('dist/index.html');
    expect(emit(at, 'staging').stderr).toContain('are up to date');
    expect(at.read('dist/index.html')).toBe(before);
    expect(emit(at, 'production', '--check').code).toBe(1);
    expect(at.read('dist/index.html')).toBe(before);
    expect(emit(at, 'production').code).toBe(0);
    expect(scripts(at)).toHaveLength(1);
    expect(scripts(at)).not.toEqual([first]);
    expect(at.read('dist/index.html').match(/adder-values/g)).toHaveLength(1);
    at.expectNone(Object.values(secrets), ran, 'dist');
  });

  test('JSON is for apps that fetch it', () => {
    const at = project();
    expect(at.adder(['emit', 'runtime', '--stage', 'production', '--as', 'json']).stdout).toBe(
      '{\n  "FERRY_API_URL": "https://api.saltmarsh.example"\n}\n',
    );
  });

  test('the accessor module reports a file that was not loaded', () => {
    const at = project();
    const { stdout } = at.adder(['emit', 'module']);
    expect(stdout).toContain("export const FERRY_API_URL = loaded('FERRY_API_URL', true) as string;");
    expect(stdout).toContain("export const NOTICE_BANNER = loaded('NOTICE_BANNER', false) as string | undefined;");
  });

  test.each<[stage: string, files: Record<string, string>, said: string]>([
    ['production', { '.env.production': 'FERRY_API_URL=api.saltmarsh.example\n' }, 'FERRY_API_URL has no scheme'],
    ['production', { 'adder.yaml': ferryContract }, 'ticket-desk has no load-time variables'],
  ])('in %s with %j: %s', (stage, files, said) => {
    const at = project();
    for (const [name, text] of Object.entries(files)) at.write(name, text);
    const { code, stderr } = emit(at, stage);
    expect([code, stderr]).toEqual([2, expect.stringContaining(said)]);
    expect(scripts(at)).toEqual([]);
  });
});

describe('inspect of values that an app reads when it loads', () => {
  const name = (at: TestProject) => scripts(at)[0] ?? expect.unreachable();
  const url = 'https://api.saltmarsh.example';

  test.each<[title: string, change: (at: TestProject) => void, said: string[]]>([
    ['as they should be', () => {}, []],
    [
      'of another stage',
      (at) => void emit(at, 'staging'),
      [
        'stale/runtime-file: the values file has a different FERRY_API_URL than production (the value of staging)',
        'stale/runtime-file: the values file has NOTICE_BANNER, which has no value in production',
      ],
    ],
    [
      'a page written anew by a build',
      (at) => at.write('dist/index.html', page),
      [
        'serve/missing-file: the page loads no values file, but the app reads FERRY_API_URL and NOTICE_BANNER when it loads',
      ],
    ],
    ['the file is not there', (at) => rmSync(at.path('dist', name(at))), ['serve/missing-file', 'serve/missing-file']],
    [
      'changed by hand',
      (at) => at.write(`dist/${name(at)}`, at.read(`dist/${name(at)}`).replace(url, 'https://x.test')),
      [
        'serve/blocked-runtime-file: browsers block the file: its digest differs from the one in the page',
        'serve/blocked-runtime-file',
        'serve/cached-runtime-file',
        'stale/runtime-file: the values file has a different FERRY_API_URL than production',
      ],
    ],
    [
      'a script before it',
      (at) => at.write('dist/index.html', at.read('dist/index.html').replace('<head>', '<head><script>go()</script>')),
      ['serve/late-runtime-file'],
    ],
    [
      'a policy that forbids it',
      (at) =>
        at.write(
          'dist/index.html',
          `<meta http-equiv="content-security-policy" content="script-src 'nonce-1'">${at.read('dist/index.html')}`,
        ),
      ["serve/blocked-runtime-file: browsers block the file: the page's content security policy forbids it"],
    ],
    [
      'a secret in it',
      (at) =>
        at.write(
          `dist/${name(at)}`,
          at.read(`dist/${name(at)}`).replace('({', `({\n  FARE_SIGNING_KEY: "${secrets.FARE_SIGNING_KEY}",`),
        ),
      [
        'leak/known-value',
        'serve/blocked-runtime-file',
        'serve/cached-runtime-file',
        'stale/runtime-file: the values file has FARE_SIGNING_KEY, which must not be in it',
      ],
    ],
  ])('%s', (_, change, said) => {
    const at = project();
    expect(emit(at, 'production').code).toBe(0);
    change(at);
    const { report } = at.json(['inspect', '--stage', 'production']);
    const found: string[] = report.findings.map(
      ({ code, message }: { code: string; message: string }) => `${code}: ${message}`,
    );
    for (const one of said) expect(found).toContainEqual(expect.stringContaining(one));
    expect([...new Set(found.map((one) => one.split(':')[0]))].sort()).toEqual(
      [...new Set(said.map((one) => one.split(':')[0]))].sort(),
    );
    at.expectNone(Object.values(secrets), at.adder(['inspect', '--stage', 'production']));
  });

  test('JSON that the app fetches needs no tag, and is held against the stage too', () => {
    const at = project();
    at.write('dist/values.json', JSON.stringify({ FERRY_API_URL: url, theme: 'sea' }));
    expect(at.adder(['inspect', '--stage', 'production']).code).toBe(0);
    at.write('dist/values.json', JSON.stringify({ FERRY_API_URL: 'https://api.staging.saltmarsh.test' }));
    expect(at.adder(['inspect', '--stage', 'production']).stdout).toContain('than production (the value of staging)');
  });

  test('one build is valid for both stages, and only its values file changes', () => {
    const at = project();
    const made =
      "require('node:fs').writeFileSync('dist/built.js', process.env.VITE_TIDE_CHART + process.env.VITE_FERRY_API_URL)";
    expect(at.adder(['with', 'staging', '--', 'node', '-e', made]).code).toBe(0);
    expect(at.read('dist/built.js')).toBe('trueundefined');
    for (const stage of ['staging', 'production']) {
      expect(emit(at, stage).code).toBe(0);
      expect(at.adder(['inspect', '--stage', stage])).toMatchObject({
        code: 0,
        stdout: expect.not.stringContaining('stale'),
      });
    }
  });
});

test.each([
  [['runtime', '--as', 'env'], 'adder emit runtime has no format env'],
  [['types', '--as', 'json'], 'adder emit types has no format json'],
])('adder emit %j: %s', (args, said) => {
  expect(project().adder(['emit', ...args, '--stage', 'production'])).toMatchObject({
    code: 2,
    stderr: expect.stringContaining(said),
  });
});

test('constants for an app package set the same values', () => {
  const { stdout } = project().adder(['emit', 'runtime', '--stage', 'staging', '--as', 'constants']);
  expect(stdout).toMatch(/^export const adderValues = Object\.freeze\(\{\n {2}FERRY_API_URL: "https:\/\/api\.staging/);
  expect(stdout).toMatch(/\nglobalThis\.adderValues = adderValues;\n$/);
});

const file = { name: 'adder-values.0123456789ab.js', integrity: 'sha384-x' };
const files = new Set(['assets/a.js', 'a.js', 'piers/index.html']);

test.each<[title: string, html: string, path: string, root: string]>([
  ['the root of the page’s own scripts', '<script src="/shop/assets/a.js?v=1"></script>', 'piers/index.html', '/shop/'],
  ['another host', '<script src="https://cdn.test/x/assets/a.js"></script>', 'index.html', 'https://cdn.test/x/'],
  [
    'a script of somebody else first',
    '<script src="//x.test/b.js"></script><script src="/a.js"></script>',
    'b/c.html',
    '/',
  ],
  ['a page below, with relative scripts', '<script src="../a.js"></script>', 'piers/index.html', '../'],
  ['a page with a base', '<base href="/shop/"><script src="a.js"></script>', 'piers/index.html', ''],
  ['a page without scripts', '<body></body>', 'index.html', './'],
])('%s', (_, html, path, root) => {
  const pointed = pointAt(html, file, path, files);
  expect(pointed).toContain(`<script src="${root}adder-values.0123456789ab.js"`);
  expect(pointAt(pointed, file, path, files)).toBe(pointed);
  expect(withoutValues(pointed)).toBe(html);
});

test('a script in a comment, a template or a data block does not count', () => {
  const html =
    '<head>\n<!-- <script src="/a.js"></script> -->\n<template><script>1</script></template>\n<script type="application/json">{}</script>\n  <script src="a.js"></script>\n';
  expect(pointAt(html, file, 'index.html', files)).toBe(
    html.replace(
      '  <script src',
      '  <script src="./adder-values.0123456789ab.js" integrity="sha384-x" crossorigin="anonymous"></script>\n  <script src',
    ),
  );
});

test.each<[policy: string, isAllowed: boolean]>([
  ["default-src 'none'; script-src 'self'", true],
  ["script-src 'sha384-x' 'strict-dynamic'", true],
  ["script-src 'nonce-1' 'strict-dynamic' 'self'", false],
  ["default-src 'none'", false],
  ["img-src 'self'", true],
])('the policy %s', (policy, isAllowed) => {
  expect(allows(policy, { start: 0, end: 0, src: '/v.js', integrity: 'sha384-x', runs: 'at once' })).toBe(isAllowed);
});
