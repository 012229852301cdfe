import { existsSync, symlinkSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { parse } from 'yaml';
import { secrets, TestProject } from '../support/adder.js';

/** A site whose own script reads the env file, and puts what it finds into constants and a page. */
const site = {
  'package.json':
    '{ "name": "site", "type": "module", "scripts": { "build": "node scripts/build.mjs" }, "devDependencies": { "esbuild": "1" } }',
  '.env': `FERRY_API_URL=https://api.saltmarsh.example
SITE_TITLE=Saltmarsh Ferries
SITE_MAP_KEY=mk-9f8a7b6c5d4e3f2a1b0c
FERRY_SIGNING_SECRET=${secrets.FARE_SIGNING_KEY}
FERRY_UNUSED_PIER=north-quay-of-the-island
`,
  'src/app.js': 'fetch(__FERRY_API_URL__, { headers: { key: __SITE_MAP_KEY__ } }); console.log(__BUILD__);\n',
  'scripts/build.mjs': `import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { build } from 'esbuild';
const env = Object.fromEntries(readFileSync('.env', 'utf8').split('\\n').map((line) => line.split('=')));
const define = { __BUILD__: JSON.stringify(process.env[['BUILD', 'NUMBER'].join('_')] ?? 'dev') };
for (const [name, value] of Object.entries({ ...env, ...process.env })) if (/^(SITE|FERRY)_/.test(name)) define['__' + name + '__'] = JSON.stringify(value);
await build({ entryPoints: ['src/app.js'], bundle: true, outdir: 'public/assets', define });
mkdirSync('public', { recursive: true });
writeFileSync('public/index.html', '<title>' + env.SITE_TITLE + '</title>');
`,
};

function drafted(files: Record<string, string>, ...words: string[]) {
  const project = new TestProject(files).withPackages();
  const ran = project.adder(['draft', '--trial', '--format', 'json', ...words, '--', 'npm', 'run', 'build']);
  expect(ran.code, ran.stderr).toBe(0);
  const contract = parse(project.read('adder.yaml'));
  const reachOf = (name: string) => contract.variables[name]?.reach ?? contract.variables[name];
  return { project, contract, reachOf, report: JSON.parse(ran.stdout), ran };
}

describe('a draft by a trial of a build script', () => {
  const { project, contract, reachOf, report, ran } = drafted(site);
  const undecided = (variable: string) =>
    report.findings.filter((one: { variable?: string }) => one.variable === variable);

  test('what arrives in a script or a page is public', () => {
    expect(['FERRY_API_URL', 'SITE_TITLE'].map(reachOf)).toEqual(['public', 'public']);
  });

  test('a name that only the running build tells is in the contract', () => {
    expect(reachOf('BUILD_NUMBER')).toBe('public');
  });

  test('what arrives under a secret name is server, and a person decides', () => {
    expect(reachOf('SITE_MAP_KEY')).toBe('server');
    expect(undecided('SITE_MAP_KEY')).toEqual([
      expect.objectContaining({
        message: expect.stringMatching(/^SITE_MAP_KEY arrives in public\/assets\/app\.js, as a trial build shows, but/),
      }),
    ]);
  });

  test('what the configuration offers and no code takes is not public by a guess', () => {
    expect(reachOf('FERRY_UNUSED_PIER')).toBe('server');
    expect(project.read('adder.yaml')).toMatch(/but a trial build\s+(#\s+)?has it nowhere/);
  });

  test('a secret that arrives nowhere is no item to decide', () => {
    expect([reachOf('FERRY_SIGNING_SECRET'), undecided('FERRY_SIGNING_SECRET')]).toEqual(['server', []]);
  });

  test('the output is where the build wrote, and the build is the command', () => {
    expect(contract.bundles.site).toMatchObject({ output: ['public'], build: 'npm run build' });
  });

  test('no value and no made-up one is in what it says', () => {
    project.expectNone(Object.values(secrets), ran);
    expect(ran.stdout + project.read('adder.yaml')).not.toMatch(/t[a-z][a-z0-9]{19}|\.invalid/);
  });

  test('its trial then agrees with it, but for what is to decide', () => {
    const { stdout } = project.adder(['trial', 'production', '--format', 'json']);
    const findings = JSON.parse(stdout).findings.map(({ code, variable }: Record<string, string>) => [code, variable]);
    expect(findings).toEqual([['trial/lets-out', 'SITE_MAP_KEY']]);
  });
});

test('a file that the tool does not load, and a name without the prefix', () => {
  const project = new TestProject({
    'package.json': '{ "name": "desk", "type": "module", "devDependencies": { "vite": "1" } }',
    'index.html': '<!doctype html><script type="module" src="/src/main.js"></script>',
    'src/main.js': 'console.log(import.meta.env.VITE_PIER, __QUAY__);',
    'vite.config.js':
      "import { readFileSync } from 'node:fs';\nexport default { define: { __QUAY__: JSON.stringify(/QUAY=(.*)/.exec(readFileSync('.env', 'utf8'))[1]) } };",
    '.env': 'VITE_PIER=north-pier-of-the-island\nQUAY=quay-of-the-fishermen-12\n',
  });
  symlinkSync(join(import.meta.dirname, '../../node_modules'), project.path('node_modules'));
  const ran = project.adder(['draft', '--trial', '--', 'node', 'node_modules/vite/bin/vite.js', 'build']);
  expect(ran.code, ran.stderr).toBe(0);
  const { variables } = parse(project.read('adder.yaml'));
  expect(variables).toEqual({ VITE_PIER: 'public', QUAY: { reach: 'public', names: { desk: 'QUAY' } } });
});

test('a command without --trial is an error, and nothing is written', () => {
  const project = new TestProject(site);
  const { code, stderr } = project.adder(['draft', '--', 'npm', 'run', 'build']);
  expect([code, stderr]).toEqual([2, expect.stringContaining('add --trial')]);
  expect(existsSync(project.path('adder.yaml'))).toBe(false);
});

test('a build that fails leaves no contract', () => {
  const project = new TestProject({ ...site, 'scripts/build.mjs': 'process.exit(3)' }).withPackages();
  const { code, stderr } = project.adder(['draft', '--trial']);
  expect([code, stderr]).toEqual([
    1,
    expect.stringContaining('the build failed with made-up values, with exit code 3'),
  ]);
  expect(existsSync(project.path('adder.yaml'))).toBe(false);
});
