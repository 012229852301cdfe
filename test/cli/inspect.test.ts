import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, readlinkSync, symlinkSync, truncateSync } from 'node:fs';
import { join } from 'node:path';
import { brotliCompressSync, gzipSync } from 'node:zlib';
import { pack } from 'tar-stream';
import { describe, expect, test } from 'vitest';
import { reportSchema } from '../../src/core/report/documents.js';
import { bareEnvironment, ferryContract, ferryProject, program, secrets, type TestProject } from '../support/adder.js';
import { packAsar } from '../support/unpack.js';
import { needsUnix } from '../support/windows.js';

const key = secrets.FARE_SIGNING_KEY;
const token = secrets.SOURCE_MAP_UPLOAD_TOKEN;

const inspect = ['inspect', '--stage', 'production'];

interface Said {
  code: string;
  variable?: string;
  place?: { path: string; line?: number; column?: number; offset?: number; length?: number };
  encoding?: string[];
}

const short = ({ code, variable, place, encoding }: Said) => [
  code,
  variable,
  `${place?.path}:${place?.line}:${place?.column}`,
  encoding?.join(),
];

describe('leaks', () => {
  test.each<[encoding: string, text: string, offset: number]>([
    ['plain', `x="${key}"`, 3],
    ['js-string', `x=${JSON.stringify(token)}`, 3],
    ['percent', `x=${encodeURIComponent(token)}`, 2],
    ['base64', `x=${btoa(key)}`, 2],
    ['base64', `x=${btoa(`u:${key}`)}`, 5],
    ['base64', `x=${btoa(`us:${key}`)}`, 6],
  ])('in %s', (encoding, text, offset) => {
    const project = ferryProject({ 'dist/a.css': `ä⛴😀\n😀${text}` });
    const { code, report } = project.json(inspect);
    expect(code).toBe(1);
    expect(() => reportSchema.parse(report)).not.toThrow();
    expect(report.findings).toHaveLength(1);
    const [{ place, ...finding }] = report.findings;
    expect(finding).toMatchObject({
      code: 'leak/known-value',
      level: 'error',
      stage: 'production',
      bundle: 'ticket-desk',
      encoding: [encoding],
    });
    expect(place).toMatchObject({ path: 'dist/a.css', inside: [], line: 2, column: 3 + offset, offset: 14 + offset });
    expect(report.coverage).toEqual({ files: 1, members: 0, bytes: Buffer.byteLength(`ä⛴😀\n😀${text}`), unread: [] });
  });

  test('server files and caches have other findings than files that ship', () => {
    const leak = `x="${key}"`;
    const project = ferryProject({
      'adder.yaml': ferryContract.replace('toolchain: vite', 'toolchain: next').replace('[dist]', '[.next]'),
      '.next/static/app.js': 'x',
      '.next/server/page.html': leak,
      '.next/server/page.js': leak,
      '.next/cache/pack': leak,
    });
    const told = (...more: string[]) =>
      project
        .json([...inspect, ...more])
        .report.findings.map(({ place, level }: Said & { level: string }) => `${level} ${place?.path}`);
    expect(told()).toEqual(['error .next/server/page.html', 'warning .next/server/page.js']);
    expect(told('--caches')).toEqual([
      'warning .next/cache/pack',
      'error .next/server/page.html',
      'warning .next/server/page.js',
    ]);
    expect(project.json(inspect).report.coverage.skipped).toEqual([
      { path: '.next/cache', inside: [], because: 'is a cache; --caches includes it' },
    ]);
    project.expectNone(Object.values(secrets), project.adder([...inspect, '--caches']));
    // The contract overrides the default.
    project.write('adder.yaml', project.read('adder.yaml').replace('[.next]', '[.next], server-output: []'));
    expect(told()).toEqual(['error .next/server/page.html', 'error .next/server/page.js']);
  });

  test('of every stage, of undeclared names, of overridden values', () => {
    const project = ferryProject({
      '.env.development': 'STRAY=made-up-stray-value\n',
      '.env': 'TIDE_CHART=true\nFARE_SIGNING_KEY=made-up-overridden-fare-signing-key\n',
      'dist/a.js': 'made-up-stray-value made-up-fare-signing-key-of-staging-0002 made-up-overridden-fare-signing-key',
    });
    const { report } = project.json(inspect);
    expect(
      report.findings.map(({ variable, stage }: { variable: string; stage: string }) => [variable, stage]),
    ).toEqual([
      ['STRAY', 'development'],
      ['FARE_SIGNING_KEY', 'staging'],
      ['FARE_SIGNING_KEY', 'production'],
    ]);
  });

  test('of env files that are no layer, since a tool may have loaded them', () => {
    const project = ferryProject({
      'web/.env.local':
        'FARE_SIGNING_KEY=made-up-local-signing-key-0007\nVITE_FERRY_API_URL=https://local.saltmarsh.test\n',
      'web/.env.example': 'FARE_SIGNING_KEY=made-up-example-key-00000000000008\n',
      'dist/a.js': 'made-up-local-signing-key-0007 https://local.saltmarsh.test made-up-example-key-00000000000008',
    });
    const { report } = project.json(inspect);
    expect(() => reportSchema.parse(report)).not.toThrow();
    expect(report.findings.map(({ message, stage }: { message: string; stage?: string }) => [message, stage])).toEqual([
      [
        'contains the value of FARE_SIGNING_KEY, a server-only variable; the value is from web/.env.local, which is not a layer of any stage',
        undefined,
      ],
    ]);
  });

  test('in every kind of file, hidden ones and binaries too', () => {
    const names = ['index.html', 'a.json', 'a.js.map', '.well-known/x', 'a.bin', 'a.woff2', 'no-ending'];
    const binary = Buffer.concat([Buffer.from([0, 255, 254]), Buffer.from(key), Buffer.from([0, 1])]);
    const { report } = ferryProject(Object.fromEntries(names.map((name) => [`dist/${name}`, binary]))).json(inspect);
    expect(report.findings.map(({ place }: Said) => place?.path)).toEqual(names.map((name) => `dist/${name}`).sort());
  });

  test('across chunk boundaries in a large file', () => {
    const size = 256 * 1024;
    for (const shift of [0, 1, 20, key.length - 1]) {
      const text = `${'.'.repeat(size - shift)}${key}\n`.repeat(4);
      const { report } = ferryProject({ 'dist/a.js': text }).json(inspect);
      expect(report.findings.map(({ place }: Said) => place?.line)).toEqual([1, 2, 3, 4]);
    }
  });

  test('more places of an anchor than are compared make the answer incomplete', () => {
    const [, start] = /^(.{20})/.exec(key) ?? [];
    const { code, report } = ferryProject({ 'dist/a.js': `${start}x\n`.repeat(2100) }).json(inspect);
    expect([code, report.answers.nothingLeaked.answer]).toEqual([3, 'not known']);
    expect(report.coverage.unread[0].because).toMatch(/^has 2,100 places that may be the value of FARE_SIGNING_KEY; /);
  });

  test('a value whose characters are escaped one by one, which is not shown', () => {
    const codes = (write: (code: number) => string) => [...key].map((one) => write(one.charCodeAt(0))).join('');
    const hidden = {
      'dist/a.js': codes((code) => `\\u${code.toString(16).padStart(4, '0')}`),
      'dist/b.js': codes((code) => `\\x${code.toString(16).toUpperCase()}`),
      'dist/c.js': codes((code) => `\\u{${code.toString(16)}}`),
      'dist/d.html': codes((code) => `&#${code};`),
      'dist/e.html': codes((code) => `&#x${code.toString(16)};`),
      'dist/f.css': codes((code) => `%${code.toString(16)}`),
      'dist/g.js': btoa(btoa(key)),
      'dist/h.js': Buffer.from(key, 'utf16le').toString('base64'),
    };
    const lines = Object.entries(hidden).map(([path, text]) => [path, `x = '${text}'; y = '${text}';`]);
    const project = ferryProject(Object.fromEntries(lines));
    const { report } = project.json(inspect);
    expect(report.findings.map(({ code, place }: Said) => `${code} ${place?.path}`)).toEqual(
      Object.keys(hidden).flatMap((path) => [`leak/known-value ${path}`, `leak/known-value ${path}`]),
    );
    const shown = JSON.stringify(report) + project.adder(inspect).stdout;
    for (const text of Object.values(hidden)) expect(shown).not.toContain(JSON.stringify(text).slice(1, 30));
  });

  test('a value that is everywhere is reported a hundred times, then counted', () => {
    const { report } = ferryProject({ 'dist/a.js': `${key}\n`.repeat(1234) }).json(inspect);
    expect(report.findings).toHaveLength(101);
    expect(report.findings[0].message).toContain('in 1,134 more places of this file');
  });

  test('no output contains the values, whatever surrounds a hit', () => {
    const all = Object.values(secrets);
    const text = all
      .flatMap((value) => [value, btoa(value), encodeURIComponent(value), JSON.stringify(value)])
      .join(';');
    const project = ferryProject({
      'dist/a.js': `${text}\n${text}`,
      [`dist/${key}/${key}.js`]: text,
      [`dist/${key}.gz`]: gzipSync('x'),
    });
    for (const args of [
      inspect,
      [...inspect, '--format', 'json'],
      [...inspect, '--color', 'always'],
      [...inspect, '--save', 'reports/r.txt'],
    ]) {
      const ran = project.adder(args);
      expect(ran.code).toBe(1);
      project.expectNone(all, ran, 'reports');
    }
  });

  needsUnix('names with terminal escapes are made safe', () => {
    const { stdout } = ferryProject({ 'dist/a\x1b[2Jb.js': key }).adder(inspect);
    expect(stdout).toContain('dist/a\\x1b[2Jb.js:1:1');
    expect(stdout).not.toContain('\x1b');
  });
});

