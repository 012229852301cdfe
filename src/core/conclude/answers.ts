import { type CheckResult, type Coverage, type Doubt, type Question, questions } from '../findings/check.js';
import { codes } from '../findings/codes.js';
import type { Judged } from '../findings/judge.js';
import { restText } from '../findings/past.js';
import { count } from '../text/display.js';

/** The answer to one question. `not asked`: only some files of an output were inspected. */
export interface Answer {
  answer: 'yes' | 'no' | 'not known' | 'not asked';
  /** Why it is not known, with what to do. */
  because?: Pick<Doubt, 'because' | 'remedy' | 'isWithoutValue'>[];
  /** The values that a yes rests on, if the history has some that this machine does not. */
  of?: string;
  /** Accepted findings that would answer no. */
  accepted?: number;
}

export type Answers = Record<Question, Answer>;

/**
 * The answers of checks that were asked questions; undefined if none was. A note does not answer with no, nor does an accepted
 * finding, but those are counted.
 */
export function answersOf(
  results: readonly CheckResult[],
  { findings, accepted = [] }: Pick<Judged, 'findings' | 'accepted'>,
  coverage: Coverage | undefined,
): Answers | undefined {
  const verdicts = results.flatMap(({ verdict }) => verdict ?? []);
  if (verdicts.length === 0) return undefined;
  const grave = findings.filter(({ level }) => level !== 'note');
  const doubts = [...verdicts.flatMap((one) => one.doubts), ...unreadDoubt(coverage)];
  const apartFrom = (question: Question): Pick<Answer, 'accepted'> => {
    const count = accepted.filter(({ level, code }) => level !== 'note' && codes[code].answer === question).length;
    return count > 0 ? { accepted: count } : {};
  };
  const answerTo = (question: Question): Answer => {
    if (grave.some(({ code }) => codes[code].answer === question)) return { answer: 'no' };
    const because = doubts
      .filter((doubt) => doubt.question === question)
      .map(({ because: why, remedy, isWithoutValue }) => ({
        because: why,
        remedy,
        ...(isWithoutValue && { isWithoutValue }),
      }));
    if (because.length > 0) return { answer: 'not known', because };
    if (!verdicts.some(({ asked }) => asked.includes(question))) return { answer: 'not asked' };
    const of = question === 'nothingLeaked' ? restText(coverage?.past) : undefined;
    return { answer: 'yes', ...(of !== undefined && { of }), ...apartFrom(question) };
  };
  return Object.fromEntries(questions.map((question) => [question, answerTo(question)])) as Answers;
}

function unreadDoubt(coverage: Coverage | undefined): Doubt[] {
  const unread = coverage?.unread.length ?? 0;
  if (unread === 0) return [];
  const because = `${count(unread, 'item')} could not be checked`;
  return [
    {
      question: 'nothingLeaked',
      because,
      remedy: 'see the list of what could not be checked, or accept it in the contract with `unread`',
    },
  ];
}

/** An answer in words: `yes, apart from 2 accepted findings`. */
export function answerText({ answer, of, accepted = 0 }: Pick<Answer, 'answer' | 'of' | 'accepted'>): string {
  const rest = of === undefined ? answer : `${answer}, ${of}`;
  return accepted > 0 ? `${rest}, apart from ${count(accepted, 'accepted finding')}` : rest;
}
