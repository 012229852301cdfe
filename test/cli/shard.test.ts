import { spawn } from 'node:child_process';
import { describe, expect, test } from 'vitest';
import { bareEnvironment, ferryContract, ferryProject, program, secrets, type TestProject } from '../support/adder.js';

const PARTS = 8;

/** Inspects every part in a process of its own, all at the same time. @returns the names of the reports */
async function inspectParts(project: TestProject): Promise<string[]> {
  const names = Array.from({ length: PARTS }, (_, index) => `part-${index + 1}.json`);
  await Promise.all(
    names.map(
      (name, index) =>
        new Promise((resolve) => {
          const args = ['inspect', '--stage', 'production', '--shard', `${index + 1}/${PARTS}`, '--format', 'json'];
          spawn(process.execPath, [program, ...args, '--save', name], {
            cwd: project.folder,
            env: bareEnvironment(),
            stdio: 'ignore',
          }).on('close', resolve);
        }),
    ),
  );
  return names;
}

type Json = Record<string, unknown>;

/** Sorts lists that are in the order of the work. */
function comparable(report: Json): Json {
  const { coverage, contents, ...rest } = report as { coverage: Json; contents: Json };
  const sorted = (lists: Json) =>
    Object.fromEntries(
      Object.entries(lists).map(([key, list]) => [
        key,
        Array.isArray(list) ? list.map((one) => JSON.stringify(one)).sort() : list,
      ]),
    );
  return { ...rest, coverage: sorted(coverage), contents: sorted(contents) };
}

/** An output with something of every kind, spread over many files of different sizes. */
function largeProject(): TestProject {
  const files: Record<string, string> = {};
  for (let index = 0; index < 60; index++)
    files[`dist/chunk-${index}.js`] = `${'x();'.repeat((index * 37) % 90)}h("ledger.saltmarsh.test")`;
  for (const index of [3, 17, 40]) files[`dist/chunk-${index}.js`] += `;k="${secrets.FARE_SIGNING_KEY}"`;
  // Names of files differ in their hash alone, so their findings differ in their number alone.
  for (const hash of ['1a2b3c4d', '5e6f7a8b', '9c0d1e2f'])
    files[`dist/lazy-${hash}.js`] = `t="${secrets.SOURCE_MAP_UPLOAD_TOKEN.replaceAll('"', '\\"')}"`;
  files['dist/old.js'] = 'f("https://api.staging.saltmarsh.test/x")';
  files['dist/local.js'] = 'f("http://localhost:3000/x"),log("FARE_SIGNING_KEY")';
  files['dist/other.js'] = 'log("FARE_SIGNING_KEY")';
  files['dist/a.7z'] = "7z\xbc\xaf'\x1c";
  files['dist/api.js'] = 'f("https://api.saltmarsh.example/x")';
  files['src/main.ts'] = 'f(import.meta.env.VITE_FERRY_API_URL, import.meta.env.VITE_NOTICE_BANNER)';
  const project = ferryProject(files);
  project.write(
    'adder.yaml',
    `${ferryContract}  LEDGER_HOST: { reach: server }
accept:
  - { finding: leak/known-value, where: dist/chunk-17.js, because: a test, until: 2099-01-01 }
  - { finding: leak/known-value, where: dist/gone.js, because: it was there, until: 2099-01-01 }
  - { finding: leak/known-value, where: dist/chunk-3.js, because: it was there, until: 2020-01-01 }
levels: { stale/missing-value: note, leak/name: warning }
`,
  );
  project.write(
    '.env.production',
    `${project.read('.env.production')}NOTICE_BANNER=closed in winter, by order\nLEDGER_HOST=ledger.saltmarsh.test\n`,
  );
  return project;
}