describe('in containers', () => {
  const script = `one();\nfetch("${key}"); // ä`;
  interface Inside {
    place: { path: string; inside: string[]; line: number; column: number };
  }
  const places = (findings: Inside[]) =>
    findings.map(({ place }) => `${[place.path, ...place.inside].join(' » ')} ${place.line}:${place.column}`);

  test('in every one of many compressed files, after a damaged one too', () => {
    // Long enough to be inflated while the file before it is searched.
    const padding = Array.from({ length: 9000 }, (_, index) => `ferry ${index * 7919}`).join('\n');
    const names = Array.from({ length: 12 }, (_, index) => `dist/${String(index).padStart(2, '0')}.js.gz`);
    const files = names.map((name, index): [string, Buffer] => [name, gzipSync(`${padding}${index}\n${key}`)]);
    const damaged = files[5]?.[1] as Buffer;
    const project = ferryProject({
      ...Object.fromEntries(files),
      'dist/05.js.gz': damaged.subarray(0, damaged.length - 200),
      'dist/06.txt': key,
    });
    const { report } = project.json(inspect);
    const found = report.findings.map((one: Said) => one.place?.path);
    expect(found.sort()).toEqual([...names.filter((name) => !name.includes('05')), 'dist/06.txt'].sort());
    expect(report.coverage.unread).toEqual([{ path: 'dist/05.js.gz', inside: ['05.js'], because: 'is damaged' }]);
  });

  test('precompressed files of a site, with places in their content', () => {
    const project = ferryProject({
      'dist/a.js.gz': gzipSync(script),
      'dist/a.js.br': brotliCompressSync(script),
    });
    const { code, report } = project.json(inspect);
    expect(() => reportSchema.parse(report)).not.toThrow();
    expect([code, places(report.findings)]).toEqual([1, ['dist/a.js.br » a.js 2:8', 'dist/a.js.gz » a.js 2:8']]);
    expect(report.coverage).toMatchObject({ files: 2, members: 2, unread: [] });
    const ran = project.adder(inspect);
    expect(ran.stdout).toContain('dist/a.js.gz » a.js:2:8');
    expect(ran.stdout).toContain('2 | fetch("[masked]"); // ä');
    expect(ran.stdout).toContain('checked 2 files and 2 embedded files');
    project.expectNone([key], ran);
  });

  test('a desktop archive in an archive is reported once, though it is not compressed', async () => {
    const project = ferryProject({ 'app/main.js': script, [`app/${key}.txt`]: 'x' });
    await packAsar(project.path('app'), project.path('out/app.asar'));
    const archive = pack();
    archive.entry({ name: 'Desk/app.asar' }, readFileSync(project.path('out/app.asar')));
    archive.finalize();
    const pieces: Uint8Array[] = [];
    for await (const piece of archive) pieces.push(piece as Uint8Array);
    project.write('dist/desk.tar', Buffer.concat(pieces));
    const { report } = project.json(inspect);
    expect(places(report.findings)).toEqual([
      // The archive's directory contains the file name.
      expect.stringMatching(/^dist\/desk.tar » Desk\/app.asar 1:/),
      'dist/desk.tar » Desk/app.asar » main.js 2:8',
    ]);
    project.expectNone([key], project.adder(inspect));
  });

  test('a data: URI in a script, and a source map in one, with the line that wrote it', () => {
    const uri = (type: string, text: string) => `data:${type};base64,${btoa(text)}`;
    const source = `// one\nsign("${key}")\n"${uri('image/svg+xml', `<svg>${btoa(key)}</svg>`)}"`;
    const map = { version: 3, sources: ['../src/a.ts'], sourcesContent: [source], mappings: 'AAAA' };
    const project = ferryProject({
      'dist/a.css': `a{background:url(${uri('image/svg+xml;charset=utf-8', `<svg>\n${key}</svg>`)})}`,
      'dist/a.js': `1;\n//# sourceMappingURL=${uri('application/json', JSON.stringify(map))}`,
    });
    const { report } = project.json(inspect);
    const inMap = 'dist/a.js » data:application/json@24 » ../src/a.ts';
    expect(places(report.findings).sort()).toEqual([
      'dist/a.css » data:image/svg+xml@17 2:1',
      `${inMap} 2:7`,
      `${inMap} » data:image/svg+xml@${source.indexOf('data:')} 1:6`,
    ]);
    const said = (length: number) => report.findings.find(({ place }: Inside) => place.inside.length === length);
    expect(said(2).origin).toMatchObject({ path: 'src/a.ts', line: 2, column: 7 });
    expect(said(3).encoding).toEqual(['base64']);
    expect(report.coverage.unread).toEqual([]);
    project.expectNone([key, btoa(key)], project.adder(inspect));
  });

  test('a value that a script puts together from pieces, which are not shown', () => {
    const half = key.length >> 1;
    const [first, second] = [key.slice(0, half), key.slice(half)];
    const script = `const a = "ä";\nsend(${JSON.stringify(first)} + ${JSON.stringify(second)});`;
    const map = { version: 3, sources: ['../src/a.js'], sourcesContent: [script], mappings: '' };
    const project = ferryProject({
      'dist/a.js': script,
      'dist/b.txt': script,
      'dist/c.js': `x = "${key}" + "?"`,
      'dist/d.js.gz': gzipSync(script),
      'dist/e.js.map': JSON.stringify(map),
      'dist/f.html': `<title>ä</title>\n<script>${script}</script>`,
    });
    const { report } = project.json(inspect);
    expect(report.findings.map(short)).toEqual([
      ['leak/known-value', 'FARE_SIGNING_KEY', 'dist/a.js:2:6', 'joined'],
      ['leak/part-of-value', 'FARE_SIGNING_KEY', 'dist/b.txt:2:33', 'plain'],
      ['leak/known-value', 'FARE_SIGNING_KEY', 'dist/c.js:1:6', 'plain'],
      ['leak/known-value', 'FARE_SIGNING_KEY', 'dist/d.js.gz:2:6', 'joined'],
      ['leak/known-value', 'FARE_SIGNING_KEY', 'dist/e.js.map:2:6', 'joined'],
      ['leak/known-value', 'FARE_SIGNING_KEY', 'dist/f.html:3:6', 'joined'],
    ]);
    expect(JSON.stringify(report) + project.adder(inspect).stdout).not.toMatch(new RegExp(`${first}|${second}`));
  });

  test('a public value that is in a container alone is there', () => {
    const build = `import { gzipSync } from 'node:zlib'; import { writeFileSync } from 'node:fs';
writeFileSync('dist/a.js.gz', gzipSync('x="https://api.saltmarsh.example"'));`;
    const project = ferryProject({ 'build.mjs': build, 'dist/b.js': 'x' });
    project.adder(['with', 'production', '--', 'node', 'build.mjs']);
    expect(project.json(['inspect']).report.findings).toEqual([]);
    // Its place in the archive is in the receipt.
    const { report } = project.json(['why', 'FERRY_API_URL']);
    expect(report.bundles[0].built.places).toEqual([{ path: 'dist/a.js.gz', inside: ['a.js'], offset: 3, length: 29 }]);
    expect(project.adder(['why', 'FERRY_API_URL']).stdout).toContain('in dist/a.js.gz » a.js after the last build');
    const change = (text: string) => text.replace('https://api.saltmarsh.example', 'https://booking.saltmarsh.example');
    project.write('.env.production', change(project.read('.env.production')));
    const stale = project.json(['inspect']).report.findings;
    expect(stale.map(short)).toEqual([
      ['stale/past-value', 'FERRY_API_URL', 'dist/a.js.gz:undefined:undefined', undefined],
    ]);
    expect(stale[0].place.inside).toEqual(['a.js']);
  });
});

