import { readdirSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { pointAt } from '../../src/core/runtime/runtime.js';
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
    'dist/piers/index.html': page,
  });

const emit = (at: TestProject, stage: string, ...more: string[]) =>
  at.adder(['emit', 'runtime', '--stage', stage, '--into', 'dist', ...more]);
const scripts = (at: TestProject) => readdirSync(at.path('dist')).filter((name) => name.endsWith('.js'));

describe('adder emit runtime', () => {
  test('one build, two stages: the script carries a digest, pages point at it, the older one goes; again changes nothing', () => {
    const at = project();
    const ran = emit(at, 'staging');
    expect(ran).toEqual({ code: 0, stdout: '', stderr: 'adder: the values of staging in dist: is written\n' });
    const [first = ''] = scripts(at);
    expect(first).toMatch(/^adder-values\.[0-9a-f]{12}\.js$/);
    expect(at.read(`dist/${first}`)).toBe(
      'globalThis.adderValues = Object.freeze({\n  FERRY_API_URL: "https://api.staging.saltmarsh.test",\n  NOTICE_BANNER: "<\\/script> \\u2028",\n});\n',
    );
    for (const name of ['dist/index.html', 'dist/piers/index.html'])
      expect(at.read(name)).toMatch(
        new RegExp(
          `<script src="/${first}" integrity="sha384-[\\w+/]{64}" crossorigin="anonymous"></script>\n {2}<script type="module"`,
        ),
      );
    const before = at.read('dist/index.html');
    expect(emit(at, 'staging').stderr).toContain('is in place');
    expect(at.read('dist/index.html')).toBe(before);
    expect(emit(at, 'production', '--check').code).toBe(1);
    expect(at.read('dist/index.html')).toBe(before);
    expect(emit(at, 'production').code).toBe(0);
    expect(scripts(at)).toHaveLength(1);
    expect(scripts(at)).not.toEqual([first]);
    expect(at.read('dist/index.html').match(/adder-values/g)).toHaveLength(1);
    at.expectNone(Object.values(secrets), ran, 'dist');
  });

  test('JSON for apps that fetch it; the accessor module says when the file was not loaded', () => {
    const at = project();
    expect(at.adder(['emit', 'runtime', '--stage', 'production', '--as', 'json']).stdout).toBe(
      '{\n  "FERRY_API_URL": "https://api.saltmarsh.example"\n}\n',
    );
    const { stdout } = at.adder(['emit', 'module']);
    expect(stdout).toContain("export const FERRY_API_URL = loaded('FERRY_API_URL', true) as string;");
    expect(stdout).toContain("export const NOTICE_BANNER = loaded('NOTICE_BANNER', false) as string | undefined;");
  });

  test.each<[stage: string, files: Record<string, string>, said: string]>([
    ['production', { '.env.production': 'FERRY_API_URL=api.saltmarsh.example\n' }, 'FERRY_API_URL has no scheme'],
    ['production', { 'adder.yaml': ferryContract }, 'no variable of ticket-desk is delivered when it loads'],
  ])('in %s with %j: %s', (stage, files, said) => {
    const at = project();
    for (const [name, text] of Object.entries(files)) at.write(name, text);
    const { code, stderr } = emit(at, stage);
    expect([code, stderr]).toEqual([2, expect.stringContaining(said)]);
    expect(scripts(at)).toEqual([]);
  });
});

test.each<[title: string, html: string, depth: number, root: string]>([
  ['the root of the page’s own scripts', '<script src="/shop/assets/a.js"></script>', 2, '/shop/'],
  ['a page below, with scripts of its own folder', '<script src="../a.js"></script>', 1, '../'],
  ['a page without scripts', '<body></body>', 0, './'],
])('%s', (_, html, depth, root) => {
  const pointed = pointAt(html, { name: 'adder-values.0123456789ab.js', integrity: 'sha384-x' }, depth);
  expect(pointed).toContain(`<script src="${root}adder-values.0123456789ab.js"`);
  expect(pointAt(pointed, { name: 'adder-values.0123456789ab.js', integrity: 'sha384-x' }, depth)).toBe(pointed);
});