describe('parts of an output, by machines that know nothing of each other', () => {
  test('eight processes find what one finds', async () => {
    const project = largeProject();
    const alone = project.json(['inspect', '--stage', 'production']);
    const codes = new Set(alone.report.findings.map(({ code }: { code: string }) => code));
    for (const code of [
      'leak/known-value',
      'leak/setting',
      'leak/name',
      'stage/foreign-value',
      'stage/local-address',
      'stale/missing-value',
      'contract/unused-acceptance',
      'contract/expired-acceptance',
    ])
      expect([...codes]).toContain(code);
    const names = await inspectParts(project);
    const merged = project.json(['show', ...names]);
    expect(comparable(merged.report)).toEqual(comparable(alone.report));
    expect(merged.code).toBe(alone.code);
    const shuffled = project.json(['show', ...names.toReversed(), names[2] as string]);
    expect(comparable(shuffled.report)).toEqual(comparable(alone.report));
    const sums = names.map((name) => JSON.parse(project.read(name)).coverage.files);
    expect(sums.every((files) => files > 0)).toBe(true);
    project.expectNone(Object.values(secrets), {
      code: 0,
      stdout: names.map((name) => project.read(name)).join(),
      stderr: '',
    });
  });

  test('parts together are reported as the whole is', async () => {
    const project = ferryProject({
      'dist/a.js': 'a()',
      'dist/b.js': 'f("https://api.saltmarsh.example")',
      'src/main.ts': 'f(import.meta.env.VITE_FERRY_API_URL, import.meta.env.VITE_TIDE_CHART)',
    });
    const alone = project.json(['inspect', '--stage', 'production']);
    expect(alone.report.answers.current.answer).toBe('not known');
    const names = await inspectParts(project);
    const { report } = project.json(['show', ...names]);
    expect(comparable(report)).toEqual(comparable(alone.report));
    expect(report.findings).toEqual([]);
  });

  test('after a build, with values that changed since', async () => {
    const project = ferryProject({
      'build.mjs':
        "import { mkdirSync, writeFileSync } from 'node:fs'; mkdirSync('dist', { recursive: true }); for (let i = 0; i < 9; i++) writeFileSync(`dist/${i}.js`, `x${i}`); writeFileSync('dist/api.js', `f('${process.env.VITE_FERRY_API_URL}')`); writeFileSync('dist/note.js', `f('${process.env.VITE_NOTICE_BANNER}')`);",
      'src/main.ts': 'f(import.meta.env.VITE_FERRY_API_URL, import.meta.env.VITE_NOTICE_BANNER)',
    });
    project.write('.env.production', `${project.read('.env.production')}NOTICE_BANNER=closed in winter, by order\n`);
    expect(project.adder(['with', 'production', '--', 'node', 'build.mjs']).code).toBe(0);
    project.write('.env.production', project.read('.env.production').replace('api.saltmarsh', 'booking.saltmarsh'));
    project.write('dist/note.js', 'f()');
    const alone = project.json(['inspect', '--stage', 'production']);
    expect(alone.report.findings.length).toBeGreaterThan(1);
    const names = await inspectParts(project);
    expect(comparable(project.json(['show', ...names]).report)).toEqual(comparable(alone.report));
  });

  test('a missing part makes all answers unknown, and says which', async () => {
    const project = ferryProject({ 'dist/a.js': 'a()', 'dist/b.js': 'b()' });
    const names = await inspectParts(project);
    const { code, report } = project.json(['show', ...names.slice(0, 6)]);
    expect(code).toBe(3);
    expect(report.answers.nothingLeaked).toEqual({
      answer: 'not known',
      because: [
        {
          because: 'parts 7, 8 of 8 are missing',
          remedy: 'run `adder inspect --stage production --shard 7/8 --format json` and add its report',
        },
      ],
    });
    expect(Object.values(report.answers).every((one) => (one as Json).answer === 'not known')).toBe(true);
  });

  test.each([
    [['inspect', '--stage', 'production', '--shard', '9/8'], /a part and the number of parts, such as 2\/8/],
    [['inspect', '--stage', 'production', '--shard', '2'], /a part and the number of parts, such as 2\/8/],
    [['inspect', '--stage', 'production', '--shard', '1/2', 'dist'], /--shard divides the outputs of the bundles/],
  ])('%j is an error', (args, message) => {
    const { code, stderr } = ferryProject({ 'dist/a.js': 'a()' }).adder(args);
    expect(code).toBe(2);
    expect(stderr).toMatch(message);
  });
});

describe('saved reports', () => {
  test('print again in any format', () => {
    const project = ferryProject({ 'dist/a.js': `k="${secrets.FARE_SIGNING_KEY}"` });
    project.adder(['inspect', '--stage', 'production', '--format', 'json', '--save', 'r.json']);
    for (const format of ['text', 'json', 'sarif', 'junit', 'markdown', 'html', 'code-quality']) {
      const direct = project.adder(['inspect', '--stage', 'production', '--format', format]);
      const again = project.adder(['show', 'r.json', '--format', format]);
      // Only JSON and HTML have the list of files.
      const undated = ({ stdout }: { stdout: string }) => stdout.replace(/\d{4}-\d\d-\d\dT[\d:.]+Z?/g, '');
      if (!/json|html/.test(format)) expect(undated(again), format).toBe(undated(direct));
      expect(again.stdout.length).toBeGreaterThan(100);
      expect(again.code).toBe(1);
      project.expectNone(Object.values(secrets), again);
    }
  });

  test('of several commands are one report', () => {
    const project = ferryProject({
      'dist/a.js': `k="${secrets.FARE_SIGNING_KEY}"`,
      'src/main.ts': 'import.meta.env.VITE_FERRY_API_ULR',
    });
    project.adder(['inspect', '--stage', 'production', '--format', 'json', '--save', 'inspect.json']);
    project.adder(['lint', '--format', 'json', '--save', 'lint.json']);
    const { code, report } = project.json(['show', 'inspect.json', 'lint.json', 'lint.json']);
    expect([code, report.command, report.answers.nothingLeaked.answer]).toEqual([1, 'show', 'no']);
    const codes = report.findings.map((one: { code: string }) => one.code);
    expect(codes).toEqual(expect.arrayContaining(['leak/known-value', 'code/unknown-name']));
    expect(codes.filter((one: string) => one === 'code/unknown-name')).toHaveLength(1);
    const { error, warning, note } = report.summary;
    expect(error + warning + note).toBe(codes.length);
  });

  test.each([
    ['missing.json', undefined, /missing\.json does not exist/],
    ['text.json', 'no json', /text\.json is not valid JSON/],
    ['other.json', '{"a":1}', /other\.json is not a report of Adder/],
    ['new.json', '{"report":99,"kind":"findings"}', /is a report of version 99, and this Adder reads version 1/],
    [
      'broken.json',
      '{"report":1,"kind":"findings","command":"lint","findings":3}',
      /broken\.json is not a report of Adder: /,
    ],
  ])('%s is an error', (name, text, message) => {
    const project = ferryProject(text === undefined ? {} : { [name]: text });
    const { code, stderr } = project.adder(['show', name]);
    expect(code).toBe(2);
    expect(stderr).toMatch(message);
  });

  test('reports of values are shown, not merged', () => {
    const project = ferryProject();
    project.adder(['values', 'production', '--format', 'json', '--save', 'v.json']);
    expect(project.adder(['show', 'v.json']).stdout).toBe(project.adder(['values', 'production']).stdout);
    expect(project.adder(['show', 'v.json', 'v.json']).stderr).toMatch(/cannot be merged with others/);
  });
});
