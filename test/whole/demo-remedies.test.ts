import { cpSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { followers } from '../remedies/followers.js';
import { commandsOf, type Found } from '../remedies/found.js';
import { type } from '../remedies/situation.js';
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
  ['lint', ['lint']],
  ['adopt', ['lint']],
  ['adopt', ['values', '--all']],
  ['mobile', ['lint']],
] as const)('%s, %s: each remedy that needs no decision removes its finding', (story, check) => {
  const folder = join(mkdtempSync(join(tmpdir(), 'adder-demo-')), 'ferries');
  const played = new TestProject().adder(['demo', folder, '--story', story], {}, { timeout: 240_000 });
  expect(played.code, played.stdout + played.stderr).toBe(0);
  const all = found(copyOf(folder), check);
  const wrong: string[] = [];
  let applied = 0;
  for (const one of all) {
    const at = copyOf(folder);
    const known = new Set(found(at, check).map(({ fingerprint }) => fingerprint));
    const follower = followers[`${one.code} ${one.variant}`];
    const commands = commandsOf(one);
    if (!follower && commands.length === 0) {
      console.log('by hand:', one.code, one.variant, one.remedy);
      continue;
    }
    applied++;
    try {
      for (const command of commands) type(at, command);
      follower?.(
        { read: (p) => at.read(p), write: (p, text) => at.write(p, text), type: (line) => type(at, line) },
        one,
      );
    } catch (error) {
      wrong.push(`${one.code} ${one.variant}: ${(error as Error).message}`);
      continue;
    }
    const after = found(at, check);
    for (const { fingerprint, message } of after)
      if (fingerprint === one.fingerprint || !known.has(fingerprint))
        wrong.push(`${one.code} ${one.variant} (${one.remedy}): ${message}`);
  }
  console.log(story, check.join(' '), applied, 'of', all.length);
  expect(wrong).toEqual([]);
});
