import { chmodSync, existsSync, readFileSync, statSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { ferryProject, secrets } from '../support/adder.js';

describe('--save writes only where it may', () => {
  test.each([
    ['a layer', ['emit', 'example', '--save', '.env'], '.env is a layer of development'],
    ['a layer, with --replace', ['emit', 'example', '--save', '.env', '--replace'], '.env is a layer of development'],
    [
      'a layer that is absent',
      ['emit', 'needs', '--stage', 'production', '--as', 'env', '--save', '.env.development'],
      '.env.development is a layer',
    ],
    ['the contract', ['values', 'production', '--save', 'adder.yaml'], 'adder.yaml is the contract'],
    [
      'a file of somebody else',
      ['emit', 'types', '--save', 'src/main.ts'],
      'src/main.ts exists, and Adder did not write it',
    ],
    [
      'JSON of somebody else',
      ['values', 'production', '--format', 'json', '--save', 'package.json'],
      'Adder did not write it',
    ],
    ['a directory', ['emit', 'types', '--save', 'src'], 'is a directory'],
  ])('not over %s', (_, args, said) => {
    const files = { 'src/main.ts': 'mine\n', 'package.json': '{ "name": "desk" }\n' };
    const project = ferryProject(files);
    const before = ['.env', 'adder.yaml', 'src/main.ts', 'package.json'].map((path) => project.read(path));
    const { code, stderr } = project.adder(args);
    expect([code, stderr]).toEqual([2, expect.stringContaining(said)]);
    expect(['.env', 'adder.yaml', 'src/main.ts', 'package.json'].map((path) => project.read(path))).toEqual(before);
    expect(existsSync(project.path('.env.development'))).toBe(false);
  });

  test('over what Adder wrote, in every format, and with --replace over anything else', () => {
    const project = ferryProject({ 'notes.txt': 'mine\n' });
    for (const format of ['text', 'json', 'sarif'])
      for (const _ of [1, 2])
        expect(
          project.adder(['lint', '--format', format, '--fail-on', 'never', '--save', `report.${format}`]).stderr,
        ).not.toContain('did not write');
    for (const _ of [1, 2])
      expect(project.adder(['emit', 'defines', '--stage', 'production', '--save', 'defines.json']).code).toBe(0);
    expect(project.adder(['emit', 'types', '--save', 'notes.txt', '--replace']).code).toBe(0);
    expect(project.read('notes.txt')).toContain('Made by `adder emit types`');
  });

  test('a mode that was set stays; a new directory is told; a revealed value is for its owner alone', () => {
    const project = ferryProject();
    const made = project.adder(['emit', 'types', '--save', 'gone/env.d.ts']);
    expect([made.code, made.stderr]).toEqual([0, expect.stringMatching(/^adder: creating the directory .*gone\n$/)]);
    chmodSync(project.path('gone/env.d.ts'), 0o664);
    project.adder(['emit', 'types', '--save', 'gone/env.d.ts']);
    expect(statSync(project.path('gone/env.d.ts')).mode & 0o777).toBe(0o664);
    project.adder(['values', 'production', '--reveal', 'FARE_SIGNING_KEY', '--save', 'values.txt']);
    expect(statSync(project.path('values.txt')).mode & 0o777).toBe(0o600);
    expect(project.read('values.txt')).toContain(secrets.FARE_SIGNING_KEY);
  });

  test('a device is written to, and stays one', () => {
    expect(ferryProject().adder(['values', 'production', '--save', '/dev/null']).code).toBe(0);
    expect(statSync('/dev/null').isCharacterDevice()).toBe(true);
  });
});

describe('lint --fix', () => {
  test('keeps bytes that are not UTF-8, and the mode', () => {
    const text = Buffer.concat([
      Buffer.from('// caf'),
      Buffer.from([0xe9, 0xff]),
      Buffer.from('\nconsole.log(import.meta.env.FERRY_API_URL, "'),
      Buffer.from([0xf0, 0x9f]),
      Buffer.from('"); // \u{1f6a2}\n'),
    ]);
    const project = ferryProject({ 'src/main.js': text });
    chmodSync(project.path('src/main.js'), 0o755);
    expect(project.adder(['lint', '--fix', '--fail-on', 'never']).stderr).toContain('1 place in 1 file');
    const expected = Buffer.from(
      text.toString('latin1').replace('env.FERRY_API_URL', 'env.VITE_FERRY_API_URL'),
      'latin1',
    );
    expect(readFileSync(project.path('src/main.js')).equals(expected)).toBe(true);
    expect(statSync(project.path('src/main.js')).mode & 0o777).toBe(0o755);
  });

  test('--dry-run masks secrets and escapes in what it shows', () => {
    const project = ferryProject({
      'src/main.js': `const k = "${secrets.FARE_SIGNING_KEY}"; // \x1b[2J\nimport.meta.env.FERRY_API_URL;\n`,
    });
    const ran = project.adder(['lint', '--fix', '--dry-run']);
    expect(ran.stdout).toContain('+import.meta.env.VITE_FERRY_API_URL;');
    expect(ran.stdout).not.toContain('\x1b');
    project.expectNone([secrets.FARE_SIGNING_KEY], ran);
  });
});
