import { describe, expect, test } from 'vitest';
import { answersOf, answerText } from '../../../src/core/conclude/answers.js';
import { type CheckResult, type Coverage, questions } from '../../../src/core/findings/check.js';
import { type Code, codes } from '../../../src/core/findings/codes.js';
import type { JudgedFinding } from '../../../src/core/findings/finding.js';
import type { AcceptedRaw } from '../../../src/core/findings/judge.js';

const judged = (code: Code, level: JudgedFinding['level'] = 'error') => ({ code, level }) as JudgedFinding;
const accepted = (code: Code, level: JudgedFinding['level'] = 'error') => ({ code, level }) as AcceptedRaw;
const asked: CheckResult = { findings: [], groups: [], verdict: { asked: questions, doubts: [] } };
const doubt = { question: 'nothingLeaked', because: 'KEY has no value here', remedy: 'set it' } as const;
const readAll: Coverage = { files: 1, members: 0, bytes: 9, unread: [] };
const words = (...args: Parameters<typeof answersOf>) => {
  const answers = answersOf(...args);
  return answers && questions.map((question) => answers[question].answer);
};

describe('the answers', () => {
  test('are none if nothing was asked', () => {
    expect(answersOf([{ findings: [], groups: [] }], { findings: [] }, readAll)).toBeUndefined();
  });

  test('are yes without a finding and a doubt', () => {
    expect(answersOf([asked], { findings: [] }, readAll)).toEqual({
      nothingLeaked: { answer: 'yes' },
      allThere: { answer: 'yes' },
      current: { answer: 'yes' },
    });
  });

  test('are not asked where no check asks', () => {
    const one = { ...asked, verdict: { asked: ['nothingLeaked'] as const, doubts: [] } };
    expect(words([one], { findings: [] }, undefined)).toEqual(['yes', 'not asked', 'not asked']);
    const other = { ...asked, verdict: { asked: ['current'] as const, doubts: [] } };
    expect(words([one, other], { findings: [] }, undefined)).toEqual(['yes', 'not asked', 'yes']);
  });

  test.each<[code: Code, level: JudgedFinding['level'], answers: string[]]>([
    ['leak/known-value', 'error', ['no', 'yes', 'yes']],
    ['leak/random-text', 'warning', ['no', 'yes', 'yes']],
    ['leak/setting', 'note', ['yes', 'yes', 'yes']],
    ['stale/missing-value', 'warning', ['yes', 'no', 'yes']],
    ['stage/foreign-value', 'error', ['yes', 'yes', 'no']],
    ['code/unused', 'error', ['yes', 'yes', 'yes']],
  ])('are made no by %s with level %s: %j', (code, level, answers) => {
    expect(words([asked], { findings: [judged(code, level)] }, readAll)).toEqual(answers);
  });

  test('of every code are those of the table', () => {
    for (const [code, { answer }] of Object.entries(codes)) {
      const said = words([asked], { findings: [judged(code as Code)] }, readAll);
      expect(said, code).toEqual(questions.map((question) => (question === answer ? 'no' : 'yes')));
    }
  });

  test('are not known for the reasons of all checks', () => {
    const one = { ...asked, verdict: { asked: questions, doubts: [{ ...doubt, isWithoutValue: true as const }] } };
    const other = { ...asked, verdict: { asked: questions, doubts: [{ ...doubt, because: 'part 2 is missing' }] } };
    expect(answersOf([one, other], { findings: [] }, readAll)?.nothingLeaked).toEqual({
      answer: 'not known',
      because: [
        { because: 'KEY has no value here', remedy: 'set it', isWithoutValue: true },
        { because: 'part 2 is missing', remedy: 'set it' },
      ],
    });
  });

  test('are no rather than not known', () => {
    const one = { ...asked, verdict: { asked: questions, doubts: [doubt] } };
    expect(words([one], { findings: [judged('leak/known-value')] }, readAll)).toEqual(['no', 'yes', 'yes']);
  });

  test('are not known if something was not read', () => {
    const unread = [
      { path: 'a.zip', inside: [], because: 'is encrypted' },
      { path: 'b.zip', inside: [], because: 'is encrypted' },
    ];
    expect(answersOf([asked], { findings: [] }, { ...readAll, unread })?.nothingLeaked).toMatchObject({
      answer: 'not known',
      because: [{ because: '2 items could not be checked', remedy: expect.stringContaining('`unread`') }],
    });
    expect(words([asked], { findings: [] }, { ...readAll, unread })).toEqual(['not known', 'yes', 'yes']);
  });

  test('count accepted findings that would make them no', () => {
    const answers = answersOf(
      [asked],
      {
        findings: [],
        accepted: [
          accepted('leak/known-value'),
          accepted('leak/env-file'),
          accepted('leak/name', 'note'),
          accepted('code/unused'),
        ],
      },
      readAll,
    );
    expect(answers?.nothingLeaked).toEqual({ answer: 'yes', accepted: 2 });
    expect(answers?.allThere).toEqual({ answer: 'yes' });
  });
});

test.each([
  [{ answer: 'yes' } as const, 'yes'],
  [{ answer: 'yes', accepted: 1 } as const, 'yes, apart from 1 accepted finding'],
  [{ answer: 'yes', accepted: 2 } as const, 'yes, apart from 2 accepted findings'],
  [{ answer: 'not known' } as const, 'not known'],
])('%j in words: %s', (answer, text) => expect(answerText(answer)).toBe(text));