describe('values of another stage', () => {
  test('are found, but not inside this stage’s own', () => {
    const project = ferryProject({
      '.env.staging':
        'FERRY_API_URL=https://api.saltmarsh\nFARE_SIGNING_KEY=made-up-fare-signing-key-of-staging-0002\n',
      'dist/a.js': 'a("https://api.saltmarsh.example")\nb("https://api.saltmarsh/x")',
    });
    const { code, report } = project.json(inspect);
    expect([code, report.findings.map(short)]).toEqual([
      1,
      [['stage/foreign-value', 'FERRY_API_URL', 'dist/a.js:2:4', 'plain']],
    ]);
  });

  test.each([
    ['a fallback in the code, beside the right value', 'api.saltmarsh.example', 0],
    ['the right value is missing', 'nothing.example', 1],
  ])('%s', (_, host, code) => {
    const staging = 'https://api.staging.saltmarsh.test';
    const project = ferryProject({
      '.env.staging': `FERRY_API_URL=${staging}\nFARE_SIGNING_KEY=made-up-fare-signing-key-of-staging-0002\n`,
      'src/api.js': `export const api = import.meta.env.VITE_FERRY_API_URL ?? '${staging}';\n`,
      'dist/a.js': `a("https://${host}")\nb("${staging}")`,
    });
    const inspected = project.json(inspect);
    expect(inspected.report.findings.map((one: { code: string }) => one.code)).toEqual(
      code === 0 ? [] : ['stage/foreign-value'],
    );
    expect(inspected.code).toBe(code);
  });
});

