import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { encodings } from '../../src/core/needles/index.js';
import { layOut } from '../../src/demo/layout.js';
import { bareEnvironment, TestProject } from '../support/adder.js';

test('the package installs into an empty directory and runs there, as a program and as a typed library', () => {
  const repository = join(import.meta.dirname, '../..');
  const npmSettings = Object.fromEntries(
    ['HOME', 'npm_config_cache', 'npm_config_registry'].flatMap((name) =>
      process.env[name] ? [[name, process.env[name] as string]] : [],
    ),
  );
  const home = new TestProject({ 'package.json': '{ "type": "module" }' });
  const npm = (args: string[], cwd: string) => {
    const { status, stdout, stderr } = spawnSync('npm', args, {
      cwd,
      // The parser and the resolver come from npm, so its own settings and cache are used, and nothing else of this call.
      env: bareEnvironment(npmSettings),
      encoding: 'utf8',
    });
    expect(status, stdout + stderr).toBe(0);
    return stdout;
  };
  npm(['pack', '--ignore-scripts', '--pack-destination', home.folder], repository);
  npm(['install', '--prefer-offline', '--no-audit', './adder-0.1.0.tgz'], home.folder);
  expect(npm(['exec', '--offline', 'adder', '--', '--version'], home.folder)).toBe('0.1.0\n');
  home.write(
    'use.mjs',
    `import { parseEnvFile } from 'adder/core';\nconsole.log(parseEnvFile(Buffer.from('A=b')).entries[0].name);`,
  );
  home.write(
    'use.ts',
    `import { type FindingsReport, inspect, mergeReports, parseEnvFile, type Level } from 'adder/core';\nexport const level: Level = 'error';\nexport const report: Promise<FindingsReport> = inspect({ contract: '', stage: 'x', layers: {}, artifacts: [{ path: 'a.js', bytes: '' }] });\nexport const merged = async () => mergeReports([await report], '2026-01-01').answers?.nothingLeaked.answer === 'yes';\nexport const name: string | undefined = parseEnvFile(new Uint8Array()).entries[0]?.name;`,
  );
  expect(spawnSync(process.execPath, ['use.mjs'], { cwd: home.folder, encoding: 'utf8' }).stdout).toBe('A\n');
  const tsc = [
    join(repository, 'node_modules/.bin/tsc'),
    '--noEmit',
    '--strict',
    '--skipLibCheck',
    'false',
    '--module',
    'nodenext',
    '--types',
    '',
    'use.ts',
  ];
  expect(spawnSync(process.execPath, tsc, { cwd: home.folder, encoding: 'utf8' }).stdout).toBe('');
  const shipped = [...home.written('node_modules/adder')].map(([, text]) => text).join('');
  expect(shipped).toContain('Saltmarsh');
  const demo = new TestProject().path('ferries');
  layOut(join(repository, 'src/demo/ferries'), demo);
  for (const name of ['.env', '.env.production', '.env.staging', '.env.development']) {
    for (const value of readFileSync(join(demo, name), 'utf8').match(/(?<=(KEY|TOKEN|DATABASE_URL)=).{24,}/g) ?? []) {
      if (value.includes('tiles')) continue;
      for (const bytes of encodings.flatMap(({ encode }) => [...encode(value)]))
        expect(shipped.includes(Buffer.from(bytes).toString('latin1'))).toBe(false);
    }
  }
});
