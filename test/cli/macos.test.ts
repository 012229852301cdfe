import { execFileSync } from 'node:child_process';
import { symlinkSync } from 'node:fs';
import { expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';
import { zipOf } from '../support/unpack.js';

// macOS cannot run here, so the files that differ there are tested.

const KEY = '8f2c71d05be94a36c7d1e08b5f3a92647c1d0e5b';

const contract = `adder: 1
stages: { production: { layers: [.env] } }
bundles: { tide-app: { code: src, output: out } }
variables: { FERRY_API_URL: { reach: public, required: false }, FARE_SIGNING_KEY: server }
`;

function project(files: Record<string, string | Uint8Array>): TestProject {
  return new TestProject({ 'adder.yaml': contract, '.env': `FARE_SIGNING_KEY=${KEY}\n`, 'src/a.js': '', ...files });
}

function inspected(files: Record<string, string | Uint8Array>) {
  const { report } = project(files).json(['inspect', '--stage', 'production']);
  return {
    found: report.findings.map(
      ({ code, place }: { code: string; place: { path: string; inside: string[]; offset?: number } }) =>
        [code, place.path, ...place.inside].join(' '),
    ),
    unread: report.coverage.unread,
  };
}

/** A Mach-O file of 64 bits with one section, `__TEXT,__cstring` (mach-o/loader.h). */
function machO(cpu: number, text: string): Buffer {
  const strings = Buffer.from(`\0first\0${text}\0`);
  const at = 32 + 72 + 80;
  const file = Buffer.alloc(at + strings.length);
  for (const [index, word] of [0xfeedfacf, cpu, 0, 2, 1, 72 + 80, 0, 0].entries()) file.writeUInt32LE(word, index * 4);
  file.writeUInt32LE(0x19, 32);
  file.writeUInt32LE(72 + 80, 36);
  file.write('__TEXT', 40);
  file.writeUInt32LE(1, 32 + 64);
  file.write('__cstring', 32 + 72);
  file.write('__TEXT', 32 + 72 + 16);
  file.writeBigUInt64LE(BigInt(strings.length), 32 + 72 + 40);
  file.writeUInt32LE(at, 32 + 72 + 48);
  strings.copy(file, at);
  return file;
}

/** A universal binary: files for several processors, in pages (mach-o/fat.h). */
function universal(...files: Buffer[]): Buffer {
  const page = 4096;
  const whole = Buffer.alloc(page * (files.length + 1));
  whole.writeUInt32BE(0xcafebabe, 0);
  whole.writeUInt32BE(files.length, 4);
  for (const [index, file] of files.entries()) {
    const words = [file.readUInt32LE(4), 0, page * (index + 1), file.length, 12];
    for (const [at, word] of words.entries()) whole.writeUInt32BE(word >>> 0, 8 + index * 20 + at * 4);
    file.copy(whole, page * (index + 1));
  }
  return whole;
}

const [X86, ARM] = [0x01000007, 0x0100000c];

/** An extended attribute in the file that archives keep beside the file itself (RFC 1740; the entry 9, with `ATTR`). */
function appleDouble(name: string, value: string): Buffer {
  const file = Buffer.alloc(256 + value.length);
  file.writeUInt32BE(0x00051607, 0);
  file.writeUInt32BE(0x00020000, 4);
  file.writeUInt16BE(1, 24);
  file.writeUInt32BE(9, 26);
  file.writeUInt32BE(38, 30);
  file.write('ATTR', 84);
  file.write(name, 140);
  file.write(value, 256);
  return file;
}

test.each<[title: string, texts: [string, string], found: number]>([
  ['for one processor alone', ['clean', KEY], 1],
  ['for both', [KEY, KEY], 2],
  ['for none', ['clean', 'clean'], 0],
])('a value among the strings of a universal binary, %s', (_, [first, second], found) => {
  const file = universal(machO(X86, first), machO(ARM, second));
  const places = inspected({ 'out/Tide.app/Contents/MacOS/Tide': file });
  expect(places.found).toEqual(Array(found).fill('leak/known-value out/Tide.app/Contents/MacOS/Tide'));
});

test('an app package: its binary, its scripts, and attributes that an archive keeps beside them', () => {
  const ipa = zipOf({
    'Payload/Tide.app/Tide': universal(machO(X86, 'clean'), machO(ARM, KEY)),
    'Payload/Tide.app/main.jsbundle': `f(atob("${btoa(KEY)}"))`,
    'Payload/Tide.app/_CodeSignature/CodeResources': `<plist><dict><key>main.jsbundle</key><data>${Buffer.alloc(20, 7).toString('base64')}</data></dict></plist>`,
    '__MACOSX/Payload/Tide.app/._main.jsbundle': appleDouble('com.apple.metadata:kMDItemWhereFroms', `x?key=${KEY}`),
    '__MACOSX/Payload/Tide.app/._clean.js': appleDouble('com.apple.quarantine', '0083;65f0;Browser;'),
    'Payload/.DS_Store': Buffer.concat([Buffer.from([0, 0, 0, 1]), Buffer.from('Bud1'), Buffer.alloc(64)]),
  });
  const { found, unread } = inspected({ 'out/tide.ipa': ipa });
  expect(unread).toEqual([]);
  expect(found.sort()).toEqual([
    'leak/known-value out/tide.ipa Payload/Tide.app/Tide',
    'leak/known-value out/tide.ipa Payload/Tide.app/main.jsbundle',
    'leak/known-value out/tide.ipa __MACOSX/Payload/Tide.app/._main.jsbundle',
  ]);
});

test('names with letters as some file systems keep them: a letter and its accent', () => {
  const name = 'Fährplan.js'.normalize('NFD');
  expect(inspected({ [`out/${name}`]: `f("${KEY}")` }).found).toEqual([`leak/known-value out/${name}`]);
});

test('a project below a directory that is a link, as /tmp is', () => {
  const real = project({ 'out/a.js': `f("${KEY}")`, '.gitignore': '.env\nout\n' });
  execFileSync('git', ['init', '-q'], { cwd: real.folder });
  const link = `${real.folder}-link`;
  symlinkSync(real.folder, link);
  const at = (args: string[]) => JSON.parse(real.adder([...args, '--format', 'json'], {}, { cwd: link }).stdout);
  const { findings } = at(['inspect', '--stage', 'production', `${link}/out`]);
  expect(findings.map(({ place }: { place: { path: string } }) => place.path)).toEqual(['out/a.js']);
  expect(at(['lint']).coverage.unread).toEqual([]);
  expect(real.adder(['with', 'production', '--', 'true'], {}, { cwd: link }).code).toBe(0);
});

test('a layer whose name differs in case is found on such a file system alone, so it is named', () => {
  const at = new TestProject({
    'adder.yaml': contract.replace('[.env]', '[.env.Production]'),
    '.env.production': `FARE_SIGNING_KEY=${KEY}\n`,
  });
  const { report } = at.json(['values', 'production']);
  expect(report.findings.map(({ code }: { code: string }) => code)).toContain('repo/misnamed');
});