describe('what an earlier build left', () => {
  const project = () =>
    ferryProject({
      'build.cjs': "require('node:fs').writeFileSync('dist/new.js', '0');",
      'dist/old.js': `x="${key}"`,
      'dist/old.gz': gzipSync('y="https://api.staging.saltmarsh.test"'),
    });
  const build = ['with', 'production', '--', 'node', 'build.cjs'];
  const remedies = (at: TestProject) =>
    at.json(['inspect']).report.findings.map(({ place, remedy }: Said & { remedy: string }) => [place?.path, remedy]);
  const leftOver = 'the last build did not write this file: empty dist';

  test('says so, and what to do', () => {
    const at = project();
    expect(at.adder(build)).toMatchObject({ code: 0 });
    expect(remedies(at)).toEqual([
      ['dist/old.gz', `${leftOver} and rebuild`],
      ['dist/old.js', `${leftOver}, rebuild, then rotate the key: assume it is known`],
    ]);
    at.expectNone([key], at.adder(['inspect']));
  });

  test('not for a file that the last build wrote, or that was written since', () => {
    const at = project();
    at.write('build.cjs', `require('node:fs').writeFileSync('dist/old.js', ${JSON.stringify(`x="${key}"`)});`);
    expect(at.adder(build)).toMatchObject({ code: 0 });
    at.write('dist/old.gz', gzipSync('z="https://api.staging.saltmarsh.test"'));
    for (const [, remedy] of remedies(at)) expect(remedy).not.toContain(leftOver);
  });
});

