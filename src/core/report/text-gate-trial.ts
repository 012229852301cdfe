import type { TrialStatement } from '../findings/trial-statement.js';
import { localTime } from '../text/display.js';
import { joinWords } from '../text/nearest.js';

/** The statement of a trial as sentences: what this code lets out, and which answers rest on that alone, or on nothing. */
export function trialSentences(statement: TrialStatement): string[] {
  const { bundle, builtAt, commit, keptIn, letOut, unsure, notSearched } = statement;
  const from = commit === undefined ? '' : ` of commit ${commit.slice(0, 8)}`;
  const alone = notSearched.filter(({ name }) => keptIn.includes(name));
  const withReasons = (all: typeof alone) => joinWords(all.map(({ name, because }) => `${name} (${because})`));
  return [
    `trial of ${bundle}, a build${from} with made-up values at ${localTime(builtAt)}: ${outcome(keptIn, letOut)}`,
    ...(alone.length > 0
      ? [
          `only the trial speaks of ${withReasons(alone)}: the built files were not searched for ${alone.length === 1 ? 'it' : 'them'}, so a pasted text, a left-over file or a later change would not be seen`,
        ]
      : []),
    ...unsure.map(({ name, because }) => {
      const isSearched = !notSearched.some((one) => one.name === name);
      const rests = isSearched
        ? 'the trial does not know whether it gets out'
        : 'nothing here tells whether it gets out';
      return `${name}: ${rests}, because ${because}`;
    }),
  ];
}

function outcome(keptIn: readonly string[], letOut: readonly string[]): string {
  if (letOut.length > 0) return `this code lets out ${joinWords(letOut)}`;
  if (keptIn.length > 0) return `this code does not let out ${joinWords(keptIn)}`;
  return 'there is no build or server value that it could speak of';
}
