import { appendFileSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from 'vitest';
import { emitKinds } from '../../src/core/emit/index.js';
import { brokenProjects, layOutBroken, SECRET } from './broken.js';
import { theCaller } from './call.js';
import { isThorough } from './runs.js';

const folders = mkdtempSync(join(tmpdir(), 'adder-broken-'));
afterAll(() => rmSync(folders, { recursive: true, force: true }));

/** Every command, in every way that reads something. None of them asks. */
export const calls: readonly string[][] = [
  [],
  ['overview', '--format', 'json'],
  ['draft', '--dry-run'],
  ['draft', '--dry-run', '--merge'],
  ['values', 'production'],
  ['values', '--all'],
  ['values', 'production', '--format', 'json'],
  ['values', 'production', '--format', 'sarif'],
  ['why', 'FARE_SIGNING_KEY'],
  ['why', 'constructor', '--format', 'json'],
  ['compare', 'staging', 'production'],
  ['compare', 'newest', 'production'],
  ['compare', 'previous', 'newest', '--format', 'json'],
  ['fill', 'production'],
  ['accept', '--all', '--because', 'found on the first day', '--dry-run'],
  ['accept', 'abcd1234', '--because', 'x'],
  ['lint'],
  ['lint', '--format', 'json'],
  ['lint', '--format', 'sarif'],
  ['lint', '--fix', '--dry-run'],
  ['lint', '--explain', 'constructor'],
  ...emitKinds.map(({ name }) => ['emit', name, '--stage', 'production']),
  ['with', 'production', '--show-env'],
  ['with', 'production', '--show-env', '--format', 'json'],
  ['with', 'production', '--quiet', '--', process.execPath, '-e', ''],
  ['with', 'production', '--quiet', '--bundle', 'constructor', '--', process.execPath, '-e', ''],
  ['trial', 'production', '--', process.execPath, '-e', ''],
  ['trial', 'production', '--format', 'html', '--real', 'constructor', '--', process.execPath, '-e', ''],
  ['history'],
  ['history', 'constructor', '--format', 'html'],
  ['retire', 'FARE_SIGNING_KEY', '--because', 'constructor'],
  ['key'],
  ['key', '--rotate'],
  ['inspect', '--stage', 'production'],
  ['inspect', '--format', 'json'],
  ['inspect', '--stage', 'production', '--format', 'sarif'],
  ['inspect', '--stage', 'production', '--format', 'html'],
  ['inspect', '--stage', 'production', '--format', 'markdown', '--contents'],
  ['inspect', '--stage', 'production', '--shard', '1/2', '--format', 'junit'],
  ['lint', '--format', 'code-quality', '--annotations', 'azure'],
  ['show', 'package.json', '.env'],
  ['gate', 'production'],
  ['probe', 'http://127.0.0.1:17999/', '--stage', 'production'],
  ['handoff', 'production'],
  ['handoff', 'production', '--apply', '--dry-run', '--format', 'json'],
  ['gate', 'staging', '--format', 'json'],
];

/** Part of the secret that is visible: eight characters in a row are too much. */
function pieceSeen(out: string): string | undefined {
  for (let start = 0; start + 8 <= SECRET.length; start++)
    if (out.includes(SECRET.slice(start, start + 8))) return SECRET.slice(start, start + 8);
  return undefined;
}

/** With `npm run fuzz`, every project gets every call; otherwise each gets a third of them, and each call a third of the projects. */
const SHARE = isThorough ? 1 : 3;

/** Runs calls on every second broken project, so that two test files share them. @param half 0 or 1 */
export function testBroken(half: number): void {
  const projects = brokenProjects.filter((_, index) => index % 2 === half);
  describe.each(projects.map((project, index) => [project.name, project, index] as const))(
    '%s',
    (_, project, index) => {
      test('no command fails unexpectedly, shows a secret or a control character, or hangs', async () => {
        const folder = join(folders, String(index));
        layOutBroken({ ...project, files: { 'package.json': '{}', ...project.files } }, folder);
        const share = project.isSlow && !isThorough ? 4 * SHARE : SHARE;
        const env = { PATH: process.env.PATH ?? '' };
        for (const argv of calls.filter((_, call) => (call + index) % share === 0)) {
          if (process.env.TRACE_CALLS) appendFileSync(process.env.TRACE_CALLS, `${project.name}: ${argv.join(' ')}\n`);
          const { code, stdout, stderr } = await theCaller().callBeside({ cwd: folder, env, args: argv });
          const out = stdout + stderr;
          const call = `${argv.join(' ')}: ${out}`;
          expect(code, call).not.toBe(70);
          expect(pieceSeen(out), call).toBeUndefined();
          // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are the point of this test
          expect(out.match(/[\x00-\x09\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]/)?.[0], call).toBeUndefined();
        }
      }, 120_000);
    },
  );
}
