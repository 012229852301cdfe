import { describe, expect, test } from 'vitest';
import { finding, type RawFinding } from '../../../src/core/findings/finding.js';
import { trialSentences } from '../../../src/core/report/text-gate-trial.js';
import { againstTrials } from '../../../src/core/trial/against-lint.js';
import { byVariable } from '../../../src/core/trial/by-variable.js';
import type { TrialRow } from '../../../src/core/trial/conclude.js';
import { type KeptTrial, keptText, parseKept } from '../../../src/core/trial/kept.js';
import { trialStatement } from '../../../src/core/trial/statement.js';

const row = (name: string, more: Partial<TrialRow> = {}): TrialRow => ({
  ...{ name, setIn: ['.env:1'], readBy: [], arrivesIn: [], isUnmarked: false },
  ...more,
});
const arrival = (more: Partial<TrialRow['arrivesIn'][number]> = {}) => ({
  ...{ path: 'dist/a.js', from: '.env:1', encoding: ['plain'], audience: 'browser' as const },
  ...more,
});
const trial = (rows: TrialRow[], more: Partial<KeptTrial> = {}): KeptTrial => ({
  ...{ stage: 'production', bundle: 'desk', rows, asked: [], findings: [], of: 'x', command: ['npm'], isTwice: false },
  ...{ madeAt: '2026-12-01T10:00:00.000Z', coverage: { files: 1, members: 0, bytes: 1, unread: [] } },
  ...more,
});

test('names of one variable are one row', () => {
  const rows = [
    row('VITE_URL', { variable: 'URL', arrivesIn: [arrival()], setIn: ['the environment'] }),
    row('URL', { variable: 'URL', isUnmarked: true }),
    row('PIER'),
  ];
  expect(byVariable(rows)).toEqual([
    row('PIER'),
    row('URL', { variable: 'URL', arrivesIn: [arrival()], setIn: ['the environment', '.env:1'], isUnmarked: true }),
  ]);
});

describe('a kept trial', () => {
  const kept = trial(
    [row('PIER', { variable: 'PIER', reach: 'public', arrivesIn: [arrival({ source: 'src/a.js:2' })] })],
    {
      findings: [finding('trial/unused', 'nowhere', { variable: 'PIER', bundle: 'desk' })],
    },
  );

  test('is read as it was written', () => expect(parseKept(keptText(kept))).toEqual(kept));

  test.each([
    ['nothing', ''],
    ['another format', keptText(kept).replace('"trial":1', '"trial":2')],
    ['a code that does not exist', keptText(kept).replace('trial/unused', 'trial/made-up')],
    ['a row without a name', keptText(kept).replace('"name":"PIER"', '"nam":"PIER"')],
  ])('is none if there is %s', (_, text) => expect(parseKept(text)).toBeUndefined());
});

describe('the statement of a trial', () => {
  const secret = { reach: 'server' as const };
  const stated = (rows: TrialRow[], more: Partial<KeptTrial> = {}) => trialStatement(trial(rows, more), []);

  test.each<[title: string, rows: TrialRow[], more: Partial<KeptTrial>, where: 'keptIn' | 'letOut' | 'unsure']>([
    ['arrives nowhere', [row('KEY', secret)], {}, 'keptIn'],
    [
      'arrives in server files',
      [row('KEY', { ...secret, arrivesIn: [arrival({ audience: 'server' })] })],
      {},
      'keptIn',
    ],
    ['arrives in browser files', [row('KEY', { ...secret, arrivesIn: [arrival()] })], {}, 'letOut'],
    ['has no room for a marker', [row('KEY', { ...secret, isUnmarked: true })], {}, 'unsure'],
    ['was set nowhere', [row('KEY', { ...secret, setIn: [] })], {}, 'unsure'],
    ['was read by the build', [row('KEY', secret)], { asked: [{ name: 'KEY', at: ['a.js:1'] }] }, 'unsure'],
    [
      'may be in a file that was not read',
      [row('KEY', secret)],
      { coverage: { files: 1, members: 0, bytes: 1, unread: [{ path: 'a', inside: [], because: 'is encrypted' }] } },
      'unsure',
    ],
  ])('a value that %s', (_, rows, more, where) => {
    const statement = stated(rows, more);
    expect({
      keptIn: statement.keptIn.length,
      letOut: statement.letOut.length,
      unsure: statement.unsure.length,
    }).toEqual({ ...{ keptIn: 0, letOut: 0, unsure: 0 }, [where]: 1 });
  });

  test('names the commit only if no file differed from it', () => {
    expect(stated([], { commit: 'abc' }).commit).toBe('abc');
    expect(stated([], { commit: 'abc', isChanged: true }).commit).toBeUndefined();
  });

  test('says what rests on it alone, and of what nothing is known', () => {
    const statement = trialStatement(trial([row('KEY', secret), row('PIN', { ...secret, isUnmarked: true })]), [
      { variable: 'KEY', stage: 'production', because: 'no value here' },
      { variable: 'PIN', stage: 'production', because: 'shorter than 6 bytes' },
    ]);
    expect(trialSentences(statement).slice(1)).toEqual([
      'only the trial speaks of KEY (no value here): the built files were not searched for it, so a pasted text, a left-over file or a later change would not be seen',
      'PIN: nothing here tells whether it gets out, because it has no room for a made-up value',
    ]);
  });
});

describe('lint against a trial', () => {
  const place = (line: number) => ({ place: { path: 'src/a.js', inside: [], line } });
  const read = (line: number, bundle = 'desk'): RawFinding => ({
    ...{ code: 'code/unset', variant: 'literal', facts: { name: 'PIER' }, variable: 'PIER', bundle },
    ...place(line),
  });
  const shown = trial([row('PIER', { variable: 'PIER', arrivesIn: [arrival({ source: 'src/a.js:2' })] })]);
  const codes = (...findings: ReturnType<typeof read>[]) => againstTrials(findings, [shown]).map(({ code }) => code);

  test('a read whose value came from its line is refuted', () => expect(codes(read(2))).toEqual(['trial/refutes']));

  test.each([
    ['another line', [read(3)]],
    ['another bundle', [read(2, 'crew')]],
    ['a line without the file', [{ ...read(2), place: { path: 'src/b.js', inside: [], line: 2 } }]],
  ])('%s is not', (_, findings) => expect(codes(...findings)).toEqual(['code/unset']));

  test('a value that arrived in server files alone refutes nothing', () => {
    const server = trial([
      row('PIER', { variable: 'PIER', arrivesIn: [arrival({ source: 'src/a.js:2', audience: 'server' })] }),
    ]);
    expect(againstTrials([read(2)], [server]).map(({ code }) => code)).toEqual(['code/unset']);
  });

  test('what a trial has against the contract is added once', () => {
    const absent = finding('trial/absent', 'nowhere', { variable: 'PIER', name: 'PIER', hasPrefix: true });
    const leak = finding('trial/undeclared', 'arrives', { name: 'QUAY', path: 'dist/a.js' });
    const wrong = trial([], {
      findings: [absent, leak, finding('trial/unused', 'nowhere', { variable: 'X', bundle: 'desk' })],
    });
    expect(againstTrials([], [wrong]).map(({ code }) => code)).toEqual(['trial/absent', 'trial/undeclared']);
    expect(againstTrials([read(3)], [wrong]).map(({ code }) => code)).toEqual(['code/unset', 'trial/undeclared']);
  });
});
