import { describe, expect, test } from 'vitest';
import { withAcceptances } from '../../../src/core/contract/acceptances.js';
import { parseContract } from '../../../src/core/contract/parse.js';

const entry = {
  finding: 'leak/token-shape',
  fingerprint: '12345678901234567890123456789012',
  because: 'bound to "our" domains: see #4',
  until: '2099-03-01',
  about: 'dist/app.js',
};
const head = 'adder: 1 # ours\nstages: { production: { layers: [.env] } }\nvariables: { A: public }\n';
const old = '{ finding: value/missing, because: later, until: 2099-01-01 }';

describe('acceptances are added to a contract, and nothing else changes', () => {
  test.each([
    ['without any', head],
    ['without a line break at the end', head.trimEnd()],
    [
      'in a list of lines',
      `${head}accept:\n  # old\n  - finding: value/missing\n    because: later\n    until: 2099-01-01\n`,
    ],
    ['in a list that is not indented', `accept:\n- ${old}\n${head}`],
    ['before other keys', `accept:\n  - ${old} # until May\n\n# the rest\n${head}`],
    ['in brackets', `${head}accept: [${old}] # old\n`],
    ['in brackets over lines', `${head}accept: [\n  ${old},\n]\n`],
    ['in brackets with a comment', `${head}accept: [\n  ${old} # old\n]\n`],
    ['in empty brackets', `${head}accept: []\n`],
    ['with the line ends of Windows', head.replaceAll('\n', '\r\n')],
  ])('%s', (_, text) => {
    const changed = withAcceptances(text, [entry, { ...entry, finding: 'leak/random-text' }]) ?? '';
    const { contract, findings } = parseContract(changed, 'adder.yaml');
    expect(findings).toEqual([]);
    const before = text.includes('value/missing') ? ['value/missing'] : [];
    expect(contract?.accept.map(({ finding }) => finding)).toEqual([...before, 'leak/token-shape', 'leak/random-text']);
    expect(contract?.accept.at(-1)).toMatchObject({
      fingerprint: entry.fingerprint,
      because: entry.because,
      until: entry.until,
    });
    for (const comment of text.match(/#.*/g) ?? []) expect(changed).toContain(comment);
    expect(changed.includes('\r\n')).toBe(text.includes('\r\n'));
    expect(/[^\r]\n/.test(changed) && changed.includes('\r\n')).toBe(false);
  });

  test('a contract in braces has no place for them', () => {
    expect(withAcceptances('{ adder: 1, variables: {} }', [entry])).toBeUndefined();
  });
});
