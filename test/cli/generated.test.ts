import { describe, expect, test } from 'vitest';
import { emitKinds } from '../../src/core/emit/index.js';
import { isOwnOutput } from '../../src/core/report/own-output.js';
import { ferryProject } from '../support/adder.js';

describe('Adder recognises what it wrote, also after the contract has changed', () => {
  const project = ferryProject();
  // `needs` as text and `launch` go to the terminal, or into files of others.
  const calls = emitKinds
    .filter(({ name }) => !['needs', 'launch', 'runtime'].includes(name))
    .map(({ name }) => [...['emit', name], ...(name === 'defines' ? ['--stage', 'production'] : [])]);

  test.each([
    ...calls,
    ['emit', 'module', '--with-values', '--stage', 'production'],
    ['emit', 'needs', '--stage', 'production', '--as', 'env'],
    ['values', 'production'],
    ['values', 'production', '--format', 'json'],
    ['lint', '--format', 'sarif'],
  ])('%s %s %s %s %s', (...args) => {
    const { code, stdout } = project.adder(args.filter(Boolean));
    expect([code, stdout.length > 20]).toEqual([args[0] === 'lint' ? expect.any(Number) : 0, true]);
    const isKnownByKeys = args[1] === 'defines';
    expect(isOwnOutput(stdout, isKnownByKeys ? stdout.replace('true', 'false') : '{}')).toBe(true);
  });

  test.each(['export const a = 1;\n', '{ "name": "desk" }', '# ours\nA=1\n'])('and not %j of somebody else', (text) =>
    expect(isOwnOutput(text, '{ "VITE_A": "1" }')).toBe(false),
  );
});

test('values in a generated module are not hard-coded', () => {
  const project = ferryProject({ 'src/main.ts': "import { FERRY_API_URL } from './values';\nfetch(FERRY_API_URL);\n" });
  const emit = ['emit', 'module', '--with-values', '--stage', 'production', '--save', 'src/values.ts'];
  expect(project.adder(emit).code).toBe(0);
  const codes = () => project.json(['lint']).report.findings.map(({ code }: { code: string }) => code);
  expect(codes()).not.toContain('code/hard-coded');
  project.write('src/values.ts', project.read('src/values.ts').replace(/^\/\/.*\n/, ''));
  expect(codes()).toContain('code/hard-coded');
});
