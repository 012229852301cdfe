import { describe, expect, test } from 'vitest';
import { follow, isFollowed } from '../remedies/followers.js';
import type { Found } from '../remedies/found.js';
import { deskOf } from '../remedies/situation.js';
import { TestProject } from '../support/adder.js';
import { strangers } from './all.js';

/** The commands that check a drafted project without a build. */
const checks = [['lint'], ['values', '--all']] as const;

function drafted(files: Readonly<Record<string, string>>): TestProject {
  const at = new TestProject(files);
  at.adder(['draft']);
  return at;
}

/** Errors and warnings, and notes that say something is wrong. */
function found(at: TestProject, check: readonly string[]): Found[] {
  return (at.json(check).report.findings as Found[]).filter(({ level }) => level !== 'note');
}

describe.each(strangers)('$name', ({ files }) => {
  const first = drafted(files);
  const all = checks.flatMap((check) => found(first, check).map((one) => ({ check, one })));

  test.runIf(all.length > 0)('each remedy removes its finding, and brings no other', () => {
    for (const { check, one } of all) {
      const at = drafted(files);
      const known = new Set(found(at, check).map(({ fingerprint }) => fingerprint));
      expect(isFollowed(one), `${one.code} ${one.variant}: ${one.remedy}`).toBe(true);
      follow(deskOf(at), one);
      const after = found(at, check);
      expect(after.filter(({ fingerprint }) => fingerprint === one.fingerprint)).toEqual([]);
      expect(after.filter(({ fingerprint }) => !known.has(fingerprint)).map(({ message }) => message)).toEqual([]);
    }
  });
});
