import type { Remedy } from './remedy.js';

/** Message and remedy of a finding. */
export interface Words {
  /** One sentence without a full stop. Repeats no value of reach build or server. */
  message: string;
  /** A text is one instruction. */
  remedy: string | Remedy;
}

/** A value in the facts of a finding, as JSON has it. */
export type FactValue = string | number | boolean | readonly FactValue[] | { readonly [name: string]: FactValue };

/** The named facts of a finding. */
export type Facts = Readonly<Record<string, FactValue>>;

/** All that is said about one code: a line, an explanation, and the words of each variant as a function of its facts. */
export interface CodeWords {
  /** One line, without a full stop. */
  meaning: string;
  /** Explanation, example and remedy, in sentences. */
  help: string;
  // biome-ignore lint/suspicious/noExplicitAny: each variant has facts of its own, and the catalogue infers them
  variants: Readonly<Record<string, (facts: any) => Words>>;
}

/** The words of one group of codes. Keeps the type of each variant's facts. */
export function words<const Group extends Readonly<Record<string, CodeWords>>>(group: Group): Group {
  return group;
}
