import { existsSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';

test('the story of a served site: from a misspelt name on the host to a clean gate', () => {
  const folder = join(mkdtempSync(join(tmpdir(), 'adder-demo-')), 'ferries');
  const ran = new TestProject().adder(['demo', folder, '--story', 'serve'], { HOME: tmpdir() });
  expect(ran.code, ran.stdout + ran.stderr).toBe(0);
  for (const text of [
    'harbour has FARE_SIGNING_KY, but the running server reads FARE_SIGNING_KEY',
    'set on harbour: FARE_SIGNING_KEY, LEDGER_DATABASE_URL',
    'serve/cross-origin',
    'rebuild   SEASON: inlined',
    'this file is of an older build',
  ])
    expect(ran.stdout).toContain(text);
  expect(ran.stderr).toMatch(/trying again in/);
  // The project's own secrets are in its files only.
  for (const secret of ['fare-signing-key-of-production', 'made-up-ledger-word'])
    expect(ran.stdout + ran.stderr).not.toContain(secret);
  expect(existsSync(join(folder, 'host-urls.json'))).toBe(true);
});
