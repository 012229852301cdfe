import { describe, expect, test } from 'vitest';
import { type Overview, overviewSchema } from '../../src/core/overview/overview.js';
import { TestProject } from '../support/adder.js';

const secret = 'made-up-fare-signing-key-0001';

/** Where a project stands, by its schema; the text says the same next command. */
function overviewOf(project: TestProject): Overview {
  const json = project.adder(['--format', 'json']);
  expect(json).toMatchObject({ code: 0, stderr: '' });
  const found = overviewSchema.parse(JSON.parse(json.stdout));
  const { code, stdout } = project.adder([]);
  expect(code).toBe(0);
  expect(stdout).toContain(found.next.command ?? found.next.because.slice(0, 30));
  expect(stdout + json.stdout).not.toContain(secret);
  return found;
}

/** Pastes the next command into a shell, as a person would. */
function follow(project: TestProject): string {
  const { command = '' } = overviewOf(project).next;
  const [, ...words] = command.split(' ');
  project.adder(words);
  return command;
}

const contract = `adder: 1
stages: { development: { layers: [.env] }, production: { layers: [.env, .env.production] } }
bundles:
  desk: { toolchain: other, code: [src], output: [dist], reads: [process.env] }
variables:
  FERRY_API_URL: public
  FARE_SIGNING_KEY: server
`;

function project(more: Record<string, string> = {}): TestProject {
  return new TestProject({
    'package.json': '{ "name": "desk", "private": true, "scripts": { "build": "node make.mjs" } }',
    'make.mjs': `import { mkdirSync, writeFileSync } from 'node:fs';
mkdirSync('dist', { recursive: true });
writeFileSync('dist/main.js', 'const api = ' + JSON.stringify(process.env.FERRY_API_URL) + ';');
`,
    'src/main.js': 'fetch(process.env.FERRY_API_URL);\n',
    '.env': `FERRY_API_URL=https://api.saltmarsh.example/dev\nFARE_SIGNING_KEY=${secret}\n`,
    '.env.production': '',
    '.gitignore': '.env\n.env.production\ndist\n',
    ...more,
  });
}

describe('adder alone', () => {
  test('without a project it says what it needs, and in one the first command', () => {
    expect(overviewOf(new TestProject()).next).toMatchObject({ command: 'adder demo' });
    const at = project();
    expect(follow(at)).toBe('adder draft');
    expect(overviewOf(at).contract?.path).toBe('adder.yaml');
  });

  test('each next command leads to another state, until nothing is left', () => {
    const at = project({ 'adder.yaml': contract, '.env.production': 'FERRY_API_URL=\n' });
    expect(overviewOf(at).stages).toEqual([
      { stage: 'development', lacking: [], wrong: [] },
      { stage: 'production', lacking: ['FERRY_API_URL'], wrong: [] },
    ]);
    expect(follow(at)).toBe('adder values production');
    at.write('.env.production', 'FERRY_API_URL=https://api.saltmarsh.example/ferries\n');
    expect(follow(at)).toBe('adder with production -- npm run build');
    expect(overviewOf(at).bundles).toMatchObject([{ bundle: 'desk', build: { stage: 'production', since: [] } }]);
    expect(follow(at)).toBe('adder gate production');
    const { next, checks } = overviewOf(at);
    expect(next).toEqual({
      because: 'nothing is left to do: the gate of production passed, and nothing has changed since',
    });
    expect(checks).toMatchObject([
      {
        check: 'gate',
        stage: 'production',
        passed: true,
        answers: { nothingLeaked: 'yes', current: 'yes' },
        since: [],
      },
    ]);
  });

  test('a changed value, changed code and a lost output are reasons to build again', () => {
    const at = project({ 'adder.yaml': contract });
    follow(at);
    const reasons = () => overviewOf(at).bundles[0]?.build?.since;
    expect(reasons()).toEqual([]);
    at.write('.env', `FERRY_API_URL=https://api.saltmarsh.example/new\nFARE_SIGNING_KEY=${secret}\n`);
    expect(reasons()).toEqual(['FERRY_API_URL changed']);
    expect(follow(at)).toBe('adder with production -- npm run build');
    at.write('src/main.js', 'fetch(process.env.FERRY_API_URL, {});\n');
    expect(reasons()).toEqual(['1 source file changed']);
    follow(at);
    follow(at);
    expect(overviewOf(at).checks).toMatchObject([{ since: [] }]);
    at.node('make.mjs');
    at.write('.env.production', '# no values\n');
    expect(overviewOf(at).checks).toMatchObject([{ since: ['.env.production changed'] }]);
    expect(overviewOf(at).next.command).toBe('adder gate production');
  });

  test('a contract with mistakes: each with its line, and exit code 0', () => {
    const at = project({ 'adder.yaml': contract.replace('server', 'servre') });
    const { mistakes, next } = overviewOf(at);
    expect(mistakes).toEqual(['adder.yaml:7 variables.FARE_SIGNING_KEY must be one of public, build or server']);
    expect(next.command).toBe('adder lint');
  });

  test('a wrong format, and a word that is no command', () => {
    const at = project({ 'adder.yaml': contract });
    expect(at.adder(['--format', 'sarif'])).toMatchObject({
      code: 2,
      stderr: 'adder: an overview has no format sarif\n  → use --format text or --format json\n',
    });
    expect(at.adder(['overveiw']).stderr).toContain('did you mean overview?');
  });

  test('a narrow terminal', () => {
    const at = project({ 'adder.yaml': contract, '.env.production': 'FERRY_API_URL=\n' });
    const { stdout } = at.adder([], {}, { columns: 40 });
    for (const line of stdout.split('\n')) expect(line.length).toBeLessThanOrEqual(40);
  });
});
