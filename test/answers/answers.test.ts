import { mkdirSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';
import { asked } from '../support/asked.js';
import { tarOf, zipOf } from '../support/unpack.js';

describe('the three answers', () => {
  const contract = `adder: 1
stages: { production: { layers: [.env, process] } }
bundles: { desk: { toolchain: vite, code: [src], output: dist } }
variables:
  API_URL: { reach: public, form: url }
  TIDES: { reach: public, form: flag, default: false }
  FARE_KEY: { reach: server, min: 10 }
  QUAY_HOST: { reach: server, required: false }
`;
  const key = 'made-up-fare-key-0123';
  const at = (files: Record<string, string>) =>
    new TestProject({
      'adder.yaml': contract,
      '.env': 'API_URL=https://api.saltmarsh.example\n',
      'src/main.js': 'fetch(import.meta.env.VITE_API_URL);\n',
      ...files,
    });
  const answers = (project: TestProject, env: Record<string, string> = { FARE_KEY: key }, paths: string[] = []) => {
    const isWhole = paths.length === 0;
    const { code, report } = isWhole
      ? asked(project, env)
      : project.json(['inspect', '--stage', 'production', ...paths], env);
    const all = Object.values(report.answers as Record<string, { answer: string }>).map(({ answer }) => answer);
    return [code, ...all, ...report.findings.map((one: { code: string; level: string }) => `${one.level} ${one.code}`)];
  };
  const good = 'fetch("https://api.saltmarsh.example");';

  test.each<[string, string, unknown[]]>([
    ['clean', good, [0, 'yes', 'yes', 'yes']],
    ['a secret', `${good}"${key}"`, [1, 'no', 'yes', 'yes', 'error leak/known-value']],
    ['a value that the code reads', 'fetch("")', [1, 'yes', 'no', 'yes', 'warning stale/missing-value']],
    ['a read', 'fetch(import.meta.env.VITE_API_URL)', [1, 'yes', 'no', 'yes', 'error read/unreplaced']],
    ['a read in a string', `${good}"import.meta.env.VITE_API_URL"`, [0, 'yes', 'yes', 'yes']],
  ])('%s', (_, text, expected) => {
    expect(answers(at({ 'dist/app.js': text }))).toEqual(expected);
  });

  test('a placeholder of a page', () => {
    const project = at({ 'dist/app.js': good, 'dist/index.html': '<p>%VITE_API_URL%</p>' });
    expect(answers(project)).toEqual([1, 'yes', 'no', 'yes', 'error read/unreplaced']);
  });

  test('a required secret without a value is not searched for, so nothing is known', () => {
    const project = at({ 'dist/app.js': good });
    expect(answers(project, {})).toEqual([3, 'not known', 'yes', 'yes']);
    const { report } = project.json(['inspect', '--stage', 'production']);
    expect(report.coverage.notSearched).toEqual([
      { variable: 'FARE_KEY', stage: 'production', because: 'no value here' },
      { variable: 'QUAY_HOST', stage: 'production', because: 'no value here' },
    ]);
    expect(project.adder(['inspect', '--stage', 'production', '--allow-incomplete']).code).toBe(0);
  });

  test('without a receipt, a flag that the code reads may be an old one', () => {
    const project = at({ 'dist/app.js': good, 'src/main.js': 'if (import.meta.env.VITE_TIDES) open();\n' });
    expect(answers(project)).toEqual([3, 'yes', 'yes', 'not known']);
    project.adder(['with', 'production', '--', 'node', '-e', `fs.writeFileSync('dist/app.js', '${good}')`], {
      FARE_KEY: key,
    });
    expect(answers(project)).toEqual([0, 'yes', 'yes', 'yes']);
  });

  test('of a part of the output, only the first question is asked', () => {
    const project = at({ 'dist/app.js': '', 'dist/other.js': good });
    expect(answers(project, { FARE_KEY: key }, ['dist/app.js'])).toEqual([0, 'yes', 'not asked', 'not asked']);
    expect(answers(project, { FARE_KEY: key }, ['dist'])).toEqual([0, 'yes', 'yes', 'yes']);
  });

  test('files of earlier builds are recognised wherever they are', () => {
    const project = at({ 'dist/app.js': '' });
    const env = { FARE_KEY: key };
    const build = (url: string, stage = 'production') => {
      project.write('.env', `API_URL=${url}\n`);
      const script = `fs.writeFileSync('dist/app.js', 'fetch("${url}")')`;
      expect(project.adder(['with', stage, '--', 'node', '-e', script], env).code).toBe(0);
    };
    const elsewhere = () => project.write('shipped/last-week/main.js', project.read('dist/app.js'));
    build('https://api.saltmarsh.example');
    elsewhere();
    expect(answers(project, env, ['shipped'])).toEqual([0, 'yes', 'not asked', 'yes']);
    build('https://booking.saltmarsh.example');
    expect(answers(project, env, ['shipped'])).toEqual([1, 'yes', 'not asked', 'no', 'error stale/past-value']);
    const { report } = project.json(['inspect', 'shipped'], env);
    expect(report.findings[0].place).toMatchObject({ path: 'shipped/last-week/main.js', line: 1, column: 8 });
    project.write('adder.yaml', contract.replace('stages: { ', 'stages: { staging: { layers: [.env, process] }, '));
    build('https://staging.saltmarsh.example', 'staging');
    elsewhere();
    project.write('.env', 'API_URL=https://booking.saltmarsh.example\n');
    const other = project.json(['inspect', '--stage', 'production', 'shipped'], env).report.findings;
    expect(other.map(({ message }: { message: string }) => message)).toEqual([
      expect.stringContaining('is from the build of desk for staging'),
    ]);
    elsewhere();
    project.write('shipped/last-week/main.js', `${project.read('dist/app.js')};`);
    // No receipt knows this file, and the history knows the value in it.
    expect(answers(project, env, ['shipped'])).toEqual([1, 'yes', 'not asked', 'no', 'error stale/past-value']);
  });

  test('files of earlier builds are recognised in archives, also in an archive of an archive', async () => {
    const project = at({ 'dist/app.js': '' });
    const env = { FARE_KEY: key };
    const build = (url: string) => {
      project.write('.env', `API_URL=${url}\n`);
      const script = `fs.writeFileSync('dist/app.js', 'fetch("${url}")')`;
      expect(project.adder(['with', 'production', '--', 'node', '-e', script], env).code).toBe(0);
    };
    build('https://api.saltmarsh.example');
    const www = await tarOf({ 'www/main.js': project.read('dist/app.js') });
    project.write('shipped/crew.apk', zipOf({ 'assets/www.tar': www }));
    expect(answers(project, env, ['shipped'])).toEqual([0, 'yes', 'not asked', 'yes']);
    build('https://booking.saltmarsh.example');
    expect(answers(project, env, ['shipped'])).toEqual([1, 'yes', 'not asked', 'no', 'error stale/past-value']);
    const [finding] = project.json(['inspect', 'shipped'], env).report.findings;
    expect(finding.place).toMatchObject({
      path: 'shipped/crew.apk',
      inside: ['assets/www.tar', 'www/main.js'],
      offset: 7,
    });
    // Beside it is a file that no build wrote, so not all of the archive is known.
    project.write('shipped/crew.apk', zipOf({ 'main.js': project.read('dist/app.js'), 'logo.svg': '<svg/>' }));
    expect(answers(project, env, ['shipped'])).toEqual([0, 'yes', 'not asked', 'not asked']);
  });

  test("the output of one bundle may contain an archive of another's files", () => {
    const project = at({ 'dist/app.js': '', 'shell/app.zip': '' });
    project.write('adder.yaml', contract.replace('bundles: {', 'bundles: { shell: { runs: server, output: shell },'));
    const env = { FARE_KEY: key };
    project.write('.env', 'API_URL=https://api.saltmarsh.example\n');
    const script = `fs.writeFileSync('dist/app.js', 'fetch("https://api.saltmarsh.example")')`;
    expect(project.adder(['with', 'production', '--bundle', 'desk', '--', 'node', '-e', script], env).code).toBe(0);
    project.write('shell/app.zip', zipOf({ 'app.js': project.read('dist/app.js') }));
    const old = () =>
      project
        .json(['inspect', '--stage', 'production', '--bundle', 'shell'], env)
        .report.findings.map(({ code, place }: { code: string; place: { path: string } }) => [code, place.path]);
    expect(old()).toEqual([]);
    project.write('.env', 'API_URL=https://booking.saltmarsh.example\n');
    expect(old()).toEqual([['stale/past-value', 'shell/app.zip']]);
  });

  test('a rebuild that does not help: the remedy is where the old value comes from', () => {
    const old = 'https://old.saltmarsh.example';
    const script = (url: string) => `fs.writeFileSync('dist/app.js', 'fetch(\`${url}/bookings\`)')`;
    const project = at({ 'dist/app.js': '' });
    const env = { FARE_KEY: key };
    const build = (url: string, written: string) => {
      project.write('.env', `API_URL=${url}\n`);
      expect(project.adder(['with', 'production', '--', 'node', '-e', script(written)], env).code).toBe(0);
    };
    build(old, old);
    expect(answers(project, env)).toEqual([0, 'yes', 'yes', 'yes']);
    build('https://api.saltmarsh.example', old);
    const remedy = () => project.json(['inspect', '--stage', 'production'], env).report.findings[0];
    expect(answers(project, env)).toEqual([1, 'yes', 'yes', 'no', 'error stale/past-value']);
    expect(remedy()).toMatchObject({
      place: { path: 'dist/app.js', line: 1, column: 8 },
      remedy: expect.stringContaining('it is in no source file and no known cache'),
    });
    project.write('node_modules/.vite/deps/x.js', '');
    project.write('package.json', '{}');
    expect(remedy().remedy).toContain('delete node_modules/.vite, which may have it, and rebuild');
    project.write('src/generated.js', `\nexport const api = '${old}';\n`);
    expect(remedy().remedy).toContain('it is hard-coded at src/generated.js:2: read the variable there');
    build('https://api.saltmarsh.example', 'https://api.saltmarsh.example');
    expect(answers(project, env)).toEqual([0, 'yes', 'yes', 'yes']);
  });

  test.each([
    ['only skipped files', { 'dist/node_modules/a/index.js': 'x' }],
    ['no files', {}],
  ])('a directory with %s is not clean', (what, files) => {
    const project = at(files);
    if (what === 'no files') mkdirSync(project.path('dist/assets'), { recursive: true });
    const { code, report } = project.json(['inspect', '--stage', 'production'], { FARE_KEY: key });
    expect([code, report.coverage.unread]).toEqual([3, [{ path: 'dist', inside: [], because: `contains ${what}` }]]);
  });

  test('a cache is searched if its path is given', () => {
    const project = at({ '.next/cache/a.txt': key, '.next/static/a.js': '' });
    project.write('adder.yaml', contract.replace('toolchain: vite', 'toolchain: next').replace('dist', '.next'));
    const found = answers(project, { FARE_KEY: key }, ['.next/cache']);
    expect(found.slice(-1)).toEqual(['warning leak/known-value']);
  });

  test('a secret in the name of a file, which is not shown', () => {
    const project = at({ 'dist/app.js': good, [`dist/${key}/a.css`]: '' });
    const ran = project.adder(['inspect', '--stage', 'production'], { FARE_KEY: key });
    expect(ran.code).toBe(1);
    expect(ran.stdout).toContain('the name of this file contains the value of FARE_KEY');
    expect(ran.stdout).toContain('dist/[masked]/a.css');
    project.expectNone([key], ran);
  });

  test('a setting is a note, and is shown', () => {
    const project = at({ 'dist/app.js': `${good}"ledger.quay.internal"` });
    const ran = project.adder(['inspect', '--stage', 'production'], {
      FARE_KEY: key,
      QUAY_HOST: 'ledger.quay.internal',
    });
    expect(ran.code).toBe(0);
    expect(ran.stdout).toContain('contains the value of QUAY_HOST, a server-only setting');
    expect(ran.stdout).toContain('"ledger.quay.internal"');
  });

  test("a setting inside this stage's own public value is not reported", () => {
    const project = at({ 'dist/app.js': good });
    const env = { FARE_KEY: key, QUAY_HOST: 'api.saltmarsh.example' };
    expect(answers(project, env)).toEqual([0, 'yes', 'yes', 'yes']);
  });
});
