import { expect, test } from 'vitest';
import { parseSyntax } from '../../../src/core/syntax/parse.js';
import { walk } from '../../../src/core/syntax/walk.js';

/** The types of all nodes of a text. */
function typesIn(text: string): string[] {
  const types: string[] = [];
  walk(parseSyntax(text, 'js').program, ({ type }) => {
    types.push(type);
    return undefined;
  });
  return types;
}

test.each<[text: string, isAwaited: boolean]>([
  ['await (process.env).A', true],
  ['f(await (a))', true],
  ['await a', true],
  ["import 'a'; await (a)", true],
  // A script that declares the name is no module.
  ['function await(a) {} await (b)', false],
  ['a.await(b)', false],
  ['const await_ = 1', false],
])('%s awaits: %s', (text, isAwaited) => expect(typesIn(text).includes('AwaitExpression')).toBe(isAwaited));
