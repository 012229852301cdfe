import { cpSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { follow, isFollowed } from '../remedies/followers.js';
import type { Found } from '../remedies/found.js';
import { deskOf } from '../remedies/situation.js';
import { TestProject } from '../support/adder.js';

/** A copy of a project, to be changed. */
function copyOf(folder: string): TestProject {
  const at = new TestProject();
  cpSync(folder, at.folder, { recursive: true, verbatimSymlinks: true });
  return at;
}

function found(at: TestProject, check: readonly string[]): Found[] {
  const { findings } = at.json(check).report as { findings: Found[] };
  return findings.filter(({ level }) => level !== 'note');
}

test.each([
  ['lint', ['lint'], 11],
  ['adopt', ['lint'], 7],
  ['adopt', ['values', '--all'], 16],
] as const)('%s, %s: each remedy that needs no decision removes its finding', (story, check, number) => {
  const folder = join(mkdtempSync(join(tmpdir(), 'adder-demo-')), 'ferries');
  const played = new TestProject().adder(['demo', folder, '--story', story], {}, { timeout: 240_000 });
  expect(played.code, played.stdout + played.stderr).toBe(0);
  const before = found(copyOf(folder), check);
  const known = new Set(before.map(({ fingerprint }) => fingerprint));
  const followed = before.filter(isFollowed);
  expect(followed.length).toBeGreaterThanOrEqual(number);
  for (const one of followed) {
    const at = copyOf(folder);
    follow(deskOf(at), one);
    const wrong = found(at, check).filter(
      ({ fingerprint }) => fingerprint === one.fingerprint || !known.has(fingerprint),
    );
    expect(
      wrong.map(({ message }) => message),
      `${one.code}: ${one.remedy}`,
    ).toEqual([]);
  }
});
