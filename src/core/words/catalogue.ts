import { table } from '../text/table.js';
import { codeWords } from './code.js';
import { contractWords } from './contract.js';
import { fileWords } from './file.js';
import { hostWords } from './host.js';
import { leakWords, stageWords } from './leak.js';
import { repoWords } from './repo.js';
import { serveWords } from './serve.js';
import { readWords, staleWords } from './stale.js';
import { trialWords } from './trial.js';
import { valueWords } from './value.js';

/**
 * Everything that findings say, by code and variant. Only printing reads it: nothing else may depend on a text. The types of
 * a finding's facts are those of the functions here, so each variant is declared once.
 */
export const catalogue = table({
  ...contractWords,
  ...fileWords,
  ...valueWords,
  ...codeWords,
  ...repoWords,
  ...leakWords,
  ...staleWords,
  ...readWords,
  ...stageWords,
  ...serveWords,
  ...hostWords,
  ...trialWords,
});

type Catalogue = typeof catalogue;

export type Code = keyof Catalogue & string;
export type VariantOf<C extends Code> = keyof Catalogue[C]['variants'] & string;

/** The facts that the words of a variant need. */
export type FactsOf<C extends Code, V extends VariantOf<C>> = Catalogue[C]['variants'][V] extends (
  facts: infer F,
) => unknown
  ? F
  : never;

/** The names of facts that some variant of a code has. */
export type FactName<C extends Code> = { [V in VariantOf<C>]: keyof FactsOf<C, V> & string }[VariantOf<C>];
