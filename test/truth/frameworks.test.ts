import { appendFileSync } from 'node:fs';
import { expect, test } from 'vitest';
import { copyProgram } from '../../scripts/field/prepare.mjs';
import { projects } from '../../scripts/field/projects.mjs';
import { type Difference, differencesOf } from './compare.js';
import { FrameworkProject } from './framework-project.js';
import { frameworks } from './frameworks.js';
import type { Facts } from './measure.js';
import { type Program, programsOf } from './program.js';
import { shown } from './show.js';

/** Only `npm run truth` sets names of frameworks, or `all`: they have to be installed. */
const { ADDER_TRUTH_FRAMEWORKS = '', ADDER_TRUTH_SEED, ADDER_TRUTH_RESULTS, ADDER_TRUTH_PROGRAMS } = process.env;
const seed = Number(ADDER_TRUTH_SEED ?? 32);
const asked = ADDER_TRUTH_FRAMEWORKS.split(/[ ,]+/);

/** Most programs of one build. */
const MOST = 200;

/** Directories that have a meaning of their own in each framework, and ways to start modules that bundlers test already. */
const isPlain = ({ place, read }: Program) =>
  /^(entry|imported|passedOn|lazy)$/.test(place) && !/^(innerParentheses|written|deleted|changedAlias)/.test(read);

/** Tells whether a program waits at the top of a module. */
const waits = ({ place, position, isInFunction }: Program) =>
  place === 'lazy' || position === 'awaited' || isInFunction;

const chosen = frameworks.filter(({ name }) => asked.includes('all') || asked.includes(name));

test('every framework of the generator is a project of the field suite', () => {
  const known = projects.map(({ name }) => name);
  expect(frameworks.filter(({ name }) => !known.includes(name))).toEqual([]);
});

test.skipIf(chosen.length === 0).each(chosen)(
  `what Adder says of code in $name is what its build does, seed ${seed}`,
  { timeout: 36_000_000 },
  async (framework) => {
    copyProgram();
    const count = Math.min(MOST, Number(ADDER_TRUTH_PROGRAMS ?? MOST));
    const programs = programsOf(seed, 4 * count, framework)
      .filter((program) => isPlain(program) && !(framework.isWithoutAwait && waits(program)))
      .slice(0, count);
    const facts = await new FrameworkProject(framework, programs).facts();
    const wrong = facts.flatMap((one) => ofBuild(one).map((difference): [Facts, Difference] => [one, difference]));
    if (ADDER_TRUTH_RESULTS !== undefined)
      appendFileSync(
        ADDER_TRUTH_RESULTS,
        `${JSON.stringify([framework.name, facts.length, wrong.length, 'frameworks'])}\n`,
      );
    expect(facts.length).toBeGreaterThan(programs.length * 0.8);
    expect(shown(wrong)).toBe('');
  },
);

/** Differences but those about the plugin and the output, which are compared for each bundler. */
function ofBuild(facts: Facts): Difference[] {
  const found = differencesOf(facts).filter((difference) => !/plugin|inspect/.test(difference));
  // These builds are minified: of a whole object, only the values that code uses may be left.
  const isOfObject = facts.lint.some(({ code }) => code === 'code/whole-object');
  return isOfObject ? found.filter((difference) => difference !== 'lint reports a read that works') : found;
}
