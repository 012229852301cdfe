import { spawnSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { loadEnv } from 'vite';
import { describe, expect, test } from 'vitest';
import { parseEnvFile } from '../../../src/core/envfile/parse.js';
import { otherReadings } from '../../../src/core/envfile/readers/index.js';
import { posixShell } from '../../../src/core/envfile/readers/posix-shell.js';
import { vite } from '../../../src/core/envfile/readers/vite.js';
import { readEnvFileLayer } from '../../../src/core/resolve/layers.js';
import { runs } from '../../support/runs.js';
import { inWords } from '../../support/words.js';

const SHELL = 'a POSIX shell';
const VITE = 'Vite';
const CONTAINER = "a container runtime's env-file option";
const MANAGER = "a service manager's environment file";

/** Each reader that differs on a line, with what it does and gets. */
function differing(line: string): Record<string, string> {
  const file = parseEnvFile(Buffer.from(line));
  const [entry = expect.unreachable()] = file.entries;
  const readings = otherReadings(file, entry);
  return Object.fromEntries(
    readings.map(({ reader, differences, text }) => [reader.name, `${differences.join('; ')} => ${text ?? 'unset'}`]),
  );
}

describe('what other programs make of a line', () => {
  test.each<[line: string, readings: Record<string, string>]>([
    ['A=plain', {}],
    ['A=https://a.example/x,y', {}],
    ["A='a b'", { [CONTAINER]: "keeps the quotes as part of the value => 'a b'" }],
    ['A=a b', { [SHELL]: 'stops at the space and runs the rest as a command => unset' }],
    ['A=x?a=1&b=2', { [SHELL]: 'stops at & and sets the value in the background => unset' }],
    ['A=x;y', { [SHELL]: 'stops at ; => x' }],
    ['A=x|y', { [SHELL]: 'stops at | and pipes the value => unset' }],
    ['A=x<y', { [SHELL]: 'reads < as a redirection => x' }],
    ['A=x(y', { [SHELL]: 'refuses the line at ( => unset' }],
    ['A=x)y', { [SHELL]: 'refuses the line at ) => unset' }],
    ['A=$', {}],
    [
      'export  A=x;y',
      {
        [SHELL]: 'stops at ; => x',
        [CONTAINER]: 'refuses a line that starts with export => unset',
        [MANAGER]: 'skips a line that starts with export => unset',
      },
    ],
    [
      'A=a#b #c',
      {
        [VITE]: 'takes # for the start of a comment => a',
        [CONTAINER]: 'reads the comment as part of the value => a#b #c',
        [MANAGER]: 'reads the comment as part of the value => a#b #c',
      },
    ],
    [
      'A="a\\nb"',
      {
        [SHELL]: 'does not know \\n, \\r or \\t in quotes and keeps both characters => a\\nb',
        [CONTAINER]: 'keeps the quotes as part of the value => "a\\nb"',
        [MANAGER]: 'does not know \\n, \\r or \\t and keeps both characters => a\\nb',
      },
    ],
    ["A=it's", { [SHELL]: "reads ' as the start of a quote that continues on the next lines => unset" }],
    [
      'A=a\\b',
      {
        [SHELL]: 'drops a backslash outside quotes => ab',
        [MANAGER]: 'drops a backslash outside quotes => ab',
      },
    ],
    ['A=a#b', { [VITE]: 'takes # for the start of a comment => a' }],
    [
      "A='a$B'",
      {
        [VITE]: 'expands $ in single quotes too => a\u0000',
        [CONTAINER]: "keeps the quotes as part of the value => 'a$B'",
      },
    ],
    ["A='a$'", { [CONTAINER]: "keeps the quotes as part of the value => 'a$'" }],
    ['A=~/x', { [SHELL]: 'replaces ~ with the home directory => \u0000/x' }],
    ['A=a$1', { [SHELL]: 'expands $ before a digit or punctuation => a\u0000$1' }],
    [
      'A=a # why',
      {
        [CONTAINER]: 'reads the comment as part of the value => a # why',
        [MANAGER]: 'reads the comment as part of the value => a # why',
      },
    ],
    [
      'A=${B:-c}/d',
      {
        [CONTAINER]: 'does not expand references => ${B:-c}/d',
        [MANAGER]: 'does not expand references => ${B:-c}/d',
      },
    ],
    [
      'export A=b',
      {
        [CONTAINER]: 'refuses a line that starts with export => unset',
        [MANAGER]: 'skips a line that starts with export => unset',
      },
    ],
    [
      'A=https://${B}/c',
      {
        [CONTAINER]: 'does not expand references => https://${B}/c',
        [MANAGER]: 'does not expand references => https://${B}/c',
      },
    ],
    [
      'A=$B_1x',
      {
        [CONTAINER]: 'does not expand references => $B_1x',
        [MANAGER]: 'does not expand references => $B_1x',
      },
    ],
    [
      'A=x${B:-${C:-d}}y',
      {
        [CONTAINER]: 'does not expand references => x${B:-${C:-d}}y',
        [MANAGER]: 'does not expand references => x${B:-${C:-d}}y',
      },
    ],
    [
      'A=${B:-\\}}y',
      {
        [CONTAINER]: 'does not expand references => ${B:-\\}}y',
        [MANAGER]: 'does not expand references; drops a backslash outside quotes => ${B:-}}y',
      },
    ],
    ['A=\\$5', { [CONTAINER]: 'keeps the backslash before a dollar sign => \\$5' }],
    [
      "A='\\$5'",
      {
        [VITE]: 'expands $ in single quotes too => $5',
        [CONTAINER]: "keeps the quotes as part of the value => '\\$5'",
      },
    ],
    [
      'A=\\$5$B',
      {
        [CONTAINER]: 'does not expand references => \\$5$B',
        [MANAGER]: 'does not expand references; drops a backslash outside quotes => $5$B',
      },
    ],
    [
      'A= b',
      {
        [SHELL]: 'runs the text after = as a command => unset',
        [CONTAINER]: 'keeps the white space after = =>  b',
      },
    ],
    ['A=b ', { [CONTAINER]: 'keeps the white space at the end => b ' }],
    [
      "A='b' # why",
      {
        [CONTAINER]: "keeps the quotes as part of the value; reads the comment as part of the value => 'b' # why",
        [MANAGER]: 'reads the comment as part of the value => b# why',
      },
    ],
    [
      'A="b\\\nc"',
      {
        [SHELL]: 'joins a line that ends with a backslash with the next one => bc',
        [CONTAINER]: 'keeps the quotes as part of the value; reads only the first line => "b\\',
        [MANAGER]: 'joins a line that ends with a backslash with the next one => bc',
      },
    ],
    ["A='a\nb'", { [CONTAINER]: "keeps the quotes as part of the value; reads only the first line => 'a" }],
  ])('%j', (line, readings) => {
    expect(differing(line)).toEqual(readings);
  });

  const pieces = fc.constantFrom(
    ...['a', 'B', '1', ' ', '"', "'", '\\', '$', '$Q', '${Q:-z}', '#', ':x', '~', '=', '.x', '\\n'],
  );
  const values = (seed: number) =>
    fc.sample(
      fc.array(pieces, { minLength: 1, maxLength: 8 }).map((parts) => parts.join('')),
      { numRuns: runs(4000), seed },
    );

  test('Vite reads what the model of it says', () => {
    const folder = mkdtempSync(join(tmpdir(), 'adder-vite-'));
    let compared = 0;
    for (const value of values(8)) {
      const line = `V=${value}\n`;
      const [entry] = parseEnvFile(Buffer.from(line)).entries;
      const { text } = entry ? vite.read(line, entry) : {};
      if (text === undefined || text.includes('\u0000')) continue;
      writeFileSync(join(folder, '.env'), line);
      delete process.env.V;
      expect([loadEnv('production', folder, '').V, line]).toEqual([text, line]);
      compared++;
    }
    expect(compared).toBeGreaterThan(150);
  });

  test('a real shell reads what the model of it says', () => {
    const folder = mkdtempSync(join(tmpdir(), 'adder-shell-'));
    const cases = [...values(7)].flatMap((value) => {
      const line = `V=${value}\n`;
      const [entry] = parseEnvFile(Buffer.from(line)).entries;
      return entry ? [{ value, line, text: posixShell.read(line, entry).text }] : [];
    });
    for (const [n, { line }] of cases.entries()) writeFileSync(join(folder, String(n)), line);
    // Each file in a shell of its own, which one process forks; a file that the shell refuses ends only that one.
    const script = `cd "$1"; last=$2; set --; HOME=home; Q=; n=0
while [ $n -lt $last ]; do
  ( . ./$n 2>/dev/null; printf "%s" "\${V-unset}" ); printf '\\0%s\\0' $?; n=$((n + 1))
done`;
    const { stdout } = spawnSync('/bin/sh', ['-c', script, 'sh', folder, String(cases.length)], {
      encoding: 'utf8',
      env: { PATH: '' },
    });
    const read = stdout.split('\0');
    expect(read).toHaveLength(2 * cases.length + 1);
    let compared = 0;
    for (const [n, { value, line, text }] of cases.entries()) {
      if (text?.includes('\u0000')) continue;
      // Words that expand to nothing, or set a name themselves, are no command: the shell keeps the value then.
      if (text === undefined && /\s.*[$=\\]/.test(value)) continue;
      const got = read[2 * n + 1] === '0' ? read[2 * n] : 'unset';
      expect([got, line]).toEqual([text ?? 'unset', line]);
      compared++;
    }
    expect(compared).toBeGreaterThan(150);
  });
});

describe('value/ambiguous', () => {
  const said = (text: string) =>
    readEnvFileLayer('.env', '.env', Buffer.from(text), {
      isPublic: (name) => name !== 'KEY',
      isDeclared: () => true,
    })
      .findings.map(inWords)
      .map(
        ({ level = 'warning', message, excerpt, place }) =>
          `${level} ${place?.line}: ${message} | ${excerpt?.text ?? ''}`,
      );

  test('a public value is shown as the shell gets it, another one is masked', () => {
    expect(said('A=x;y\nKEY=word;second\n')).toEqual([
      'warning 1: programs disagree about A: a POSIX shell stops at ;, and gets `x` | A=x;y',
      'warning 2: programs disagree about KEY: a POSIX shell stops at ;, and gets another value | KEY=[masked]',
    ]);
  });

  test('plain readers are notes', () => {
    expect(said("A='x'\n")).toEqual([`note 1: ${CONTAINER} keeps the quotes as part of the value | A='x'`]);
  });

  test('CRLF is reported once', () => {
    expect(said('A=x\r\nB=y\r\n')).toEqual([
      'warning 1: the lines end with CRLF: a POSIX shell reads the carriage return as the last character of each value | ',
    ]);
  });
});
