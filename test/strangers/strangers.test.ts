import { describe, expect, test } from 'vitest';
import { parseContract } from '../../src/core/contract/parse.js';
import { TestProject } from '../support/adder.js';
import { strangers } from './all.js';

/** Errors and warnings of a command: level, code, file or stage, and variable. */
function wrongIn(project: TestProject, ...args: string[]): string[] {
  const { findings } = project.json(args).report as { findings: Found[] };
  const wrong = findings.filter(({ level }) => level !== 'note');
  return wrong.map(({ level, code, place, variable, stage }) =>
    [level, code, args[0] === 'lint' ? place?.path : stage, variable].filter(Boolean).join(' '),
  );
}

interface Found {
  level: string;
  code: string;
  place?: { path: string };
  variable?: string;
  stage?: string;
}

describe.each(strangers)('$name', ({ files, reaches, asks = [], bundles = [], lint, values = [] }) => {
  const project = new TestProject(files);
  const drafted = project.json(['draft']).report as { findings: Found[] };
  const { contract } = parseContract(project.read('adder.yaml'), 'adder.yaml');

  test('each variable has the right reach, and what may be a secret is asked', () => {
    const found = [...(contract?.variables.values() ?? [])].map(({ name, reach }) => [name, reach]);
    expect(Object.fromEntries(found)).toEqual(reaches);
    const asked = drafted.findings.flatMap(({ variable }) => variable ?? []);
    expect([...new Set(asked)].sort()).toEqual([...asks].sort());
  });

  test('the bundles, with what they write', () => {
    const found = [...(contract?.bundles.values() ?? [])].map(
      ({ runs, toolchain, output }) => `${runs} ${toolchain} ${output.join(' ')}`,
    );
    expect(found.sort()).toEqual([...bundles].sort());
  });

  test('lint and values say what is wrong in the project, and nothing else', () => {
    expect(wrongIn(project, 'lint').sort()).toEqual([...lint].sort());
    expect(wrongIn(project, 'values', '--all').sort()).toEqual([...values].sort());
  });

  test('no value that may be a secret is shown', () => {
    const secrets = [...(contract?.variables.values() ?? [])].filter(({ reach }) => reach !== 'public');
    const { stdout } = project.adder(['values', '--all']);
    expect(stdout).toContain('all stages');
    const texts = Object.entries(files).filter(([path]) => /(^|\/)\.(env|dev\.vars)/.test(path));
    for (const { name } of secrets)
      for (const [, text] of texts) {
        const value = new RegExp(`^${name}=(.{8,})$`, 'm').exec(text)?.[1];
        if (value !== undefined) expect(stdout).not.toContain(value);
      }
  });
});
