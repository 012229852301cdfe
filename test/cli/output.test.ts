import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { bareEnvironment, ferryProject, program, type TestProject } from '../support/adder.js';

/** Its report is larger than a pipe holds. */
function largeProject(): TestProject {
  const files = Array.from({ length: 2000 }, (_, index) => [`dist/chunk-${index}.js`, 'x()']);
  return ferryProject(Object.fromEntries(files));
}

const call = `"${process.execPath}" "${program}" inspect --stage production --format json --allow-incomplete`;

function shell(project: TestProject, script: string) {
  return spawnSync('sh', ['-c', script], {
    cwd: project.folder,
    env: bareEnvironment(),
    encoding: 'utf8',
    maxBuffer: 2 ** 26,
  });
}

describe('standard output', () => {
  const project = largeProject();
  const whole = shell(project, call).stdout;

  test('is more than a pipe holds', () => expect(whole.length).toBeGreaterThan(2 ** 17));

  test.each([
    ['a reader that is slow', `${call} | (sleep 1; cat)`],
    ['a file', `${call} > out.json; cat out.json`],
    // Node.js sets its pipe to refuse what does not fit, and a program that it starts has the same pipe.
    [
      'a pipe that refuses what does not fit',
      `"${process.execPath}" -e 'process.stdout._handle; require("child_process").spawnSync(process.execPath, process.argv.slice(1), { stdio: "inherit" })' ${call.slice(process.execPath.length + 3)} | (sleep 1; cat)`,
    ],
  ])('%s gets all of it', (_, script) => {
    const { stdout, stderr } = shell(project, script);
    expect(stderr).toBe('');
    expect(JSON.parse(stdout).answers).toEqual(JSON.parse(whole).answers);
    expect(stdout.length).toBeGreaterThan(2 ** 17);
  });

  test('a reader that has gone is no failure', () => {
    expect(shell(project, `${call} | head -c 100 | wc -c`)).toMatchObject({ stdout: '100\n', stderr: '' });
  });

  test.runIf(existsSync('/dev/full'))('a full disk is an error of one line', () => {
    const message =
      'adder: standard output cannot be written: no space left on the device\n  → make room, or write somewhere else\n';
    expect(shell(project, `${call} > /dev/full`)).toMatchObject({ stderr: message, status: 3 });
    expect(shell(project, `${call} > /dev/full 2>&1`)).toMatchObject({ stderr: '', status: 3 });
    expect(shell(project, `"${process.execPath}" "${program}" values --help > /dev/full`).status).toBe(3);
  });
});
