import { spawnSync } from 'node:child_process';
import { describe, expect, test } from 'vitest';
import { commands } from '../../src/cli/commands/index.js';
import { options } from '../../src/cli/options.js';
import { bareEnvironment, ferryProject, program, secrets, TestProject } from '../support/adder.js';

const project = new TestProject();

describe('help', () => {
  test('the list of commands, from --help, and from help', () => {
    const { code, stdout } = project.adder(['--help']);
    expect(code).toBe(0);
    for (const [name, { summary }] of Object.entries(commands))
      expect(stdout).toMatch(new RegExp(`^ {2}${name} .*${summary.replace('?', '\\?')}$`, 'm'));
    expect(project.adder(['help']).stdout).toBe(stdout);
  });

  test.each(Object.keys(commands))('%s names every option and example, within 100 columns', async (name) => {
    const { code, stdout } = project.adder([name, '--help']);
    const command = await commands[name]?.load();
    expect(code).toBe(0);
    for (const option of command?.options ?? []) expect(stdout).toContain(`--${option} `);
    for (const [call] of command?.examples ?? []) expect(stdout).toContain(call);
    for (const line of stdout.split('\n')) expect(line.length).toBeLessThanOrEqual(100);
  });

  test('every option of the table belongs to a command', async () => {
    const loaded = await Promise.all(Object.values(commands).map(({ load }) => load()));
    expect(new Set(loaded.flatMap((command) => command.options))).toEqual(new Set(Object.keys(options)));
  });

  test('--version', () => expect(project.adder(['--version']).stdout).toBe('0.1.0\n'));
});

describe('colours', () => {
  test.each<[title: string, args: string[], env: Record<string, string>, coloured: boolean]>([
    ['none into a pipe', [], {}, false],
    ['FORCE_COLOR', [], { FORCE_COLOR: '1' }, true],
    ['NO_COLOR beats FORCE_COLOR', [], { FORCE_COLOR: '1', NO_COLOR: '1' }, false],
    ['an option beats both', ['--color', 'always'], { NO_COLOR: '1' }, true],
    ['never', ['--color', 'never'], { FORCE_COLOR: '1' }, false],
  ])('%s', (_, args, env, coloured) => {
    expect(
      ferryProject()
        .adder(['values', 'production', ...args], env)
        .stdout.includes('\x1b['),
    ).toBe(coloured);
  });
});

test('a reader that has seen enough is no failure', () => {
  const { stderr, stdout } = spawnSync('sh', ['-c', `${process.execPath} ${program} values production | head -n 1`], {
    cwd: ferryProject().folder,
    env: bareEnvironment(),
    encoding: 'utf8',
  });
  expect([stdout, stderr]).toEqual(['adder values  production\n', '']);
});

describe('an unexpected failure', () => {
  // A package that the program reads at run time is not there, so the defect is made by taking a global away.
  const sabotage = (args: string[]) =>
    spawnSync(process.execPath, ['--require', './sabotage.cjs', program, 'values', 'production', ...args], {
      cwd: ferryProject({
        'sabotage.cjs': `URL.canParse = (text) => { throw new TypeError('about ' + text + ' and ${secrets.FARE_SIGNING_KEY}'); };`,
      }).folder,
      env: bareEnvironment(),
      encoding: 'utf8',
    });

  test('is one line with exit code 70 and without a value', () => {
    const { status, stdout, stderr } = sabotage([]);
    expect([status, stdout, stderr]).toEqual([
      70,
      '',
      'adder: unexpected failure (TypeError); this is a bug in Adder; run with --debug to see where\n',
    ]);
  });

  test('shows where with --debug, still without a value', () => {
    const { stderr } = sabotage(['--debug']);
    expect(stderr).toMatch(/\n {4}at /);
    expect(stderr).not.toContain(secrets.FARE_SIGNING_KEY);
    expect(stderr).not.toContain('saltmarsh.example');
  });
});

test('the built program knows character references by their names', () => {
  const value = 'Fähre "x7Kp2mQ9vR4t" & <quay>';
  const page = '<p>F&auml;hre &quot;x7Kp2mQ9vR4t&quot; &amp; &lt;quay&gt;</p>';
  const built = new TestProject({
    'adder.yaml':
      'adder: 1\nstages: { production: { layers: [.env] } }\nbundles: { web: { code: src, output: dist } }\nvariables: { FARE_NOTE_SECRET: server }\n',
    '.env': `FARE_NOTE_SECRET='${value}'\n`,
    'dist/index.html': page,
  });
  const { code, stdout } = built.adderProcess(['inspect', '--stage', 'production', '--format', 'json']);
  expect(code).toBe(1);
  expect(JSON.parse(stdout).findings).toContainEqual(
    expect.objectContaining({ code: 'leak/known-value', variable: 'FARE_NOTE_SECRET', encoding: ['html'] }),
  );
});
