import { existsSync, mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { type Ran, TestProject } from '../support/adder.js';

/** Plays a story of the demo. A value of the shell must not get into it. */
function told(story: string): Ran & { folder: string } {
  const folder = join(mkdtempSync(join(tmpdir(), 'adder-demo-')), 'ferries');
  const env = { FERRY_API_URL: 'https://elsewhere.example', VITE_FERRY_API_URL: 'https://elsewhere.example' };
  const ran = new TestProject().adder(['demo', folder, '--story', story], env, { timeout: 240_000 });
  expect(ran.code, ran.stdout + ran.stderr).toBe(0);
  expect(ran.stdout + ran.stderr).not.toContain('the demo expected');
  return { ...ran, folder };
}

function exitCodes({ stdout }: Ran): number[] {
  return [...stdout.matchAll(/^exit code (\d+)/gm)].map(([, code]) => Number(code));
}

test('build: the whole story, and no secret of it', () => {
  const { folder, ...ran } = told('build');
  expect(exitCodes(ran)).toEqual([1, 1, 0, 1, 0, 0, 1, 0, 0]);
  expect(ran.stdout).toContain('signing fares with FARE_SIGNING_KEY=[masked]');
  const values =
    readFileSync(join(folder, '.env.production'), 'utf8').match(/(?<=(KEY|TOKEN)=)made-up-(fare|upload).*/g) ?? [];
  expect(values).toHaveLength(2);
  const project = new TestProject();
  project.expectNone(values, ran);
  expect(project.adder(['demo', folder])).toMatchObject({ code: 2, stderr: expect.stringContaining('is not empty') });
});

test('adopt: from a project without a contract to a clean gate', () => {
  expect(exitCodes(told('adopt'))).toEqual([0, 1, 0, 1, 1, 0, 0]);
});

test.each(['promote', 'ship'])('%s: each command ends as the story says', (story) => {
  expect(exitCodes(told(story)).length).toBeGreaterThan(3);
});

test('lint: the story has a finding of each kind', () => {
  const codes = new Set(told('lint').stdout.match(/(?:code|repo)\/[\w-]+/g));
  const code = [
    'server-read',
    'unknown-name',
    'unreachable-read',
    'whole-object',
    'hard-coded',
    'fallback',
    'switched-by-comment',
    'secret-in-code',
    'unused',
  ];
  const repository = ['tracked', 'in-history', 'example-drift', 'packed', 'pipeline-gap', 'literal-in-pipeline'];
  expect([...codes]).toEqual(
    expect.arrayContaining([...code.map((name) => `code/${name}`), ...repository.map((name) => `repo/${name}`)]),
  );
});

test('mobile: the story of an app whose compiler takes the values from a file', () => {
  const { folder, stdout, stderr } = told('mobile');
  expect(stderr).toContain('the run configurations in .vscode were written');
  expect(stdout).toContain('deckhand contained the value of FERRY_API_URL when it was built, but no longer does');
  expect(stdout + stderr).not.toContain('made-up-fare');
  const launch = JSON.parse(readFileSync(join(folder, '.vscode/launch.json'), 'utf8'));
  expect(launch.configurations.map(({ name }: { name: string }) => name)).toEqual([
    'deckhand (development)',
    'deckhand (staging)',
    'deckhand (production)',
  ]);
  // Native code is stored in the package as it is.
  const app = readFileSync(join(folder, 'deckhand/build/deckhand.apk'), 'latin1');
  expect(app).toContain('\0https://api.saltmarsh.example\0');
  expect(stdout).toContain('deckhand/build/deckhand.apk » assets/settings.env');
  expect(stdout).toContain('→ remove the env file from what ships');
});

test('serve: the story of a served site, from a misspelt name on the host to a clean gate', () => {
  const { folder, ...ran } = told('serve');
  for (const text of [
    'harbour has FARE_SIGNING_KY, but the running server reads FARE_SIGNING_KEY',
    'set on harbour: FARE_SIGNING_KEY, LEDGER_DATABASE_URL',
    'serve/cross-origin',
    'rebuild   SEASON: inlined',
    'this file is of an older build',
    'if it asks for a login, pass --site-header or --cookie',
  ])
    expect(ran.stdout).toContain(text);
  expect(ran.stderr).toMatch(/trying again in/);
  // The project's own secrets are in its files only.
  for (const secret of ['fare-signing-key-of-production', 'made-up-ledger-word'])
    expect(ran.stdout + ran.stderr).not.toContain(secret);
  expect(existsSync(join(folder, 'host-urls.json'))).toBe(true);
});

test('trial: the story of a configuration that passes a secret on', () => {
  const { stdout, stderr } = told('trial');
  expect(exitCodes({ stdout } as Ran)).toEqual([0, 1, 0]);
  expect(stdout).toMatch(
    /puts FARE_SIGNING_KEY, a server-only variable, into\s+web\/dist\/assets\/index-.*its value came from \.env\.production:4/,
  );
  expect(stdout).toMatch(/SEASON +public .*index-\*\.js \(differs\)/);
  expect(stdout + stderr).not.toContain('made-up-fare');
});
