import { expect, test } from 'vitest';
import { rulesOf } from '../../src/core/contract/rules.js';
import { findingsReport } from '../../src/core/report/findings.js';
import { realWorld } from '../../src/host/world.js';
import { inspect } from '../../src/project/inspect.js';
import { checkCode } from '../../src/project/lint.js';
import { openProject } from '../../src/project/open.js';
import { checkBuild } from '../../src/project/preflight.js';
import { checkValues } from '../../src/project/values.js';
import { secrets } from '../support/adder.js';
import { MemoryFiles } from '../support/memory-files.js';

const contract = `adder: 1
stages: { production: { layers: [.env.production] } }
bundles: { desk: { toolchain: vite, code: [src], output: [dist] } }
variables: { FARE_SIGNING_KEY: server, API_URL: { reach: public, form: url } }
accept: [{ finding: code/hard-coded, because: moved next week, until: 2099-01-01 }]
`;

const files = new MemoryFiles({
  '/quay/adder.yaml': contract,
  '/quay/.env.production': `FARE_SIGNING_KEY=${secrets.FARE_SIGNING_KEY}\nAPI_URL=no-url\n`,
  '/quay/src/main.ts': 'console.log(import.meta.env.VITE_API_URl);\n',
  '/quay/dist/main.js': `const key = "${secrets.FARE_SIGNING_KEY}";\n`,
});

test('any checks join in one report, which judges once', async () => {
  const world = { ...realWorld(), files, cwd: '/quay' };
  const project = openProject(world);
  const checks = [
    checkValues(project, {}, world),
    checkBuild(project, { stage: 'production' }, world),
    await checkCode(project, { bundles: [...project.contract.bundles.values()] }, world),
    await inspect(project, { stage: 'production', paths: [], caches: false, packages: false }, world),
  ];
  const { findings, coverage } = findingsReport({ command: 'check' }, checks, rulesOf(project.contract), '2026-11-27');
  expect(new Set(findings.map(({ code }) => code))).toEqual(
    new Set(['code/unknown-name', 'code/unused', 'contract/unused-acceptance', 'leak/known-value', 'value/malformed']),
  );
  expect(findings.filter(({ code }) => code === 'contract/unused-acceptance')).toHaveLength(1);
  expect(coverage?.files).toBe(2);
  expect(JSON.stringify(findings)).not.toContain(secrets.FARE_SIGNING_KEY);
});
