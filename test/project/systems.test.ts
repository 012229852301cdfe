import { describe, expect, test } from 'vitest';
import { findFiles } from '../../src/host/walk.js';
import { realWorld } from '../../src/host/world.js';
import { inspect } from '../../src/project/inspect.js';
import { checkCode } from '../../src/project/lint.js';
import { openProject, packageFolder } from '../../src/project/open.js';
import { StageResolver } from '../../src/project/resolve.js';
import { secrets } from '../support/adder.js';
import { MemoryFiles } from '../support/memory-files.js';

const contract = `adder: 1
stages: { production: { layers: [.env.production] } }
bundles: { desk: { toolchain: vite, code: [web/src], output: [web/dist] } }
variables: { FARE_SIGNING_KEY: server, API_URL: { reach: public, form: url } }
`;

/** The real world, one for all: each one listens to the process's streams. */
const real = realWorld();

/** A project in memory, with the line ends and paths of a system. */
function projectOn(system: 'windows' | 'posix', more: Readonly<Record<string, string>> = {}) {
  const [root, separator] = system === 'windows' ? ['C:\\quay\\ferries', '\\'] : ['/quay/ferries', '/'];
  const lineEnd = system === 'windows' ? '\r\n' : '\n';
  const content = {
    'adder.yaml': contract,
    '.env.production': `FARE_SIGNING_KEY=${secrets.FARE_SIGNING_KEY}\nAPI_URL=https://api.saltmarsh.example\n`,
    'web/package.json': '{}',
    'web/src/main.ts': "import { url } from './api/url.js';\nconsole.log(url);\n",
    'web/src/api/url.ts': 'export const url = import.meta.env.VITE_API_URl;\n',
    ...more,
  };
  const files = new MemoryFiles(
    Object.fromEntries(
      Object.entries(content).map(([path, text]) => [
        `${root}${separator}${path.replaceAll('/', separator)}`,
        text.replaceAll('\n', lineEnd),
      ]),
    ),
    system,
  );
  const world = { ...real, files, cwd: files.path.join(root, 'web', 'src') };
  return { root, files, world, project: openProject(world) };
}

describe.each(['windows', 'posix'] as const)('on %s', (system) => {
  test('the contract is found upward, and paths in reports have slashes', () => {
    const { root, files, project } = projectOn(system);
    expect([project.root, project.contract.path]).toEqual([root, 'adder.yaml']);
    expect(files.shown(files.path.join(root, 'web', 'dist', 'a.js'), root)).toBe('web/dist/a.js');
    expect(files.isBelow(files.path.join(root, '..', 'other'), root)).toBe(false);
    expect(packageFolder(project, 'web/src/api')).toBe('web');
  });

  test('layers are read, with their lines', () => {
    const { project, world } = projectOn(system);
    const [production] = new StageResolver(project, world).eachAlone();
    expect(production?.values.get('API_URL')).toMatchObject({
      state: 'set',
      from: { path: '.env.production', line: 2, column: 1 },
    });
  });

  test('a leak is found in an artifact, with its place', async () => {
    const { project, world } = projectOn(system, {
      'web/dist/assets/a.js': `one\nconst key = "${secrets.FARE_SIGNING_KEY}";\n`,
    });
    const { findings, coverage } = await inspect(project, { paths: [], stage: 'production' }, world);
    expect(coverage).toMatchObject({ files: 1, unread: [] });
    expect(findings.map(({ code, place }) => [code, place?.path, place?.line, place?.column])).toEqual([
      ['leak/known-value', 'web/dist/assets/a.js', 2, 14],
    ]);
  });

  test('every file is walked once, installed packages are skipped', () => {
    const { root, files } = projectOn(system, { 'node_modules/a/index.js': '' });
    const found = findFiles(files, [root]);
    expect(found.files.map(({ path }) => files.shown(path, root))).toEqual([
      ...['.env.production', 'adder.yaml', 'web/package.json', 'web/src/api/url.ts', 'web/src/main.ts'],
    ]);
    expect(found.skipped.map(({ path }) => files.shown(path, root))).toEqual(['node_modules']);
  });
});

describe('a drive and a share of Windows', () => {
  const { files } = projectOn('windows');

  test.each([
    ['D:\\out\\a.js', 'C:\\quay', false, 'D:/out/a.js'],
    ['c:\\QUAY\\a.js', 'C:\\quay', true, 'a.js'],
    ['\\\\server\\share\\a.js', '\\\\server\\share', true, 'a.js'],
    ['C:\\quay\\..\\a.js', 'C:\\quay', false, 'C:/quay/../a.js'],
  ])('%s in %s: %s', (path, root, isBelow, shown) => {
    expect([files.isBelow(path, root), files.shown(path, root)]).toEqual([isBelow, shown]);
  });
});

test('code is linted in memory', async () => {
  const { project, world } = projectOn('posix');
  const { code } = await checkCode(project, { bundles: [...project.contract.bundles.values()] }, world);
  expect([[...code.files.keys()], code.unread]).toEqual([['web/src/api/url.ts', 'web/src/main.ts'], []]);
});
