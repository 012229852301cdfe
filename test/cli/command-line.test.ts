import { spawnSync } from 'node:child_process';
import { describe, expect, test } from 'vitest';
import { bareEnvironment, ferryProject, program, TestProject } from '../support/adder.js';

describe('options', () => {
  const project = ferryProject();
  const plain = project.json(['values', 'production']);

  test.each<[args: string[]]>([
    [['--format', 'json', 'values', 'production']],
    [['--format=json', 'values', 'production']],
    [['values', '--format', 'json', 'production']],
    [['values', 'production', '--format', 'text', '--format', 'json']],
  ])('%j is the same call', (args) => {
    expect(plain.code).toBe(0);
    const { code, stdout } = project.adder(args);
    const { made: _, ...report } = JSON.parse(stdout);
    expect({ code, report }).toEqual(plain);
  });

  test.each<[args: string[], error: string]>([
    [['vlues', 'production'], 'did you mean values?'],
    [['--formt', 'json', 'values', 'production'], 'did you mean --format?'],
    [['values', 'production', '--fail-on=warnng'], 'did you mean warning?'],
    [['values', '-x', 'production'], 'has no option -x'],
  ])('%j: %s', (args, error) => {
    expect(project.adder(args)).toMatchObject({ code: 2, stdout: '', stderr: expect.stringContaining(error) });
  });

  test('-h and --version work with and without a command', () => {
    expect(project.adder(['values', '-h'])).toEqual(project.adder(['values', '--help']));
    expect(project.adder(['-h'])).toEqual(project.adder(['--help']));
    expect(project.adder(['values', '--version'])).toEqual(project.adder(['--version']));
  });

  test('help is as wide as the terminal', () => {
    const { stdout } = project.adder(['lint', '--help'], {}, { columns: 60 });
    const examples = stdout.indexOf('Examples:');
    for (const line of stdout.slice(0, examples).split('\n')) expect(line.length).toBeLessThanOrEqual(60);
  });
});

describe('a contract with mistakes', () => {
  const broken = (text: string) => new TestProject({ 'adder.yaml': text });

  test('--quiet shows each mistake, as a count would not help', () => {
    const ran = broken('adder: 1\nstages: { a: { layers: [.env] } }\nvariables: { A: pubic }\n').adder([
      ...['values', 'a', '--quiet'],
    ]);
    expect([ran.code, ran.stdout]).toEqual([2, expect.stringContaining('did you mean public?')]);
  });

  test.each([
    ['boolean', 'flag'],
    ['string', 'text'],
    ['int', 'integer'],
  ])('form: %s suggests %s', (form, suggestion) => {
    const text = `adder: 1\nstages: { a: { layers: [.env] } }\nvariables: { A: { reach: public, form: ${form} } }\n`;
    expect(broken(text).adder(['values', 'a']).stdout).toContain(`did you mean ${suggestion}?`);
  });
});

describe('completion', () => {
  const complete = (...words: string[]) =>
    ferryProject()
      .adder(['__complete', ...words])
      .stdout.split('\n')
      .filter(Boolean);

  test.each<[words: string[], some: string[]]>([
    [[''], ['values', 'inspect', 'completion']],
    [['va'], ['values']],
    [
      ['values', ''],
      ['development', 'staging', 'production'],
    ],
    [['values', 'production', 'FERRY'], ['FERRY_API_URL']],
    [['values', '--format', 'json', 'pro'], ['production']],
    [['values', 'production', '--bundle', ''], ['ticket-desk']],
    [['lint', '--explain', 'code/hard'], ['code/hard-coded']],
    [
      ['inspect', '--fail-on', ''],
      ['error', 'warning', 'note', 'never'],
    ],
    [['values', '--fo'], ['--format']],
  ])('after %j', (words, some) => {
    const found = complete(...words);
    expect(found).toEqual(expect.arrayContaining(some));
    const last = words.at(-1) ?? '';
    expect(found.filter((one) => !one.startsWith(last))).toEqual([]);
  });

  test('without a contract it completes commands and options, and reports nothing', () => {
    const ran = new TestProject().adder(['__complete', 'values', '']);
    expect([ran.code, ran.stderr]).toEqual([0, '']);
  });

  test.each(['bash', 'zsh', 'fish'])('the script for %s is valid there', (shell) => {
    const { code, stdout } = new TestProject().adder(['completion', shell]);
    expect([code, stdout]).toEqual([0, expect.stringContaining('__complete')]);
    if (spawnSync(shell, ['-c', 'exit 0']).status !== 0) return;
    expect(spawnSync(shell, ['-n'], { input: stdout, encoding: 'utf8' }).stderr).toBe('');
  });

  test('in bash, words of the contract', () => {
    const at = ferryProject();
    const script = at.adder(['completion', 'bash']).stdout;
    const ask = `adder() { ${process.execPath} ${program} "$@"; }\n${script}
COMP_WORDS=(adder values pro); COMP_CWORD=2; _adder_complete; echo "\${COMPREPLY[@]}"`;
    const { stdout } = spawnSync('bash', ['-c', ask], { cwd: at.folder, env: bareEnvironment(), encoding: 'utf8' });
    expect(stdout).toBe('production\n');
  });
});
