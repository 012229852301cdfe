import { holdsIn, type Variable } from '../contract/contract.js';
import { limits } from '../limits/index.js';
import { count } from '../text/display.js';

/**
 * A rule of the contract for a value besides its form. Returns the problem as a phrase that follows the variable's name and never
 * contains the value, or undefined.
 */
type ValueRule = (variable: Variable, text: string, stage: string) => string | undefined;

const characters = (text: string) => [...text].length;

const rules: readonly ValueRule[] = [
  ({ form, min }, text) => {
    if (min === undefined) return undefined;
    if (form.measure === 'size') return Number(text) < min ? `is less than ${min}` : undefined;
    return characters(text) < min ? `has ${count(characters(text), 'character')}; the minimum is ${min}` : undefined;
  },
  ({ form, max }, text) => {
    if (max === undefined) return undefined;
    if (form.measure === 'size') return Number(text) > max ? `is more than ${max}` : undefined;
    return characters(text) > max ? `has ${count(characters(text), 'character')}; the maximum is ${max}` : undefined;
  },
  ({ pattern }, text) => {
    const fit = pattern?.fits(pattern.source, text) ?? 'yes';
    if (fit === 'too slow')
      return `takes longer than ${limits.patternSeconds.value * 1000} ms to match the pattern ${pattern?.source}`;
    return fit === 'yes' ? undefined : `does not match the pattern ${pattern?.source}`;
  },
  ({ https }, text, stage) =>
    holdsIn(https, stage) && !/^(https|wss):/i.test(text) ? `is not https, which ${stage} requires` : undefined,
  ({ slash }, text) => {
    if (slash === 'never' && text.endsWith('/')) return 'ends with a slash, but code appends paths to it';
    return slash === 'always' && !text.endsWith('/') ? 'does not end with a slash' : undefined;
  },
];

/** The first problem of a value: others often follow from it. */
export function valueProblem(variable: Variable, text: string, stage: string): string | undefined {
  const ofForm = variable.form.problem(text);
  if (ofForm) return ofForm;
  for (const rule of rules) {
    const problem = rule(variable, text, stage);
    if (problem) return problem;
  }
  return undefined;
}

/** How a value is untidy, as a phrase; it may be meant so. */
export function untidiness(text: string): string | undefined {
  if (/[\r\n]$/.test(text) && !text.startsWith('-----BEGIN')) return 'ends with a line break';
  if (text !== text.trim()) return 'has white space at its start or end';
  if (/^(["']).*\1$/s.test(text)) return 'includes the quotes around it';
  return undefined;
}

const fillers =
  /^(change[-_ ]?(me|this|it)|replace[-_ ]?(me|this|it)|fill[-_ ]?(me[-_ ]?)?in|to[-_ ]?do|tbd|fixme|xxx+|placeholder|dummy|your[-_ ].+|<.+>|\.\.\.|n\/a)$/i;

/** Tells whether a value is a placeholder that was not filled in. */
export function isPlaceholder({ example }: Pick<Variable, 'example'>, text: string): boolean {
  return fillers.test(text.trim()) || (example !== undefined && text === example);
}

/** Tells whether a stage's builds ship. Stages of developers, tests and tools do not, by their usual names. */
export function ships(stage: string): boolean {
  return !/^(dev|devel|development|local|tests?|testing|e2e|unit|mock|ci|build|storybook|example)$/i.test(stage);
}
