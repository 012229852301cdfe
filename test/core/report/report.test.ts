import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { finding, type RawFinding } from '../../../src/core/findings/finding.js';
import { judge, noRules, type Rules, summarize } from '../../../src/core/findings/judge.js';
import type { FindingsReport } from '../../../src/core/report/documents.js';
import { reportSchema } from '../../../src/core/report/documents.js';
import { printJson } from '../../../src/core/report/json.js';
import { cells } from '../../../src/core/report/layout.js';
import { makeStyle } from '../../../src/core/report/style.js';
import { fittedWidths, naturalWidths, renderTable } from '../../../src/core/report/table.js';
import { printFindings } from '../../../src/core/report/text-findings.js';
import { wordedFindings } from '../../../src/core/report/worded.js';
import { excerptOf } from '../../../src/core/text/frame.js';

const leak = (path: string, line: number, more: Partial<RawFinding> = {}): RawFinding => {
  const place = { path, inside: [], line, column: 3, offset: 2, length: 9 };
  const about = { stage: 'production', bundle: 'desk', place, encoding: ['plain'] };
  return { ...finding('leak/known-value', 'on-server', { variable: 'KEY', reach: 'server' }, about), ...more };
};

function report(raw: RawFinding[], more: Partial<FindingsReport> = {}): FindingsReport {
  const of = { report: 1, kind: 'findings', command: 'inspect', stage: 'production' } as const;
  return { ...of, ...wordedFindings(raw, rules, '2026-11-24', []), ...more };
}

const options = { style: makeStyle(false), width: 80, tableWidth: 80 };
const rules: Rules = { ...noRules, reachOf: (name) => (name === 'KEY' ? 'server' : undefined) };

