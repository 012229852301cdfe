import type { RawFinding } from '../../findings/finding.js';
import type { Reach } from '../../findings/reach.js';
import type { Evidence } from '../evidence.js';

/** Fields of the contract for a variable. */
export interface Fields {
  reach: Reach;
  form?: string;
  about?: string;
  example?: string;
  required?: false | string[];
  bundles?: string[];
  /** Bundle to the name that its code uses, if it is another one. */
  names?: Record<string, string>;
  distinct?: true;
  https?: string[];
}

/** Evidence for a name, with its reach and form, on which other guesses depend. */
export interface Judged extends Evidence {
  reach: Reach;
  isSecret: boolean;
  form?: string;
}

/** A guess about some fields of a variable, from evidence alone. */
export interface Guess {
  fields?: Partial<Fields>;
  /** A line of the comment above the variable. */
  reason?: string;
  /** Decisions for a person. */
  undecided?: RawFinding[];
}
