import { describe, expect, test } from 'vitest';
import { secrets, TestProject } from '../support/adder.js';

/** A build that replaces reads by a plugin of its own, which no model of a tool knows. */
const files = {
  'adder.yaml': `adder: 1
stages: { production: { layers: [.env] } }
bundles: { desk: { toolchain: esbuild, code: [src], output: [dist], build: node build.mjs } }
variables:
  PIER: public
  QUAY: public
  FARE_SIGNING_KEY: server
  LEDGER_PIN: server
  UPLOAD_TOKEN: { reach: build, required: false }
`,
  'package.json': '{ "type": "module", "private": true, "dependencies": { "esbuild": "1" } }',
  '.env': `PIER=north-pier-of-the-island\nQUAY=quay-of-the-fishermen\nLEDGER_PIN=4711\n`,
  'src/main.js': 'console.log(process.env.PIER);\nif (globalThis.isOpen) console.log(process.env.QUAY);\n',
  'build.mjs': `import { readFileSync } from 'node:fs';
import { build } from 'esbuild';
const env = Object.fromEntries(readFileSync('.env', 'utf8').split('\\n').map((line) => line.split('=')));
const plugin = { name: 'values', setup: (at) => at.onLoad({ filter: /main/ }, ({ path }) => ({
  contents: readFileSync(path, 'utf8').replace('process.env.PIER', JSON.stringify(env.PIER)) })) };
process.env.UPLOAD_TOKEN?.length;
await build({ entryPoints: ['src/main.js'], bundle: true, outdir: 'dist', sourcemap: true, plugins: [plugin] });
`,
};

const project = () => new TestProject(files).withPackages();

interface Found {
  code: string;
  level: string;
  variable?: string;
  message: string;
}

function json(at: TestProject, ...args: string[]) {
  const { code, stdout, stderr } = at.adderProcess([...args, '--format', 'json'], {}, { timeout: 60_000 });
  if (stdout === '') throw new Error(stderr);
  return { code, report: JSON.parse(stdout), stderr };
}

describe('lint --trial', () => {
  const at = project();
  const said = (findings: Found[]) =>
    findings
      .filter(({ code }) => /unreachable|trial/.test(code))
      .map(({ code, level, variable }) => `${level} ${code} ${variable}`);

  test('without a trial of this code, it says how to make one', () => {
    const { code, stderr } = at.adder(['lint', '--trial']);
    expect([code, stderr]).toEqual([2, expect.stringContaining('run `adder trial production`')]);
  });

  test('the trial is right about a read whose value arrived from its line, and about no other one', () => {
    expect(said(at.json(['lint']).report.findings)).toEqual([
      'warning code/unreachable-read PIER',
      'warning code/unreachable-read QUAY',
    ]);
    json(at, 'trial', 'production');
    expect(said(at.json(['lint', '--trial']).report.findings)).toEqual([
      'note trial/refutes PIER',
      'warning code/unreachable-read QUAY',
    ]);
  });

  test('a trial of other code is none', () => {
    at.write('src/main.js', 'console.log(process.env.QUAY);\n');
    expect(at.adder(['lint', '--trial']).code).toBe(2);
  });
});

describe('a kept trial', () => {
  const at = project();
  const first = json(at, 'trial', 'production');

  test('is shown again while nothing changed, and says so', () => {
    const again = json(at, 'trial', 'production');
    expect([first.report.isReused, again.report.isReused]).toEqual([false, true]);
    expect({ ...again.report, made: 0, isReused: 0 }).toEqual({ ...first.report, made: 0, isReused: 0 });
  });

  test.each<[what: string, change: () => void]>([
    ['a source', () => at.write('src/main.js', `${files['src/main.js']}\n`)],
    ['a value', () => at.write('.env', files['.env'].replace('north', 'south'))],
    ['the contract', () => at.write('adder.yaml', `${files['adder.yaml']}\n`)],
  ])('is not current after a change of %s', (_, change) => {
    change();
    expect(json(at, 'trial', 'production').report.isReused).toBe(false);
  });

  test('is built again with --again', () => {
    expect(json(at, 'trial', 'production', '--again').report.isReused).toBe(false);
  });

  test('has no value and no made-up one in it', () => {
    const [kept] = [...at.written()].filter(([path]) => path.includes('trials'));
    expect(kept?.[1]).toContain('"rows"');
    expect(kept?.[1]).not.toMatch(/north-pier|south-pier|fishermen|4711|t[a-z][a-z0-9]{19}/);
  });
});

