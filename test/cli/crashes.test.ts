import { describe, expect, test } from 'vitest';
import { ferryProject, secrets, TestProject } from '../support/adder.js';

const inspect = ['inspect', '--stage', 'production'];

test.each(['dist/a\nb.js', 'dist/\n\n.js', 'dist/a\r\tb\u001b[31m.js'])(
  'a file name with control characters: %j',
  (path) => {
    const project = ferryProject({
      [path]: `f("${secrets.FARE_SIGNING_KEY}")`,
      [`dist/x\n${secrets.FARE_SIGNING_KEY}.js`]: '1',
      'dist/z.js': 'fetch("https://api.saltmarsh.example")',
    });
    const { code, report } = project.json(inspect);
    const found = report.findings.map((one: { code: string; place: { path: string } }) => [one.code, one.place.path]);
    expect(code).toBe(1);
    expect(found).toContainEqual(['leak/known-value', path]);
    expect(found).toContainEqual(['leak/known-value', 'dist/[masked]']);
    expect(found).toHaveLength(2);
    const ran = project.adder(inspect);
    expect(ran.stdout).not.toContain('\u001b');
    project.expectNone([secrets.FARE_SIGNING_KEY], ran);
  },
);

describe('names of any length', () => {
  const project = (reach: string, name: string, toolchain: string) =>
    new TestProject({
      'adder.yaml': `adder: 1
stages: { production: { layers: [.env] } }
bundles: { desk: { toolchain: ${toolchain}, code: [src], output: [dist] } }
variables: { ${name}: ${reach} }
`,
      '.env': `${name}=https://a.saltmarsh.example/${name}\n`,
      'src/main.js': '1',
      'dist/index.html': `<title>%${name}%</title>`,
    });

  test.each(['A', '_', 'AB', 'KEY', 'A'.repeat(300)])('%s', (name) => {
    for (const reach of ['public', 'build', 'server'])
      expect([0, 1]).toContain(project(reach, name, 'webpack').adder(inspect).code);
    const { report } = project('public', name, 'webpack').json(inspect);
    expect(report.findings).toMatchObject([{ code: 'read/unreplaced', variable: name, place: { line: 1, column: 8 } }]);
  });
});

describe.each(['oxc-parser', 'oxc-resolver'])('without the binary of %s', (name) => {
  const project = ferryProject({
    'src/main.ts': "import './other';\nf(import.meta.env.VITE_FERRY_API_URL)",
    'src/other.ts': '1',
    'dist/a.js': 'f("https://api.saltmarsh.example")',
    'without.cjs': `const Module = require('node:module');
const { _load } = Module;
Module._load = (name, ...more) => { if (name === '${name}') throw new Error('Cannot find native binding'); return _load(name, ...more); };
`,
  });
  const env = { NODE_OPTIONS: '--require ./without.cjs' };

  // A draft follows imports only from the entry of a build.
  const needed = [['lint'], ['gate', 'production'], ...(name === 'oxc-parser' ? [['draft', '--dry-run']] : [])];
  test.each(needed.map((args) => [args]))('%j says what to install', (args) => {
    const { code, stderr } = project.adder(args, env);
    expect(code).toBe(3);
    expect(stderr).toContain(`source code cannot be read: ${name} has no binary for `);
    expect(stderr).toContain('→ run `npm install --include=optional`');
  });

  test.each([
    [['values', 'production']],
    [['compare', 'staging', 'production']],
    [['emit', 'example', '--stage', 'production']],
    [['fill', 'production']],
  ])('%j works', (args) => expect(project.adder(args, env).code).toBe(0));

  test('inspect reports what it found, and that the code could not be read', () => {
    const { code, report } = project.json(inspect, env);
    expect([code, report.answers.nothingLeaked.answer, report.coverage.files]).toEqual([3, 'not known', 1]);
    expect(report.coverage.unread).toEqual([
      { path: 'src', inside: [], because: expect.stringContaining(`${name} has no binary for`) },
    ]);
  });
});
