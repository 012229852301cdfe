import { appendFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { type Difference, differencesOf } from './compare.js';
import { type Facts, Truth } from './measure.js';
import { type Program, programsOf, simplerThan } from './program.js';
import { shown } from './show.js';
import { type Tool, tools } from './tools.js';

/** `npm run truth` sets more programs, another seed and all tools. */
const { ADDER_TRUTH_PROGRAMS, ADDER_TRUTH_SEED, ADDER_TRUTH_TOOLS, ADDER_TRUTH_RESULTS } = process.env;
const programs = Number(ADDER_TRUTH_PROGRAMS ?? 40);
const seed = Number(ADDER_TRUTH_SEED ?? 32);
const names = (ADDER_TRUTH_TOOLS ?? 'vite esbuild').split(/[ ,]+/);

/** Programs in one project: enough that its start costs little, few enough for the memory. */
const AT_ONCE = 200;

describe.each(tools.filter(({ name }) => names.includes(name)))(`$name, seed ${seed}`, (tool) => {
  test('what Adder says and does is what the build does', { timeout: 36_000_000 }, () => {
    const all = programsOf(seed, programs, tool);
    const wrong: [Facts, Difference][] = [];
    let measured = 0;
    for (let at = 0; at < all.length; at += AT_ONCE) {
      const facts = new Truth(tool, all.slice(at, at + AT_ONCE)).facts();
      measured += facts.length;
      for (const one of facts) for (const difference of differencesOf(one)) wrong.push([one, difference]);
    }
    if (ADDER_TRUTH_RESULTS !== undefined)
      appendFileSync(ADDER_TRUTH_RESULTS, `${JSON.stringify([tool.name, measured, wrong.length])}\n`);
    expect(measured).toBeGreaterThan(programs * 0.8);
    expect(shown(wrong, (facts, difference) => shrunk(tool, facts, difference))).toBe('');
  });
});

/** A simpler program with the same difference, if there is one. */
function shrunk(tool: Tool, facts: Facts, difference: Difference): Facts {
  const simpler: Program[] = simplerThan(facts.program);
  if (simpler.length === 0) return facts;
  const smaller = new Truth(tool, simpler).facts().find((one) => differencesOf(one).includes(difference));
  return smaller ? shrunk(tool, smaller, difference) : facts;
}