describe('values that have changed', () => {
  const recorder = `import { mkdirSync, writeFileSync } from 'node:fs';
mkdirSync('dist', { recursive: true });
writeFileSync('dist/app.js', 'let x;\\napi("' + process.env.VITE_FERRY_API_URL + '")');`;
  const built = () => {
    const project = ferryProject({ 'build.mjs': recorder });
    expect(project.adder(['with', 'production', '--', 'node', 'build.mjs']).code).toBe(0);
    return project;
  };
  const change = (text: string) => text.replace('https://api.saltmarsh.example', 'https://booking.saltmarsh.example');

  test('fresh: clean, for the stage that was built last', () => {
    const { code, report } = built().json(['inspect']);
    expect([code, report.stage, report.findings]).toEqual([0, 'production', []]);
  });

  test('a changed public value: one finding, at its place, until it is built again', () => {
    const project = built();
    project.write('.env.production', change(project.read('.env.production')));
    const { code, report } = project.json(['inspect']);
    expect([code, report.findings.map(short)]).toEqual([
      1,
      [['stale/past-value', 'FERRY_API_URL', 'dist/app.js:2:6', undefined]],
    ]);
    expect(report.findings[0].remedy).toBe('rebuild: adder with production --bundle ticket-desk -- node build.mjs');
    project.adder(['with', 'production', '--', 'node', 'build.mjs']);
    expect(project.json(['inspect'])).toMatchObject({ code: 0, report: { findings: [] } });
  });

  test('reports a build for another stage', () => {
    const { code, report } = built().json(['inspect', '--stage', 'staging']);
    expect(code).toBe(1);
    expect(report.findings.map(({ message }: { message: string }) => message)).toContain(
      'ticket-desk was last built for production, not for staging',
    );
  });

  test('reports files that another tool built', () => {
    const project = built();
    project.write('dist/app.js', 'api("https://elsewhere.example")');
    const { report } = project.json(['inspect']);
    expect(report.findings.map(({ code, level }: { code: string; level: string }) => [code, level])).toEqual([
      ['stale/missing-value', 'warning'],
      ['stale/receipt', 'warning'],
    ]);
  });

  test('messages about stale values contain no secret', () => {
    const project = built();
    project.write('.env.production', `${project.read('.env.production')}SOURCE_MAP_UPLOAD_TOKEN=made-up-new-token\n`);
    const ran = project.adder(['inspect']);
    expect(ran.stdout).toContain('SOURCE_MAP_UPLOAD_TOKEN: was in no file of ticket-desk');
    project.expectNone([...Object.values(secrets), 'made-up-new-token'], ran);
  });
});

