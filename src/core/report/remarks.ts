import { type Answer, answerText } from '../conclude/answers.js';
import { questions } from '../findings/check.js';
import type { Level } from '../findings/codes.js';
import { pastText } from '../findings/past.js';
import { placeText } from '../findings/place.js';
import type { Report } from './documents.js';
import { questionTexts } from './question-texts.js';
import { trialSentences } from './text-gate-trial.js';

/** A statement of a report besides its findings, for formats that are lists of findings. */
export interface Remark {
  level: Level;
  /** Its kind, as a word that names rules. */
  kind: 'adder/answer' | 'adder/not-read' | 'adder/not-searched' | 'adder/past' | 'adder/skipped' | 'adder/trial';
  message: string;
  /** The file. */
  path?: string;
}

/** Answers that are not yes, and everything that was not read, not searched for or skipped. */
export function remarksOf(report: Report): Remark[] {
  if (report.kind !== 'findings') return [];
  const { answers, coverage, checked = [], trials = [] } = report;
  const { unread = [], skipped = [], notSearched = [], past } = coverage ?? {};
  const files = (all: typeof unread, kind: Remark['kind'], level: Level) =>
    all.map(
      ({ path, inside, because }): Remark => ({
        ...{ level, kind, path },
        message: `${placeText({ path, inside })} ${because}`,
      }),
    );
  return [
    ...(answers ? questions.flatMap((question) => ofAnswer(questionTexts[question], answers[question])) : []),
    ...files(unread, 'adder/not-read', 'warning'),
    ...notSearched.map(
      ({ variable, stage, because }): Remark => ({
        ...{ level: 'note', kind: 'adder/not-searched' },
        message: `${variable} of ${stage} was not searched for: ${because}`,
      }),
    ),
    ...(past ? [{ level: 'note', kind: 'adder/past', message: pastText(past) } as const] : []),
    ...files(skipped, 'adder/skipped', 'note'),
    ...trials.flatMap((one) =>
      trialSentences(one).map((message): Remark => ({ level: 'note', kind: 'adder/trial', message })),
    ),
    ...checked.flatMap(({ part, state, because }): Remark[] =>
      state === 'checked'
        ? []
        : [{ level: 'note', kind: 'adder/skipped', message: `${part}: skipped${because ? `, ${because}` : ''}` }],
    ),
  ];
}

/** Values that were not searched for, everything that was skipped, and the statements of trials. */
export function gapsOf(report: Report): Remark[] {
  return remarksOf(report).filter(({ kind }) => /^adder\/(not-searched|past|skipped|trial)$/.test(kind));
}

function ofAnswer(question: string, answer: Answer): Remark[] {
  if (answer.answer === 'no') return [{ level: 'error', kind: 'adder/answer', message: `${question}: no` }];
  if (answer.answer !== 'not known') return [];
  return (answer.because ?? []).map(({ because, remedy }) => ({
    ...{ level: 'warning', kind: 'adder/answer' },
    message: `${question}: ${answerText(answer)}, because ${because} → ${remedy}`,
  }));
}
