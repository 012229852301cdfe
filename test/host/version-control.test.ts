import { spawnSync } from 'node:child_process';
import { chmodSync, existsSync, mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import {
  blobSizes,
  blobsOf,
  changedSince,
  commitsWith,
  ignoredAmong,
  readBlobs,
  touchesOf,
  trackedFiles,
  trackingOf,
  visibleFiles,
} from '../../src/host/version-control.js';

/** A repository whose own configuration names a program wherever git would run one. */
function hostileRepository(): { folder: string; mark: string } {
  const folder = mkdtempSync(join(tmpdir(), 'adder-git-'));
  const mark = join(folder, 'ran');
  const git = (...args: string[]) =>
    spawnSync('git', ['-c', 'user.name=n', '-c', 'user.email=e@x.test', ...args], { cwd: folder });
  const script = join(folder, 'script');
  writeFileSync(script, `#!/bin/sh\ntouch ${mark}\nexit 1\n`);
  chmodSync(script, 0o755);
  git('init', '-q');
  writeFileSync(join(folder, 'a.txt'), 'a\n');
  writeFileSync(join(folder, '.gitattributes'), '*.txt filter=own diff=own\n');
  git('add', '.');
  git('commit', '-qm', 'x');
  for (const [key, value] of [
    ['core.fsmonitor', script],
    ['core.hooksPath', folder],
    ['core.pager', script],
    ['core.alternateRefsCommand', script],
    ['filter.own.clean', script],
    ['filter.own.smudge', script],
    ['filter.own.process', script],
    ['filter.own.required', 'true'],
    ['diff.external', script],
    ['diff.own.textconv', script],
    ['diff.own.command', script],
    ['log.showSignature', 'true'],
    ['gpg.program', script],
  ])
    git('config', key as string, value as string);
  for (const hook of ['post-index-change', 'pre-auto-gc', 'reference-transaction']) {
    writeFileSync(join(folder, hook), `#!/bin/sh\ntouch ${mark}\n`);
    chmodSync(join(folder, hook), 0o755);
  }
  writeFileSync(join(folder, 'a.txt'), 'b\n');
  return { folder, mark };
}

test('no question to git runs a program that the repository names', async () => {
  const { folder, mark } = hostileRepository();
  expect(trackingOf(join(folder, 'a.txt'))).toBe('tracked');
  expect(trackedFiles(folder)).toContain('a.txt');
  expect(visibleFiles(folder)).toContain('script');
  expect([...changedSince('HEAD', folder)]).toContain('a.txt');
  ignoredAmong(folder, ['a.txt']);
  expect(touchesOf(folder, ['a.txt'])).toHaveLength(1);
  const ids = blobsOf(folder).map(({ id }) => id);
  expect(blobSizes(folder, ids).some((size) => size > 0)).toBe(true);
  await readBlobs(folder, ids, () => undefined);
  for (const id of ids) commitsWith(folder, id);
  expect(existsSync(mark)).toBe(false);
  // The same questions, asked without care, do run one.
  spawnSync('git', ['status'], { cwd: folder, timeout: 20_000, stdio: 'ignore' });
  expect(existsSync(mark)).toBe(true);
});