describe('coverage', () => {
  test('clean: says how much', () => {
    expect(ferryProject({ 'dist/a.js': 'x', 'dist/b/c.js': 'yy' }).adder(inspect)).toMatchObject({
      code: 0,
      stdout:
        'adder inspect  production\n\nno problems\nnothing leaked:             yes\nnothing is missing:         yes\nup to date for this stage:  yes\nchecked 2 files, 3 bytes, completely\n',
    });
  });

  test.each<[title: string, files: Record<string, string | Buffer>, unread: [path: string, because: string][]]>([
    ['an output that is not there', {}, [['dist', 'does not exist']]],
    [
      'a compressed file of a format that is not opened',
      { 'dist/a.xz': Buffer.from('fd377a585a0000', 'hex') },
      [['dist/a.xz', 'is xz, which Adder does not unpack']],
    ],
  ])('%s is never clean', (_, files, unread) => {
    const { code, report } = ferryProject(files).json(inspect);
    expect([
      code,
      report.coverage.unread.map(({ path, because }: { path: string; because: string }) => [path, because]),
    ]).toEqual([3, unread]);
  });

  test('an empty output, and findings before what was not read', () => {
    const project = ferryProject();
    mkdirSync(project.path('dist'));
    expect(project.adder(inspect)).toMatchObject({
      code: 3,
      stdout: expect.stringContaining('could not check 1 item:\n  dist is empty'),
    });
    project.write('dist/a.js', key);
    project.write('dist/a.gz', gzipSync('x').subarray(0, 12));
    expect(project.adder(inspect).code).toBe(1);
    expect(project.adder([...inspect, '--fail-on', 'never']).code).toBe(3);
  });

  test('Ctrl-C: reports what was found so far, with exit code 130', async () => {
    const project = ferryProject({ 'dist/a.js': key, 'dist/b.bin': Buffer.alloc(1), 'dist/c.js': key });
    // A file that takes long, and no room on the disk.
    truncateSync(project.path('dist/b.bin'), 40 * 2 ** 30);
    const child = spawn(process.execPath, [program, ...inspect, '--format', 'json'], {
      cwd: project.folder,
      env: bareEnvironment(),
    });
    let stdout = '';
    child.stdout.on('data', (text) => {
      stdout += text;
    });
    const closed = new Promise((resolve) => child.on('close', resolve));
    const files = `/proc/${child.pid}/fd`;
    const isLarge = (name: string) => {
      try {
        return readlinkSync(join(files, name)).endsWith('b.bin');
      } catch {
        // It was closed meanwhile.
        return false;
      }
    };
    await expect.poll(() => readdirSync(files).some(isLarge), { timeout: 30_000, interval: 50 }).toBe(true);
    // Files are opened ahead of their turn.
    await new Promise((resolve) => setTimeout(resolve, 500));
    child.kill('SIGINT');
    const code = await closed;
    const { findings, coverage } = JSON.parse(stdout);
    expect([code, findings.map(({ place }: Said) => place?.path)]).toEqual([130, ['dist/a.js']]);
    expect(coverage.unread.map(({ path, because }: { path: string; because: string }) => [path, because])).toEqual([
      ['dist/b.bin', 'was not read completely: interrupted'],
      ['dist/c.js', 'was not read: the inspection was stopped'],
    ]);
  });

  needsUnix('however many threads look, the report is the same', () => {
    const MB = 2 ** 20;
    const large = Buffer.alloc(21 * MB, 'x ');
    // Across the borders of stretches, at the first byte and the last.
    for (const at of [0, 4 * MB - 10, 8 * MB - 1, 12 * MB, large.length - key.length]) large.write(key, at);
    const many = Object.fromEntries(
      Array.from({ length: 40 }, (_, n) => [`dist/${n}.js`, n % 9 === 0 ? `\n "${key}"` : 'x']),
    );
    const project = ferryProject({ ...many, 'dist/large.bin': large, 'dist/c.js.gz': gzipSync(key) });
    spawnSync('mkfifo', [project.path('dist/pipe')]);
    const [one, ...others] = ['1', '2', '3', '4'].map((threads) => project.json([...inspect, '--threads', threads]));
    expect(one?.report.findings).toHaveLength(5 + 5 + 1);
    expect(one?.report.coverage).toMatchObject({ files: 42, members: 1, unread: [] });
    for (const other of others) expect(other).toEqual(one);
  });

  test('directories of packages and repositories in an output only when asked, and said', () => {
    const project = ferryProject({ 'dist/a.js': 'x', 'dist/node_modules/p/a.js': key, 'dist/deep/.git/config': key });
    const { code, report } = project.json(inspect);
    // A repository in the output makes the answer no, although it is only a warning.
    expect([code, report.coverage.skipped.map(({ path }: { path: string }) => path)]).toEqual([
      1,
      ['dist/deep/.git', 'dist/node_modules'],
    ]);
    expect(report.findings).toMatchObject([
      {
        code: 'leak/private-file',
        level: 'warning',
        message: 'is a git repository',
        place: { path: 'dist/deep/.git' },
      },
    ]);
    expect(project.json([...inspect, '--packages']).report.findings.map(short)).toHaveLength(2);
    expect(project.json([...inspect, 'dist/node_modules']).report.findings.map(short)).toHaveLength(1);
  });

  needsUnix('links are read once and inside, and what leads out or has no end is listed', () => {
    const project = ferryProject({ 'dist/a.js': key, 'outside.js': key });
    symlinkSync('a.js', project.path('dist/link.js'));
    symlinkSync('../outside.js', project.path('dist/out.js'));
    symlinkSync('.', project.path('dist/loop'));
    symlinkSync('nowhere', project.path('dist/broken'));
    spawnSync('mkfifo', [project.path('dist/pipe')]);
    const { code, report } = project.json(inspect);
    expect([code, report.findings.map(short).length]).toEqual([1, 1]);
    expect(report.coverage.unread).toEqual([
      { path: 'dist/out.js', inside: [], because: 'is a symlink that leads outside the directory' },
    ]);
    expect(report.coverage.skipped).toEqual([
      { path: 'dist/broken', inside: [], because: 'is a symlink to nothing' },
      { path: 'dist/pipe', inside: [], because: 'is a pipe' },
    ]);
  });

  test('values that occur in any bundle are listed and not searched for', () => {
    const project = ferryProject({ '.env.development': 'PORT=4180\n', 'dist/a.js': '4180' });
    expect(project.adder(inspect).stdout).toContain('not searched: PORT of development (shorter than 6 bytes)');
  });

  test('paths: a directory outside every output, a single file, one that is not there', () => {
    const project = ferryProject({ 'other/a.js': key, 'dist/b.js': key, 'dist/c.js': key });
    const bundles = (args: string[]) =>
      project
        .json([...inspect, ...args])
        .report.findings.map(({ bundle, place }: Said & { bundle?: string }) => [bundle, place?.path]);
    expect(bundles(['other'])).toEqual([[undefined, 'other/a.js']]);
    expect(bundles(['dist/b.js'])).toEqual([['ticket-desk', 'dist/b.js']]);
    expect(project.json([...inspect, 'gone']).code).toBe(3);
    const paths = (...args: string[]) => bundles(args).map((one: unknown[]) => one[1]);
    for (const args of [['dist', 'dist/b.js'], ['dist', 'dist'], ['dist/**'], ['dist/*.js'], ['dist/{b,c}.js']])
      expect(paths(...args), args.join()).toEqual(['dist/b.js', 'dist/c.js']);
    project.write('dist/node_modules/p/d.js', key);
    expect(paths('dist/node_modules/p', 'dist')).toEqual(['dist/b.js', 'dist/c.js', 'dist/node_modules/p/d.js']);
  });

  test('globs in an output', () => {
    const contract = ferryProject().read('adder.yaml').replace('output: [dist]', "output: ['build/*/client']");
    const project = ferryProject({ 'adder.yaml': contract, 'build/a/client/x.js': key, 'build/a/server/x.js': key });
    expect(project.json(inspect).report.findings.map(({ place }: Said) => place?.path)).toEqual([
      'build/a/client/x.js',
    ]);
  });

  test('without a receipt the stage must be named', () => {
    expect(ferryProject({ 'dist/a.js': '' }).adder(['inspect'])).toMatchObject({
      code: 2,
      stderr: expect.stringContaining('adder inspect --stage development|staging|production'),
    });
  });
});