describe('gate --trial', () => {
  const at = project();
  at.adderProcess(['with', 'production', '--', 'node', 'build.mjs'], { FARE_SIGNING_KEY: secrets.FARE_SIGNING_KEY });
  const { code, report, stderr } = json(at, 'gate', 'production', '--trial', '--allow-incomplete');

  test('says what the code keeps in, what rests on that alone, and what on nothing', () => {
    expect(report.trials).toEqual([
      {
        bundle: 'desk',
        builtAt: expect.any(String),
        keptIn: ['FARE_SIGNING_KEY'],
        letOut: [],
        unsure: [
          { name: 'LEDGER_PIN', because: 'it has no room for a made-up value' },
          { name: 'UPLOAD_TOKEN', because: expect.stringContaining('the build reads it at build.mjs:6') },
        ],
        notSearched: [
          { name: 'FARE_SIGNING_KEY', because: 'no value here' },
          { name: 'LEDGER_PIN', because: expect.stringContaining('shorter') },
          { name: 'UPLOAD_TOKEN', because: 'no value here' },
        ],
      },
    ]);
  });

  test('does not answer for what the trial cannot know', () => {
    expect(report.answers.nothingLeaked.answer).toBe('not known');
  });

  test('a leak of the code makes the gate fail, although the secret is not here', () => {
    at.write('src/main.js', "console.log(process.env.PIER, '__KEY__');\n");
    at.write(
      'build.mjs',
      files['build.mjs'].replace(
        'JSON.stringify(env.PIER))',
        "JSON.stringify(env.PIER)).replace('__KEY__', process.env.FARE_SIGNING_KEY ?? '')",
      ),
    );
    const leaking = json(at, 'gate', 'production', '--trial', '--allow-incomplete', '--fail-on', 'warning');
    expect(leaking.report.trials[0].letOut).toEqual(['FARE_SIGNING_KEY']);
    expect(leaking.code).toBe(1);
  });

  test('shows no value', () => {
    at.expectNone(Object.values(secrets), { code, stdout: JSON.stringify(report), stderr });
  });
});

test('a build that fails in a gate is an item that could not be checked', () => {
  const at = new TestProject({ ...files, 'build.mjs': 'process.exit(4)' }).withPackages();
  const { code, report } = json(at, 'gate', 'production', '--trial', '--allow-incomplete');
  expect(report.coverage.unread).toContainEqual(
    expect.objectContaining({ path: 'trial of desk', because: expect.stringContaining('with exit code 4') }),
  );
  expect(code).not.toBe(0);
});

describe('trial --twice', () => {
  const at = new TestProject({
    'adder.yaml': `adder: 1
stages: { production: { layers: [.env] } }
bundles: { desk: { toolchain: other, code: [src], output: [dist], build: node build.mjs } }
variables:
  CHART: { reach: public, form: flag }
  SEASON: { reach: public, form: { choice: [summer, winter] } }
  SEATS: { reach: public, form: integer, max: 48 }
  STRICT: { reach: public, form: flag }
`,
    '.env': 'CHART=true\nSEASON=summer\nSEATS=48\nSTRICT=true\n',
    'src/main.js': 'console.log(process.env.CHART);\n',
    'build.mjs': `import { mkdirSync, writeFileSync } from 'node:fs';
const { CHART, SEASON, STRICT } = process.env;
if (STRICT !== 'true') process.exit(1);
mkdirSync('dist', { recursive: true });
writeFileSync('dist/app-' + (CHART === 'true' ? 'a1b2c3d4' : 'e5f6a7b8') + '.js', CHART === 'true' ? 'draw()' : '');
writeFileSync('dist/season.js', 'a("' + SEASON + '")');
writeFileSync('dist/stamp.js', String(Math.random()));
`,
  });
  const arrivesIn = (report: { rows: { name: string; arrivesIn: { path: string }[]; isUnmarked: boolean }[] }) =>
    Object.fromEntries(
      report.rows.map(({ name, arrivesIn, isUnmarked }) => [
        name,
        isUnmarked ? 'not known' : arrivesIn.map(({ path }) => path),
      ]),
    );

  test('without it, nothing is known of flags, choices and numbers', () => {
    expect(new Set(Object.values(arrivesIn(json(at, 'trial', 'production').report)))).toEqual(new Set(['not known']));
  });

  test('a value that the build refuses to have otherwise is not known, and the others are', () => {
    expect(arrivesIn(json(at, 'trial', 'production', '--twice').report)).toMatchObject({
      STRICT: 'not known',
      SEASON: ['dist/season.js'],
    });
  });

  test('with it, the files that differ tell, but for a file that differs in any case', () => {
    at.write('build.mjs', at.read('build.mjs').replace(/^if.*\n/m, ''));
    expect(arrivesIn(json(at, 'trial', 'production', '--twice').report)).toEqual({
      CHART: ['dist/app-*.js'],
      SEASON: ['dist/season.js'],
      SEATS: 'not known',
      STRICT: 'not known',
    });
  });

  test('where nothing differs in any case, a value without an effect arrives nowhere', () => {
    at.write('build.mjs', at.read('build.mjs').replace(/^.*stamp.*\n/m, ''));
    expect(arrivesIn(json(at, 'trial', 'production', '--twice').report)).toMatchObject({ SEATS: [], STRICT: [] });
  });
});

test('trial --in-place builds the project itself, and changes no file but the output', () => {
  const at = project();
  const text = at.read('.env');
  const { report, stderr } = json(at, 'trial', 'production', '--in-place');
  expect([at.read('.env'), at.read('src/main.js')]).toEqual([text, files['src/main.js']]);
  expect(at.read('dist/main.js')).toContain('north-pier-of-the-island');
  expect(stderr).toContain('the output has made-up values now; build it again');
  const rowOf = (name: string) => report.rows.find((row: { name: string }) => row.name === name);
  // Its value of the file may be anywhere.
  expect(rowOf('PIER')).toMatchObject({ isUnmarked: true, setIn: ['.env:1', 'the environment'] });
  expect(report.findings.filter(({ code }: Found) => code === 'trial/absent')).toEqual([]);
  expect(rowOf('FARE_SIGNING_KEY')).toMatchObject({ setIn: ['the environment'], arrivesIn: [] });
  expect(json(at, 'trial', 'production').report.isReused).toBe(false);
});
