import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { describe, expect, test } from 'vitest';
import { ferryContract, ferryProject, program, secrets, type TestProject } from '../support/adder.js';

const key = secrets.FARE_SIGNING_KEY;
const inspect = ['inspect', '--stage', 'production'];

const mobile = ferryContract
  .replace('runs: browser, toolchain: vite', 'runs: mobile, toolchain: other')
  .replace('[dist], prefix: VITE_', '[out]');

/** The compiler of a mobile JavaScript engine, for the systems that it is made for. */
const folder = { linux: 'linux64-bin', darwin: 'osx-bin', win32: 'win64-bin' }[process.platform as string] ?? '';
const engine = join(
  dirname(createRequire(import.meta.url).resolve('hermes-compiler/package.json')),
  'hermesc',
  folder,
  'hermesc',
);
const hasEngine = spawnSync(engine, ['--version']).status === 0;
if (!hasEngine) console.warn('the bytecode compiler does not run on this machine: no bytecode is searched');

const hasC = spawnSync('cc', ['--version']).status === 0;
if (!hasC) console.warn('no C compiler on this machine: no native library is searched');

interface Said {
  code: string;
  variable: string;
  encoding: string[];
  place: { path: string; inside: string[]; offset: number; length: number };
}

const leaks = (project: TestProject): Said[] =>
  project.json(inspect).report.findings.filter(({ code }: Said) => code === 'leak/known-value');
const short = ({ variable, encoding, place: { inside } }: Said) => [inside.join(' » '), variable, encoding.join()];

const envFiles = (project: TestProject): string[] =>
  project
    .json(inspect)
    .report.findings.filter(({ code }: Said) => code === 'leak/env-file')
    .map(({ place: { inside } }: Said) => inside.join(' » '))
    .sort();

/** A library that an env file is embedded in, as text that code could read. */
function nativeLibrary(project: TestProject): Buffer {
  project.write(
    'native.c',
    '__asm__(".section .rodata\\n.global settings\\nsettings: .incbin \\".env.production\\"\\n.byte 0\\n.previous");\nextern const char settings[];\nint boarded(void) { return settings[0]; }\n',
  );
  const args = ['-shared', '-fPIC', '-O2', 'native.c', '-o', 'libdeck.so'];
  const { status, stderr } = spawnSync('cc', args, { cwd: project.folder, encoding: 'utf8' });
  if (status !== 0) throw new Error(stderr);
  return readFileSync(project.path('libdeck.so'));
}

function bytecode(project: TestProject, code: string): Buffer {
  project.write('main.js', code);
  const args = ['-O', '-emit-binary', '-out', 'main.bundle', 'main.js'];
  const { status, stderr } = spawnSync(engine, args, { cwd: project.folder, encoding: 'utf8' });
  if (status !== 0) throw new Error(stderr);
  return readFileSync(project.path('main.bundle'));
}

/** The packer that ships with the demo. */
const packer = () => import(pathToFileURL(join(program, '../demo/mobile/tool/pack.mjs')).href);

describe.skipIf(!hasEngine)('the bytecode of a mobile engine', () => {
  test('ASCII texts, other texts, and texts inside each other', () => {
    const project = ferryProject({ 'adder.yaml': mobile });
    // Strings are kept one after the other, and one that another ends with is a part of it.
    const code = `print(${JSON.stringify(key)}, "quay:" + ${JSON.stringify(`x${key}`)}, "⛴ ${secrets.SOURCE_MAP_UPLOAD_TOKEN.replaceAll('"', '\\"')}");`;
    project.write('out/main.bundle', bytecode(project, code));
    const found = leaks(project);
    expect(found.map(short).sort()).toEqual([
      ['', 'FARE_SIGNING_KEY', 'plain'],
      ['', 'SOURCE_MAP_UPLOAD_TOKEN', 'utf-16'],
    ]);
    const bytes = readFileSync(project.path('out/main.bundle'));
    for (const { variable, place } of found) {
      // A unit of UTF-16 may end after the hit, with a zero.
      const text = bytes.subarray(place.offset, place.offset + place.length + (place.length % 2));
      expect(text.toString(variable === 'FARE_SIGNING_KEY' ? 'latin1' : 'utf16le')).toBe(
        secrets[variable as keyof typeof secrets],
      );
    }
    project.expectNone(Object.values(secrets), project.adder(inspect));
  });
});

test('an app package, as the demo’s packer makes it: each leak by its place in it', async () => {
  const project = ferryProject({ 'adder.yaml': mobile });
  const { pack, stringPool } = await packer();
  await pack(project.path('out/deckhand.apk'), {
    'manifest.json': '{}',
    'resources.arsc': stringPool(['Deckhand', key, 'Tide table']),
    'assets/settings.env': project.read('.env.production'),
    'assets/tides.json': '{}',
    ...(hasEngine && { 'assets/main.bundle': bytecode(project, `print(${JSON.stringify(key)})`) }),
    ...(hasC && { 'lib/arm64-v8a/libdeck.so': nativeLibrary(project) }),
  });
  const all = ['FARE_SIGNING_KEY', 'LEDGER_DATABASE_URL', 'SOURCE_MAP_UPLOAD_TOKEN'];
  expect(leaks(project).map(short).sort()).toEqual([
    ...(hasEngine ? [['assets/main.bundle', 'FARE_SIGNING_KEY', 'plain']] : []),
    ...all.map((name) => ['assets/settings.env', name, expect.any(String)]),
    ...(hasC ? all.map((name) => ['lib/arm64-v8a/libdeck.so', name, expect.any(String)]) : []),
    ['resources.arsc', 'FARE_SIGNING_KEY', 'utf-16'],
  ]);
  expect(envFiles(project)).toEqual(['assets/settings.env', ...(hasC ? ['lib/arm64-v8a/libdeck.so'] : [])]);
  expect(project.json(inspect).report.coverage).toMatchObject({ files: 1, unread: [] });
  project.expectNone(Object.values(secrets), project.adder(inspect));
});

test.skipIf(!hasC)('an env file embedded in a native program is found by line, though the rest is no text', () => {
  const project = ferryProject({ 'adder.yaml': mobile });
  project.write('out/libdeck.so', nativeLibrary(project));
  expect(existsSync(project.path('out/libdeck.so'))).toBe(true);
  const found = leaks(project);
  expect(found.map(short)).toHaveLength(3);
  expect(envFiles(project)).toEqual(['']);
  const bytes = readFileSync(project.path('out/libdeck.so'), 'latin1');
  for (const { variable, place } of found)
    expect(bytes.slice(0, place.offset)).toMatch(new RegExp(`\\b${variable}='?$`));
});