test('a source map never opens a file outside the contract’s directory', () => {
  const project = ferryProject({ 'dist/a.js': `x("${key}")\n//# sourceMappingURL=a.js.map` });
  const map = { version: 3, sources: ['../../../../../../../../etc/hostname'], names: [], mappings: 'AAAA' };
  project.write('dist/a.js.map', JSON.stringify(map));
  const { stdout } = project.adder(inspect);
  expect(stdout).toContain('etc/hostname:1:1');
  expect(stdout).toContain('1 | x("[masked]")');
});

describe('files of an earlier build in the place of the last one', () => {
  const made = (version: string) =>
    `const fs = require('fs'); fs.rmSync('dist', { recursive: true, force: true }); fs.mkdirSync('dist'); fs.writeFileSync('dist/a.js', process.env.VITE_FERRY_API_URL); fs.writeFileSync('dist/b.js', '${version}');`;
  const build = (project: TestProject, version: string) =>
    project.adder(['with', 'production', '--', process.execPath, '-e', made(version)]);

  test.each([
    ['all of them', ['a.js', 'b.js'], ['stale/receipt restored']],
    ['some of them', ['b.js'], ['stale/receipt other-files']],
    ['none', [], []],
  ])('%s', (_, back, expected) => {
    const project = ferryProject({});
    build(project, 'one');
    const old = ['a.js', 'b.js'].map((name) => [name, project.read(`dist/${name}`)] as const);
    project.write('.env.production', project.read('.env.production').replace(/^(FERRY_API_URL=.*)$/m, '$1/v2'));
    build(project, 'two');
    for (const [name, text] of old) if (back.includes(name)) project.write(`dist/${name}`, text);
    const { report } = project.json(inspect);
    const said = (report.findings as { code: string; variant: string }[]).filter(({ code }) => /^stale/.test(code));
    expect(said.map(({ code, variant }) => `${code} ${variant}`)).toEqual(expected);
  });
});
