import { spawnSync } from 'node:child_process';
import { describe, expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';

const key = ['k3rr9x0', 'pilot', '0pposite', 'landing'].join('-');
const build = `import { mkdirSync, writeFileSync } from 'node:fs';
mkdirSync('dist', { recursive: true });
writeFileSync('dist/app.js', JSON.stringify([process.env.VITE_API_URL, process.env.SESSION_KEY]));
`;

/** Two browser packages that give one name different values, and a server package with a secret. */
function monorepo(): TestProject {
  const front = (name: string) => ({
    [`${name}/package.json`]: JSON.stringify({
      name,
      dependencies: { vite: '8' },
      scripts: { build: 'node build.mjs' },
    }),
    [`${name}/build.mjs`]: build,
    [`${name}/src/main.js`]: 'export const api = import.meta.env.VITE_API_URL;\n',
    [`${name}/.env.development`]: `VITE_API_URL=https://${name}.saltmarsh.test\n`,
    [`${name}/.env.production`]: `VITE_API_URL=https://${name}.saltmarsh.example\n`,
  });
  return new TestProject({
    ...front('desk'),
    ...front('office'),
    'quay/package.json': '{ "name": "quay", "dependencies": { "express": "5" } }',
    'quay/src/main.js': 'start(process.env.SESSION_KEY);\n',
    'quay/.env': `SESSION_KEY=${key}\n`,
  });
}

function drafted(): TestProject {
  const project = monorepo();
  expect(project.adder(['draft'])).toMatchObject({ code: 0 });
  return project;
}

describe('a monorepo whose packages give one name different values', () => {
  test('the draft gives each bundle the files of its package, and is clean', () => {
    const project = drafted();
    const contract = project.read('adder.yaml');
    expect(contract).toContain('layers: { development: [desk/.env.development], production: [desk/.env.production] }');
    expect(contract).toContain('production: { layers: [process] }');
    expect(contract).toContain('VITE_API_URL: { reach: public, form: url, bundles: [desk, office],');
    expect(contract).toContain('SESSION_KEY: { reach: server, bundles: [quay] }');
    const { code, report } = project.json(['values', '--all']);
    expect([code, report.findings]).toEqual([0, []]);
    expect(report.stages[1]).toMatchObject({
      stage: 'production',
      values: [
        { name: 'VITE_API_URL', bundle: 'desk', value: 'https://desk.saltmarsh.example' },
        { name: 'VITE_API_URL', bundle: 'office', value: 'https://office.saltmarsh.example' },
        { name: 'SESSION_KEY', bundle: 'quay', state: 'set' },
      ],
    });
  });

  test('each build gets the values of its bundle, chosen by name or by directory', () => {
    const project = drafted();
    const built = (name: string) => JSON.parse(project.read(`${name}/dist/app.js`));
    project.adder(['with', 'production', '--bundle', 'desk', '--', 'npm', '--prefix', 'desk', 'run', 'build']);
    project.adder(['with', 'production', '--', 'node', 'build.mjs'], {}, { cwd: project.path('office') });
    expect([built('desk'), built('office')]).toEqual([
      ['https://desk.saltmarsh.example', null],
      ['https://office.saltmarsh.example', null],
    ]);
    expect(project.adder(['with', 'production', '--', 'true'])).toMatchObject({
      code: 2,
      stderr: expect.stringContaining('choose one: --bundle desk|office|quay'),
    });
    expect(project.json(['inspect'])).toMatchObject({ code: 0, report: { findings: [], coverage: { files: 2 } } });
  });

  test("inspect finds another package's secret and another stage's value of this package", () => {
    const project = drafted();
    project.write(
      'desk/dist/app.js',
      JSON.stringify(['https://desk.saltmarsh.test', 'https://office.saltmarsh.example']),
    );
    project.write('office/dist/app.js', JSON.stringify([key, 'https://office.saltmarsh.example']));
    const { report } = project.json(['inspect', '--stage', 'production']);
    expect(report.findings).toMatchObject([
      { code: 'stage/foreign-value', variable: 'VITE_API_URL', place: { path: 'desk/dist/app.js' } },
      { code: 'leak/known-value', variable: 'SESSION_KEY', bundle: 'office', place: { path: 'office/dist/app.js' } },
    ]);
  });

  test('a value that one package lacks is reported for its bundle alone', () => {
    const project = drafted();
    project.write('office/.env.production', '');
    const { report } = project.json(['values', 'production']);
    expect(report.findings).toMatchObject([{ code: 'value/missing', variable: 'VITE_API_URL', bundle: 'office' }]);
    expect(
      project.adder(
        ['fill', 'production', '--from-stdin', 'VITE_API_URL', '--bundle', 'office'],
        {},
        {
          input: 'https://office.saltmarsh.example\n',
        },
      ),
    ).toMatchObject({ code: 0 });
    expect(project.read('office/.env.production')).toBe('VITE_API_URL=https://office.saltmarsh.example\n');
  });

  test('needs of a bundle are of its own variables', () => {
    const project = drafted();
    project.write('.gitignore', '.env*\n');
    const needs = (bundle: string) =>
      project.adder(['emit', 'needs', '--stage', 'production', '--bundle', bundle]).stdout.match(/[A-Z]+_[A-Z_]+/g);
    spawnSync('git', ['init', '-q'], { cwd: project.folder });
    expect([needs('desk'), needs('quay')]).toEqual([['VITE_API_URL'], ['SESSION_KEY']]);
  });

  test('compare and why keep the bundles apart', () => {
    const project = drafted();
    const { report } = project.json(['compare', 'development', 'production']);
    expect(report.compared.map((row: { name: string; bundle: string }) => `${row.name} ${row.bundle}`)).toEqual([
      'VITE_API_URL desk',
      'VITE_API_URL office',
      'SESSION_KEY quay',
    ]);
    expect(project.adder(['why', 'VITE_API_URL']).stdout).toContain(
      'production (office)  set  https://office.saltmarsh.example',
    );
  });

  test('layers of an unknown stage are a mistake in the contract', () => {
    const project = drafted();
    project.write('adder.yaml', project.read('adder.yaml').replace('layers: { development:', 'layers: { devlopment:'));
    expect(project.adder(['values', '--all'])).toMatchObject({
      code: 2,
      stdout: expect.stringContaining('unknown stage "devlopment"'),
    });
  });
});
