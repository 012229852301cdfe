import { spawnSync } from 'node:child_process';
import { chmodSync, cpSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { beforeAll, describe, expect, test } from 'vitest';
import { bareEnvironment, program, TestProject } from '../support/adder.js';

const secret = 'q7Zr2LmX9vTb4KdN8wYc';

const project = new TestProject({
  'adder.yaml':
    'adder: 1\nstages: { production: { layers: [.env] } }\nvariables: { FERRY_API_URL: public, FARE_KEY: server }\n',
  '.env': `FERRY_API_URL=https://berth42.quay.test\nFARE_KEY=${secret}\n`,
});

/** A copy of the program, which has compiled nothing yet. */
const copy = join(mkdtempSync(join(tmpdir(), 'adder-program-')), 'dist');
const compiled = join(copy, 'compiled');

beforeAll(() => {
  cpSync(dirname(program), copy, { recursive: true });
  rmSync(compiled, { recursive: true, force: true });
});

function run(env: Record<string, string> = {}, more: readonly string[] = []) {
  const { status, stdout, stderr } = spawnSync(
    process.execPath,
    [join(copy, 'adder.cjs'), 'values', 'production', '--reveal', 'FARE_KEY', ...more],
    { cwd: project.folder, env: bareEnvironment(env), encoding: 'utf8' },
  );
  expect(stderr).toBe('');
  expect(status).toBe(0);
  return stdout;
}

function storedFile(): string {
  const names = readdirSync(compiled);
  expect(names).toHaveLength(1);
  return join(compiled, names[0] as string);
}

test('the program loads nothing by import(), which code that was kept cannot do', () => {
  // Code of threads is not kept.
  const files = readdirSync(copy).filter((name) => /(?<!-worker)\.cjs$/.test(name));
  expect(files.length).toBeGreaterThan(20);
  expect(files.filter((name) => /[^.\w]import\(/.test(readFileSync(join(copy, name), 'utf8')))).toEqual([]);
});

test('the program is ASCII, so that it is read as one byte a character', () => {
  const files = readdirSync(copy).filter((name) => name.endsWith('.cjs') && !name.endsWith('-worker.cjs'));
  expect(files.filter((name) => /[^\0-\x7f]/.test(readFileSync(join(copy, name), 'utf8')))).toEqual([]);
});

describe('compiled code that is kept between runs', () => {
  test('changes nothing about what is printed, and contains no values', () => {
    const first = run();
    expect(first).toContain(secret);
    const noted = readFileSync(storedFile());
    expect(noted.includes(secret)).toBe(false);
    expect(run(), 'the modules as one script').toBe(first);
    const stored = readFileSync(storedFile());
    expect(stored.length, 'with the compiled code').toBeGreaterThan(1.5 * noted.length);
    expect(stored.includes(secret)).toBe(false);
    expect(stored.includes('berth42')).toBe(false);
    expect(run()).toBe(first);
    expect(readFileSync(storedFile()).equals(stored), 'it is used, and so not written again').toBe(true);
  });

  const damages: Record<string, (bytes: Buffer) => Buffer> = {
    'nothing in it': () => Buffer.alloc(0),
    'only a beginning': (bytes) => bytes.subarray(0, bytes.length >> 1),
    'a length that is too large': (bytes) => Buffer.concat([Buffer.alloc(4, 0xff), bytes.subarray(4)]),
    'another header': (bytes) => Buffer.concat([bytes.subarray(0, 12), Buffer.from('0'), bytes.subarray(13)]),
    'changed code': (bytes) => Buffer.from(bytes.map((byte, at) => (at > 20_000 && at % 997 === 0 ? byte ^ 4 : byte))),
  };

  test.each(Object.entries(damages))('is made again when the file has %s', (_, damage) => {
    const whole = run();
    const before = readFileSync(storedFile());
    writeFileSync(storedFile(), damage(before));
    expect(run()).toBe(whole);
    expect(run()).toBe(whole);
    expect(readFileSync(storedFile()).length).toBeGreaterThan(0.9 * before.length);
  });

  test('gets the modules that another call of the command needs', () => {
    run();
    expect(readFileSync(storedFile(), 'latin1')).not.toContain('"json.cjs"');
    const json = run({}, ['--format', 'json']);
    expect(JSON.parse(json)).toMatchObject({ kind: 'values' });
    expect(run({}, ['--format', 'json'])).toBe(json);
    expect(run()).toContain(secret);
    expect(readFileSync(storedFile(), 'latin1')).toContain('"json.cjs"');
  });

  test('is left alone with --debug, whose traces name files of the program', () => {
    rmSync(compiled, { recursive: true });
    run({}, ['--debug']);
    expect(existsSync(compiled)).toBe(false);
    run();
    run();
  });

  test('is not written if the environment disables that', () => {
    rmSync(compiled, { recursive: true });
    run({ NODE_DISABLE_COMPILE_CACHE: '1' });
    expect(existsSync(compiled)).toBe(false);
  });

  test.skipIf(process.getuid?.() === 0)('is not needed: the folder of the program may be read-only', () => {
    rmSync(compiled, { recursive: true, force: true });
    chmodSync(copy, 0o555);
    run();
    expect(existsSync(compiled)).toBe(false);
    chmodSync(copy, 0o755);
  });
});