describe('text', () => {
  test('sorts by level, variable, source line and place', () => {
    const origin = { path: 'src/a.ts', line: 4, column: 5 };
    const excerpt = excerptOf(4, 'x = [masked]', 5, 8);
    const text = printFindings(
      report(
        [
          finding('value/shadowed', 'process', { variable: 'URL', source: '.env:1' }),
          leak('dist/a.js.map', 1, { origin, excerpt }),
          leak('dist/a.js', 1, { origin, excerpt, encoding: ['base64'] }),
          leak('dist/b.zip', 7, { place: { path: 'dist/b.zip', inside: ['c.js'], line: 7, column: 1 } }),
        ],
        {
          coverage: {
            files: 3,
            members: 1,
            bytes: 2048,
            unread: [{ path: 'dist/d.gz', inside: [], because: 'is encrypted' }],
          },
        },
      ),
      options,
    );
    expect(text).toBe(`adder inspect  production

KEY  server
  error    a server file contains the value of KEY, a server-only variable
           leak/known-value  480e8277 c2684f17 6cecb5a0
           source src/a.ts:4:5
             4 | x = [masked]
                     ^^^^^^^^
           in     dist/a.js:1:3  as base64
                  dist/a.js.map:1:3
           dist/b.zip » c.js:7:1
           → read it from the server's environment when it starts, so that no
             file contains it

URL
  warning  the process environment wins over .env:1 with a different URL
           value/shadowed  a7f24350
           → run \`unset URL\` if it is left from an earlier export

3 errors and 1 warning
checked 3 files and 1 embedded file, 2.0 kB; could not check 1 item:
  dist/d.gz is encrypted
`);
  });

  test('quiet prints the summary alone, and colours are only added to the words', () => {
    expect(printFindings(report([leak('a', 1)]), { ...options, quiet: true })).toBe('1 error\n');
    const coloured = printFindings(report([leak('a', 1)]), { ...options, style: makeStyle(true) });
    expect(coloured).toContain('\x1b[');
    // biome-ignore lint/suspicious/noControlCharactersInRegex: colours are control characters
    expect(coloured.replace(/\x1b\[\d+m/g, '')).toBe(printFindings(report([leak('a', 1)]), options));
  });

  test('what comes from outside cannot steer the terminal', () => {
    const text = printFindings(
      report([leak('dist/\x1b[2J.js', 1, { facts: { variable: 'a\x1b]0;x\x07', reach: 'server' } })]),
      options,
    );
    expect(text).not.toMatch(/[^\P{Cc}\n]/u);
  });
});

describe('JSON', () => {
  test('has the published shape', () => {
    const json = JSON.parse(printJson(report([leak('dist/a.js', 1, { excerpt: excerptOf(1, 'x', 1, 1) })])));
    expect(() => reportSchema.parse(json)).not.toThrow();
    expect(json.findings[0].excerpt).toEqual({ line: 1, text: 'x', column: 1, length: 1 });
    expect(() => reportSchema.parse({ ...json, extra: 1 })).toThrow();
  });
});

describe('fingerprints', () => {
  const of = (...raw: RawFinding[]) => judge(raw, noRules, '', []).findings.map(({ fingerprint }) => fingerprint);

  test('stay when lines move and when a content hash changes', () => {
    expect(of(leak('dist/index-4fd1c2ab.js', 1))).toEqual(of(leak('dist/index-9Bx_77aQ.js', 90)));
  });

  test('differ by file, variable, code, variant and encoding, and not by place', () => {
    const all = of(
      leak('dist/a.js', 1),
      leak('dist/a.js', 2),
      leak('dist/b.js', 1),
      leak('dist/a.js', 1, { variable: 'OTHER' }),
      leak('dist/a.js', 1, { code: 'leak/part-of-value' }),
      leak('dist/a.js', 1, { variant: 'shipped' }),
      leak('dist/a.js', 1, { encoding: ['base64'] }),
    );
    expect(new Set(all).size).toBe(6);
  });

  test('findings come in the order of their places, at the level that the contract gives them', () => {
    const levels = { 'leak/known-value': 'note' } as const;
    const settled = judge([leak('b', 2), leak('a', 9), leak('b', 1)], { ...noRules, levels }, '', []).findings;
    expect(settled.map(({ place, level }) => `${place?.path}${place?.line} ${level}`)).toEqual([
      'a9 note',
      'b1 note',
      'b2 note',
    ]);
    expect(summarize(settled)).toEqual({ error: 0, warning: 0, note: 3, accepted: 0 });
  });
});

test('a table has its columns at their places, and cuts what is wider', () => {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: the codes of colours begin with one
  const plain = (text: string) => text.replace(/\x1b\[[\d;]*m/g, '');
  const cell = fc.array(fc.constantFrom('a', 'Zz', '…', '→', 'é', '日本', '\x1b[31mred\x1b[39m', '[masked]'), {
    minLength: 1,
    maxLength: 8,
  });
  const row = fc.tuple(cell, cell, cell).map((all) => all.map((parts) => parts.join('')));
  fc.assert(
    fc.property(fc.array(row, { minLength: 1, maxLength: 6 }), fc.integer({ min: 6, max: 60 }), (rows, width) => {
      const widths = fittedWidths(naturalWidths(rows), width, [0, 1, 2]);
      for (const [index, line] of renderTable(rows, widths).split('\n').entries()) {
        let rest = `${plain(line)}${' '.repeat(widths.at(-1) ?? 0)}`;
        for (const [column, given] of (rows[index] ?? []).map(plain).entries()) {
          const free = (widths[column] as number) - 2;
          const shown = rest.slice(0, rest.indexOf('  '));
          const kept = shown.slice(0, -1);
          if (cells(given) <= free) expect(shown).toBe(given);
          else {
            expect(shown).toBe(`${given.slice(0, kept.length)}…`);
            expect(cells(shown)).toBeLessThanOrEqual(free);
            const next = [...given.slice(kept.length)][0] ?? '';
            expect(cells(kept + next), 'no more of it fits').toBeGreaterThan(free - 1);
          }
          const pad = ' '.repeat(free + 2 - cells(shown));
          expect(rest.startsWith(shown + pad)).toBe(true);
          rest = rest.slice(shown.length + pad.length);
        }
      }
    }),
  );
});

test('a colour around a cell that is cut ends with it', () => {
  const red = '\x1b[31ma very long value\x1b[39m';
  expect(renderTable([[red, 'b']], [8, 3])).toBe('\x1b[31ma ver…\x1b[39m  b');
});
