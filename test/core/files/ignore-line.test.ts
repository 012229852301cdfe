import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { ignoreLineFor } from '../../../src/core/files/ignore-line.js';

test.each([
  '.env',
  'apps/web/.env.local',
  '../.env',
  '../../shared/.env',
  '#a.env',
  '!a.env',
  'a[1]*?.env',
  String.raw`a\b.env`,
  'a .env  ',
])('the line for %s makes git ignore it, and not its neighbours', (path) => {
  const top = mkdtempSync(join(tmpdir(), 'adder-ignore-'));
  const folder = join(top, 'one/two');
  mkdirSync(folder, { recursive: true });
  execFileSync('git', ['init', '-q'], { cwd: top });
  const { line, file } = ignoreLineFor(path);
  writeFileSync(join(folder, file), `${line}\n`);
  const { stdout } = spawnSync('git', ['check-ignore', '-z', '--stdin'], {
    cwd: folder,
    input: [path, 'x.ts', 'ab1c.env'].join('\0'),
    encoding: 'utf8',
  });
  expect(stdout).toBe(`${path}\0`);
});
