import { expect } from 'vitest';
import type { TestProject } from './adder.js';

const inspect = ['inspect', '--stage', 'production'];

/**
 * Asks `inspect` and `gate` for a project's answers, which must agree: `gate` is not fine where `inspect` is not.
 * @returns the report of `inspect`, and its exit code
 */
export function asked(project: TestProject, env: Record<string, string> = {}): ReturnType<TestProject['json']> {
  const own = project.json(inspect, env);
  const gate = project.json(['gate', 'production'], env);
  const answersOf = ({ report }: typeof own) =>
    Object.entries(report.answers as Record<string, { answer: string }>).map(([name, { answer }]) => [name, answer]);
  expect(answersOf(gate), 'the answers of gate').toEqual(answersOf(own));
  if (own.code !== 0) expect(gate.code, 'the exit code of gate').not.toBe(0);
  return own;
}
