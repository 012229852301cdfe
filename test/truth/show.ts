import type { Difference } from './compare.js';
import type { Facts } from './measure.js';

/** Programs that are shown whole. */
const MOST_SHOWN = 5;

/** The kinds of difference, and one program of each of the first kinds, as text. @param shrink makes a program smaller, with the same difference */
export function shown(
  wrong: readonly [Facts, Difference][],
  shrink: (facts: Facts, difference: Difference) => Facts = (facts) => facts,
): string {
  const byKind = new Map(
    wrong.map(([facts, difference]) => [`${difference}: ${facts.program.read}`, { facts, difference }]),
  );
  const texts = [...byKind.values()].slice(0, MOST_SHOWN).map(({ facts, difference }) => {
    const small = shrink(facts, difference);
    return [difference, JSON.stringify(small.program), ...Object.values(small.modules), summary(small)].join('\n');
  });
  return wrong.length === 0
    ? ''
    : [
        `${wrong.length} differences`,
        [...byKind].map(([kind, { facts }]) => `${kind} | ${summaryLine(facts)}`).join('\n'),
        ...texts,
      ].join('\n\n');
}

function summary({ ideal, plain, plugged, lint, pluggedLint, arrived, fixed }: Facts): string {
  const said = (all: Facts['lint']) => all.map(({ code, line, message }) => `${line} ${code} ${message}`);
  return JSON.stringify(
    { ideal, plain, plugged, arrived, lint: said(lint), pluggedLint: said(pluggedLint), fixed },
    null,
    1,
  );
}

function summaryLine({ ideal, plain, lint }: Facts): string {
  const got = plain.outcome?.error ?? JSON.stringify(plain.outcome?.seen) ?? 'failed';
  const said = lint.map(({ code, message }) => `${code} ${message}`).join('; ');
  return `${JSON.stringify(ideal.seen)}, got ${got}: ${said || 'silent'}`;
}
