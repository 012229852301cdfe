import type { Question } from '../findings/check.js';

/** Each question as a phrase. */
export const questionTexts: Readonly<Record<Question, string>> = {
  nothingLeaked: 'nothing leaked',
  allThere: 'nothing is missing',
  current: 'up to date for this stage',
};
