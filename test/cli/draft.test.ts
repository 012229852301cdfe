import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { reportSchema } from '../../src/core/report/documents.js';
import { layOut } from '../../src/demo/layout.js';
import { secrets, TestProject } from '../support/adder.js';

const template = join(import.meta.dirname, '../../src/demo/adopt');

/** The messy demo project, and every value in it that must not be shown. */
function messy(): { at: TestProject; hidden: string[] } {
  const at = new TestProject();
  layOut(template, at.folder);
  const texts = ['.env', '.env.development', '.env.production', '.env.staging.txt']
    .map((name) => at.read(name))
    .join('\n');
  const wide = readFileSync(at.path('.env.local'), 'utf16le');
  const hidden = [
    ...`${texts}\n${wide}`.matchAll(/^(?:\w*(?:KEY|SECRET|TOKEN|DATABASE_URL|ADMIN_PASSWORD))=(.{12,})$/gm),
  ]
    .map(([, value = '']) => value)
    .filter((value) => !value.includes('tiles'));
  return { at, hidden };
}

describe('adder draft', () => {
  test('a messy project gets a contract on which values runs right after', () => {
    const { at, hidden } = messy();
    expect(hidden.length).toBeGreaterThan(7);
    expect(() => reportSchema.parse(at.json(['draft', '--contract', 'other.yaml']).report)).not.toThrow();
    const ran = at.adder(['draft']);
    expect([ran.code, ran.stderr]).toEqual([0, '']);
    expect(ran.stdout).toContain(
      'wrote adder.yaml: 3 stages, 3 bundles and 24 variables (11 public, 1 build, 12 server)',
    );
    at.expectNone(hidden, { ...ran, stdout: ran.stdout + at.read('adder.yaml') });
    const values = at.adder(['values', '--all']);
    expect([values.code, values.stderr]).toEqual([1, '']);
    at.expectNone(hidden, values);
    const { report } = at.json(['values', '--all']);
    const told = new Set(
      report.findings.map(({ code, variable = '' }: { code: string; variable?: string }) =>
        `${code} ${variable}`.trim(),
      ),
    );
    for (const trouble of [
      'file/encoding',
      'repo/misnamed',
      'value/missing VITE_FERRY_API_URL',
      'value/malformed VITE_FERRY_API_URL',
      'value/malformed VITE_HARBOUR_MAP_URL',
      'value/untidy VITE_ANALYTICS_ID',
      'value/untidy VITE_NOTICE_BANNER',
      'value/untidy VITE_SUPPORT_NAME',
      'value/untidy PAYMENT_SECRET_KEY',
      'value/placeholder QUAY_ADMIN_PASSWORD',
      'value/ambiguous QUAY_GREETING',
      'value/undeclared NODE_ENV',
    ])
      expect(told).toContain(trouble);
  });

  test('never overwrites, and --dry-run writes nothing', () => {
    const { at } = messy();
    const dry = at.adder(['draft', '--dry-run']);
    expect(dry.stdout).toMatch(/^# Drafted by `adder draft`/);
    at.write('adder.yaml', 'mine');
    expect(at.adder(['draft'])).toEqual({
      code: 2,
      stdout: '',
      stderr: 'adder: adder.yaml already exists\n  → run `adder draft --merge` to add what is new to it\n',
    });
    expect(at.read('adder.yaml')).toBe('mine');
  });

  test('--merge adds what is new, and only once', () => {
    const at = new TestProject({
      'adder.yaml': 'adder: 1\nstages:\n  production: { layers: [.env.production] } # ours\nvariables:\n  A: public\n',
      '.env.production': `A=1\nFARE_SIGNING_KEY=${secrets.FARE_SIGNING_KEY}\n`,
    });
    expect(at.adder(['draft', '--merge', '--quiet']).stdout).toMatch(/^added to adder\.yaml: 1 variable \(1 server\)/);
    const merged = at.read('adder.yaml');
    expect(merged).toMatch(
      /\[\.env\.production\] } # ours\nvariables:\n {2}A: public\n {2}# server: .*\n {2}FARE_SIGNING_KEY: server\n$/s,
    );
    expect(at.adder(['draft', '--merge', '--quiet']).stdout).toMatch(/^nothing to add to adder\.yaml/);
    expect(at.read('adder.yaml')).toBe(merged);
  });

  test('a section on one line: says what to do, and changes nothing', () => {
    const text = 'adder: 1\nstages: { production: { layers: [.env] } }\nvariables: { A: public }\n';
    const at = new TestProject({ 'adder.yaml': text, '.env': 'B=1\n' });
    const { code, stderr } = at.adder(['draft', '--merge']);
    expect([code, stderr]).toEqual([2, expect.stringContaining('variables in adder.yaml is written on one line')]);
    expect(at.read('adder.yaml')).toBe(text);
  });

  test('a directory with nothing in it', () => {
    const at = new TestProject();
    const { code, stderr } = at.adder(['draft']);
    expect([code, stderr]).toEqual([2, expect.stringContaining('this directory has no env file')]);
  });

  test('build output and installed packages are not project code', () => {
    const at = new TestProject({
      'package.json': '{ "name": "desk", "devDependencies": { "vite": "7" } }',
      'src/main.ts': 'f(import.meta.env.VITE_A)',
      'storybook-static/index.html': '<script type="module" src="./a.js"></script>',
      'storybook-static/a.js': 'process.env.OF_STORYBOOK',
      'node_modules/a/.github/workflows/a.yml': 'on: push\njobs: { a: { steps: [{ run: npm run build }] } }',
      '.env': 'VITE_A=1\n',
    });
    spawnSync('git', ['init', '--quiet'], { cwd: at.folder });
    expect(at.adder(['draft']).code).toBe(0);
    expect(at.read('adder.yaml')).toContain('code: [src], output: [dist]');
    expect(at.read('adder.yaml')).not.toContain('OF_STORYBOOK');
    const { report } = at.json(['lint']);
    expect(report.findings.map(({ code }: { code: string }) => code)).toEqual([]);
  });
});
