import { runInNewContext } from 'node:vm';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { emitKinds } from '../../../src/core/emit/index.js';
import { parseEnvFile } from '../../../src/core/envfile/parse.js';
import { noFacts } from '../../../src/core/resolve/env-findings.js';
import { readEnvFileLayer } from '../../../src/core/resolve/layers.js';
import { resolveStage } from '../../../src/core/resolve/resolve.js';
import { valueLiteral } from '../../../src/core/runtime/literal.js';
import { contractOf } from '../../support/contract.js';
import { runs } from '../../support/runs.js';

const hostile = fc.string({
  unit: fc.oneof(
    fc.string({ minLength: 1, maxLength: 1, unit: 'binary' }),
    fc.constantFrom(
      '</script',
      '<!--',
      '<script',
      '*/',
      '\r',
      '\n',
      '\u2028',
      '\u2029',
      '\x1b',
      '\\',
      "'",
      '"',
      '$',
      '`',
      '${',
      '#',
      '=',
      '\x85',
    ),
  ),
});

/** A contract whose prose, and values whose text, somebody hostile wrote. */
function requestWith(about: string, value: string) {
  const contract = contractOf(
    `adder: 1\nstages: { production: { layers: [.env] } }\nbundles: { desk: { toolchain: vite }, crew: { toolchain: dart, runs: mobile } }\nvariables:\n  NOTICE: { reach: public, about: ${JSON.stringify(about)}, default: ${JSON.stringify(value)} }\n  LATER: { reach: public, delivery: runtime, about: ${JSON.stringify(about)}, default: ${JSON.stringify(value)} }\n  KEY: { reach: server, about: ${JSON.stringify(about)} }\n`,
  );
  const stage = contract.stages.get('production') ?? expect.unreachable();
  const resolution = resolveStage(contract, stage, [readEnvFileLayer('.env', '.env', Buffer.from('KEY=x\n'), noFacts)]);
  return { contract, resolution };
}

describe('emitted code with hostile prose and values', () => {
  test('values are what they were, pages are not ended or entered', () => {
    const variable = requestWith('', '').contract.variables.get('NOTICE') ?? expect.unreachable();
    fc.assert(
      fc.property(hostile, (text) => {
        fc.pre(text !== '');
        const literal = valueLiteral(variable, text);
        expect(runInNewContext(literal)).toBe(text);
        expect(literal).not.toMatch(/<\/|<!--|<script|[\r\n\u2028\u2029]/i);
      }),
      { numRuns: runs(500) },
    );
  });

  test('JSON values keep names that objects have', () => {
    const json = contractOf(
      'adder: 1\nstages: { p: { layers: [.env] } }\nvariables: { J: { reach: public, form: json } }\n',
    ).variables.get('J');
    const literal = valueLiteral(
      json ?? expect.unreachable(),
      '{"a":{"__proto__":{"admin":true}},"b":"</script><!--"}',
    );
    const value = runInNewContext(literal);
    expect([Object.keys(value.a), value.a.admin, value.b]).toEqual([['__proto__'], undefined, '</script><!--']);
    expect(literal).not.toMatch(/<\/|<!--/);
  });

  test('no line, comment or literal ends early in any kind', () => {
    const lines = (text: string) => text.split('\n').length;
    const plain = requestWith('x', 'x');
    fc.assert(
      fc.property(hostile, hostile, (about, value) => {
        fc.pre(value !== '' && !value.includes('\0'));
        const { contract, resolution } = requestWith(about, value);
        for (const kind of emitKinds) {
          if (kind.name === 'schema' || kind.name === 'launch') continue;
          for (const bundle of contract.bundles.values()) {
            const isDart = kind.name === 'dart';
            if (isDart !== (bundle.name === 'crew')) continue;
            const emit = (one: typeof plain) =>
              kind.emit({
                ...{
                  side: 'public',
                  language: 'typescript',
                  format: 'text',
                  isShared: () => true,
                  provided: undefined,
                  withBuild: false,
                  call: '',
                },
                contract: one.contract,
                bundle,
                resolution: one.resolution,
              });
            const text = emit({ contract, resolution });
            // biome-ignore lint/suspicious/noControlCharactersInRegex: these are what must not be there
            expect(text, kind.name).not.toMatch(/[\r\u2028\u2029\x85\x1b]/);
            if (kind.name === 'example') {
              const file = parseEnvFile(Buffer.from(text));
              expect([file.entries.map(({ name }) => name), file.problems]).toEqual([['NOTICE', 'LATER', 'KEY'], []]);
            } else if (about.trim() !== '') expect(lines(text), kind.name).toBe(lines(emit(plain)));
          }
        }
      }),
      { numRuns: runs(150) },
    );
  });
});
