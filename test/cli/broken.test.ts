import { expect, test } from 'vitest';
import { commands } from '../../src/cli/commands/index.js';
import { calls, testBroken } from '../support/broken-calls.js';

test('every command that reads a project is among the calls', () => {
  const called = new Set(calls.map(([name]) => name));
  expect(Object.keys(commands).filter((name) => !called.has(name))).toEqual(['completion', 'demo']);
});

testBroken(0);
