import { spawnSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { parseEnvFile } from '../../../src/core/envfile/parse.js';
import { otherReadings } from '../../../src/core/envfile/readers/index.js';
import { posixShell } from '../../../src/core/envfile/readers/posix-shell.js';
import { readEnvFileLayer } from '../../../src/core/resolve/layers.js';

const SHELL = 'a POSIX shell';
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
    ['A=a b', { [SHELL]: 'ends the value at the white space, and runs the rest as a command => unset' }],
    ['A=x?a=1&b=2', { [SHELL]: 'ends the value at &, and sets it in the background => unset' }],
    ['A=x;y', { [SHELL]: 'ends the value at ; => x' }],
    [
      'A="a\\nb"',
      {
        [SHELL]: 'knows no \\n, \\r or \\t in quotes, and keeps both signs => a\\nb',
        [CONTAINER]: 'keeps the quotes as part of the value => "a\\nb"',
        [MANAGER]: 'knows no \\n, \\r or \\t, and keeps both signs => a\\nb',
      },
    ],
    ["A=it's", { [SHELL]: "takes ' as the start of a quote that goes on into the next lines => unset" }],
    [
      'A=a\\b',
      {
        [SHELL]: 'drops a backslash outside quotes => ab',
        [MANAGER]: 'drops a backslash outside quotes => ab',
      },
    ],
    ['A=~/x', { [SHELL]: 'puts the home folder in place of ~ => \u0000/x' }],
    ['A=a$1', { [SHELL]: 'expands $ before a digit or a sign => a\u0000$1' }],
    [
      'A=a # why',
      {
        [CONTAINER]: 'takes the comment as part of the value => a # why',
        [MANAGER]: 'takes the comment as part of the value => a # why',
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
        [CONTAINER]: 'refuses a line that begins with export => unset',
        [MANAGER]: 'passes over a line that begins with export => unset',
      },
    ],
    ["A='a\nb'", { [CONTAINER]: "keeps the quotes as part of the value; takes the first line alone => 'a" }],
  ])('%j', (line, readings) => {
    expect(differing(line)).toEqual(readings);
  });

  test('a real shell reads what the model of it says', () => {
    const folder = mkdtempSync(join(tmpdir(), 'adder-shell-'));
    const pieces = fc.constantFrom(
      'a',
      'B',
      '1',
      ' ',
      '"',
      "'",
      '\\',
      '$',
      '$Q',
      '${Q:-z}',
      '#',
      ':x',
      '~',
      '=',
      '.x',
      '\\n',
    );
    const values = fc.sample(
      fc.array(pieces, { minLength: 1, maxLength: 8 }).map((parts) => parts.join('')),
      { numRuns: 400, seed: 7 },
    );
    let compared = 0;
    for (const value of values) {
      const line = `V=${value}\n`;
      const [entry] = parseEnvFile(Buffer.from(line)).entries;
      if (!entry) continue;
      const { text } = posixShell.read(line, entry);
      writeFileSync(join(folder, 'file'), line);
      const script = 'cd "$1"; set --; HOME=home; Q=; . ./file 2>/dev/null; printf "%s" "${V-unset}"';
      const { stdout, status } = spawnSync('/bin/sh', ['-c', script, 'sh', folder], {
        encoding: 'utf8',
        env: { PATH: '' },
      });
      if (text?.includes('\u0000')) continue;
      // Words that expand to nothing, or set a name themselves, are no command: the shell keeps the value then.
      if (text === undefined && /\s.*[$=\\]/.test(value)) continue;
      if (text === undefined) expect([status === 0 ? stdout : 'unset', line]).toEqual(['unset', line]);
      else expect([stdout, line]).toEqual([text, line]);
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
    }).findings.map(
      ({ level = 'warning', message, excerpt, place }) =>
        `${level} ${place?.line}: ${message} | ${excerpt?.text ?? ''}`,
    );

  test('a public value is shown as the shell gets it, another one is masked', () => {
    expect(said('A=x;y\nKEY=word;second\n')).toEqual([
      'warning 1: A is not read alike: a POSIX shell ends the value at ;, and gets `x` | A=x;y',
      'warning 2: KEY is not read alike: a POSIX shell ends the value at ;, and gets another value | KEY=[masked]',
    ]);
  });

  test('plain readers are notes', () => {
    expect(said("A='x'\n")).toEqual([`note 1: ${CONTAINER} keeps the quotes as part of the value | A='x'`]);
  });

  test('CRLF is told once', () => {
    expect(said('A=x\r\nB=y\r\n')).toEqual([
      'warning 1: the lines end with CRLF: a POSIX shell takes the carriage return as the last sign of each value | ',
    ]);
  });
});
