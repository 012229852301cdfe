import { type Code, catalogue } from './catalogue.js';
import { type Remedy, steps, type TextEdit } from './remedy.js';
import type { CodeWords, Facts } from './words.js';

/** Facts that the words of a finding depend on. */
export interface Sayable {
  code: Code;
  variant: string;
  facts: Facts;
  /** The layer with the finding, if it is no file: a command. */
  layer?: string;
  /** Changes to source files that fix it. */
  fix?: readonly TextEdit[];
}

/**
 * The message of a finding, and what to do about it. The only function that makes a text of a finding.
 * @throws Error for a variant that no version of Adder had, as a damaged report may have
 */
export function describe(finding: Sayable): { message: string; remedy: Remedy } {
  const { code, variant, facts, layer, fix = [] } = finding;
  const { variants }: CodeWords = catalogue[code];
  const words = Object.hasOwn(variants, variant) ? variants[variant] : undefined;
  if (!words) throw new Error(`${code} has no variant ${variant}`);
  const { message, remedy } = words(facts);
  return {
    message: layer === undefined ? message : `${layer}: ${message}`,
    remedy: [...(typeof remedy === 'string' ? steps`${remedy}` : remedy), ...fix.map((edit) => ({ edit }))],
  };
}
