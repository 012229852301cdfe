import { cpSync, rmSync } from 'node:fs';
import { afterEach, expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';
import { build, envFile, probed, shop } from '../support/shop.js';
import { MadeUpSite } from '../support/site.js';

const OLD = '8f2c71d05be94a36c7d1e08b5f3a92647c1d0e5b';
const NEW = 'b47e09c2f86d1a53e9c0743d6f1b8a25d0e94c67';
const TOKEN = 'Qm7xT2vN9kLp4Rz8Ws3dYb6H';
const API = 'w4Kz9Tq2Lr7Vn5Xc8Jp3Gm6D';

let site: MadeUpSite;
afterEach(() => site?.stop());

const envWith = (FARE_SIGNING_KEY: string) =>
  envFile({ FARE_SIGNING_KEY, SOURCE_MAP_UPLOAD_TOKEN: TOKEN, API_TOKEN: API });

/** A shop whose signing key was replaced after a build, and a pipeline that has the history and the key alone. */
function rotated(): { project: TestProject; pipeline: TestProject; key: string } {
  const project = shop({ '.env.production': envWith(OLD) });
  build(project);
  expect(project.adder(['retire', 'FARE_SIGNING_KEY', '--because', 'rotated']).code).toBe(0);
  project.write('.env.production', envWith(NEW));
  build(project);
  const pipeline = new TestProject({
    'adder.yaml': project.read('adder.yaml'),
    'src/main.ts': '',
    '.env.production': "FERRY_API_URL='https://api.saltmarsh.example'\n",
  });
  cpSync(project.path('.adder/history'), pipeline.path('.adder/history'), { recursive: true });
  return { project, pipeline, key: project.read('.adder/key').trim() };
}

test('a site that still serves a replaced key is found by a pipeline that never had it', async () => {
  const { pipeline, key } = rotated();
  site = await MadeUpSite.start({
    '/': '<script src="/partner.js"></script><script src="/clean.js"></script>',
    '/partner.js': { body: `load(atob("${btoa(`{"key":"${OLD}"}`)}"))` },
    '/clean.js': { body: 'load("https://api.saltmarsh.example/fares")' },
  });
  const { ran, report, found } = await probed(pipeline, site, ['--stage', 'production'], { env: { ADDER_KEY: key } });
  expect([ran.code, found]).toEqual([1, ['leak/known-value FARE_SIGNING_KEY /partner.js']]);
  expect(report.findings[0].message).toMatch(
    /a past value of FARE_SIGNING_KEY \(recorded on .*, replaced on .*: rotated\)/,
  );
  pipeline.expectNone([OLD, NEW, TOKEN, API], ran);

  site.files = { '/': '<script src="/clean.js"></script>', '/clean.js': site.files['/clean.js'] as string };
  const clean = await probed(pipeline, site, ['--stage', 'production'], { env: { ADDER_KEY: key } });
  expect(clean.answers[0]).toBe('yes');
  expect(clean.report.answers.nothingLeaked.of).toMatch(
    /recorded up to .* \(API_TOKEN by history, 1 value; FARE_SIGNING_KEY by history, 2 values; SOURCE_MAP_UPLOAD_TOKEN by history, 1 value\)/,
  );
  // Without the key, nothing is known of the site.
  const closed = await probed(pipeline, site, ['--stage', 'production']);
  expect(closed.answers[0]).toBe('not known');
});

test('the history names the site that serves a build', async () => {
  const project = shop({ '.env.production': envWith(OLD) });
  const older = build(project);
  rmSync(project.path('dist'), { recursive: true });
  project.write('.env.production', envWith(NEW).replace('api.saltmarsh', 'tariffs.saltmarsh'));
  const newer = build(project);
  site = await MadeUpSite.start(older);
  const servedAt = () =>
    project.json(['history']).report.builds.map((one: { servedAt?: string }) => one.servedAt ?? 'nowhere');
  expect(servedAt()).toEqual(['nowhere', 'nowhere']);
  await probed(project, site);
  expect(servedAt()).toEqual(['nowhere', `${site.url}/`]);
  site.files = newer;
  await probed(project, site);
  expect(servedAt()).toEqual([`${site.url}/`, 'nowhere']);
});
