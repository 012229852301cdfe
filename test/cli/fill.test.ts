import { spawn, spawnSync } from 'node:child_process';
import { existsSync, statSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { bareEnvironment, program, secrets, TestProject } from '../support/adder.js';

const key = secrets.FARE_SIGNING_KEY;

const project = (files: Record<string, string> = {}) =>
  new TestProject({
    'adder.yaml': `adder: 1
stages: { development: { layers: [.env, .env.local, settings.json] } }
variables:
  FERRY_API_URL: { reach: public, form: url, about: base address }
  NOTICE: { reach: public, required: false }
  FARE_SIGNING_KEY: { reach: server, min: 32 }
`,
    '.env': '# shared\nFERRY_API_URL = api.example  # why\r\n',
    ...files,
  });

const git = (at: TestProject, ...args: string[]) => spawnSync('git', args, { cwd: at.folder });

const fromStdin = (at: TestProject, name: string, input: string) =>
  at.adder(['fill', 'development', '--from-stdin', name], {}, { input });

describe('--from-stdin', () => {
  test('writes one value to the most local file, quoted, and keeps everything else', () => {
    const at = project({ '.env.local': 'A=1 # one\r\nFARE_SIGNING_KEY="old" # two\r\n' });
    const ran = fromStdin(at, 'FARE_SIGNING_KEY', `${key} 'x'\n`);
    expect(ran).toEqual({ code: 0, stdout: '', stderr: 'adder: wrote FARE_SIGNING_KEY to .env.local\n' });
    expect(at.read('.env.local')).toBe(`A=1 # one\r\nFARE_SIGNING_KEY="${key} 'x'" # two\r\n`);
    expect(at.adder(['values', 'development', 'FARE_SIGNING_KEY']).code).toBe(0);
  });

  test('a new file is for its owner alone', () => {
    const at = project();
    fromStdin(at, 'FERRY_API_URL', 'https://a.example');
    expect([at.read('.env.local'), statSync(at.path('.env.local')).mode & 0o777]).toEqual([
      'FERRY_API_URL=https://a.example\n',
      0o600,
    ]);
  });

  test.each([
    ['FARE_SIGNING_KEY', 'too-short', 'FARE_SIGNING_KEY has 9 characters; the minimum is 32; nothing was written'],
    ['FARE_SIGNING_KEY', '\n', 'FARE_SIGNING_KEY is empty; nothing was written'],
    ['FERRY_API_ULR', 'x', 'did you mean FERRY_API_URL?'],
  ])('%s from %j is refused', (name, input, said) => {
    const at = project();
    expect(fromStdin(at, name, input)).toMatchObject({ code: 2, stderr: expect.stringContaining(said) });
    expect(existsSync(at.path('.env.local'))).toBe(false);
  });

  test('a file from which it would not be read back is left as it is', () => {
    const at = project({ '.env.local': 'A="open\n' });
    const ran = fromStdin(at, 'FARE_SIGNING_KEY', `# ${key} 'x' `);
    expect([ran.code, at.read('.env.local')]).toEqual([2, 'A="open\n']);
    at.expectNone([key], ran);
  });
});

describe('a secret never goes where version control sees it', () => {
  test.each<[title: string, prepare: (at: TestProject) => void, written: boolean]>([
    ['not ignored', () => undefined, false],
    [
      'tracked',
      (at) => {
        at.write('.env.local', '');
        git(at, 'add', '.env.local');
        at.write('.gitignore', '.env.local');
      },
      false,
    ],
    ['ignored', (at) => at.write('.gitignore', '.env*\n'), true],
  ])('%s', (_, prepare, written) => {
    const at = project();
    git(at, 'init', '-q');
    prepare(at);
    const ran = fromStdin(at, 'FARE_SIGNING_KEY', key);
    expect(ran.code).toBe(written ? 0 : 2);
    if (!written)
      expect(ran.stderr).toMatch(
        /FARE_SIGNING_KEY is a server-only variable, but \.env\.local is (not ignored|tracked) by git; nothing was written\n/,
      );
    expect(existsSync(at.path('.env.local')) && at.read('.env.local').includes(key)).toBe(written);
    expect(fromStdin(at, 'FERRY_API_URL', 'https://a.example').code).toBe(0);
  });
});

/** Answers questions in a pseudo-terminal that util-linux makes: one answer whenever the program has gone quiet. */
async function inTerminal(
  at: TestProject,
  answers: readonly string[],
): Promise<{ code: number | null; shown: string }> {
  const command = `${process.execPath} ${program} fill development`;
  const child = spawn('script', ['-qec', command, '/dev/null'], {
    cwd: at.folder,
    env: bareEnvironment({ TERM: 'xterm', SHELL: '/bin/sh' }),
  });
  const left = [...answers];
  let shown = '';
  let quietSince = Number.POSITIVE_INFINITY;
  child.stdout.on('data', (chunk: Buffer) => {
    shown += chunk.toString();
    if (shown.includes('?')) quietSince = Date.now();
  });
  const answering = setInterval(() => {
    if (Date.now() - quietSince < 500 || left.length === 0) return;
    quietSince = Number.POSITIVE_INFINITY;
    child.stdin.write(left.shift() ?? '');
  }, 50);
  const code = await new Promise<number | null>((resolve) => child.on('close', resolve));
  clearInterval(answering);
  return { code, shown };
}

const hasScript = spawnSync('script', ['--version']).status === 0;
if (!hasScript && process.env.CI)
  throw new Error('no "script" of util-linux, and in CI the terminal tests may not be skipped');
if (!hasScript) console.warn('SKIPPED: the questions of fill, as there is no "script" of util-linux here');

describe.skipIf(!hasScript)('in a terminal', () => {
  test('asks for one value after the other, checks each, and shows no secret', async () => {
    const at = project();
    const { code, shown } = await inTerminal(at, ['https://a.example\r', 'too-short\r', `${key}\r`]);
    expect(code, shown).toBe(0);
    expect(shown).toContain('FERRY_API_URL, public: url; base address; such as https://api.saltmarsh.example');
    expect(shown).toContain('FARE_SIGNING_KEY has 9 characters; the minimum is 32; try again');
    expect(shown).toContain('adder: development is complete');
    expect(at.read('.env.local')).toBe(`FERRY_API_URL=https://a.example\nFARE_SIGNING_KEY=${key}\n`);
    expect(at.read('.env')).toBe('# shared\nFERRY_API_URL = api.example  # why\r\n');
    expect(shown).not.toContain(key);
    expect(shown).not.toContain('too-short');
  });

  test('Ctrl-C keeps what was given so far', async () => {
    const at = project();
    const { code } = await inTerminal(at, ['https://a.example\r', '\x03']);
    expect([code, at.read('.env.local')]).toEqual([130, 'FERRY_API_URL=https://a.example\n']);
  });
});

test('without a terminal it lists what it would ask for', () => {
  const at = project();
  expect(at.adder(['fill', 'development'])).toMatchObject({
    code: 2,
    stderr: expect.stringContaining(
      'FERRY_API_URL, FARE_SIGNING_KEY cannot be asked for: standard input is not a terminal',
    ),
  });
});

test('with nothing missing it reports that', () => {
  const at = project();
  at.write('.env.local', `FERRY_API_URL=https://a.example\nFARE_SIGNING_KEY=${key}\n`);
  expect(at.adder(['fill', 'development'])).toEqual({
    code: 0,
    stdout: '',
    stderr: 'adder: no value is missing in development\n',
  });
});
