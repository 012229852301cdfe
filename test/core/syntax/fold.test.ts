import { expect, test } from 'vitest';
import { foldedTexts } from '../../../src/core/syntax/fold.js';
import { parseSyntax } from '../../../src/core/syntax/parse.js';

const folded = (code: string) => foldedTexts(parseSyntax(code, 'js').program).map(({ text }) => text);

test.each<[code: string, texts: string[]]>([
  ['f("made-" + "up" + "-key")', ['made-up-key']],
  ['const a = "made-", b = a + `up-${1}`; f(`${b}-key`)', ['made-up-1', 'made-up-1-key']],
  ['["made", "up", "key"].join("-")', ['made-up-key']],
  ['["a", "b"].join()', ['a,b']],
  ['"yek-pu-edam".split("").reverse().join("")', ['made-up-key']],
  ['String.fromCharCode(109, 97, 100, 101)', ['made']],
  ['const codes = [109, 97]; String.fromCharCode(...codes) + "de"', ['made']],
  ['atob("bWFkZQ==") + "-up"', ['made-up']],
  ['"a".concat("b") + 1 + 2', ['ab12']],
  // Expressions whose value is unknown before the code runs.
  ['"made-" + name', []],
  ['function f(a) { return a + "up" } const a = "made-"', []],
  ['const a = b + "x", b = a + "y"', []],
  ['1 + 2; [1, 2].join(f())', []],
])('%s', (code, texts) => expect(folded(code)).toEqual(texts));

test('outermost expressions alone, with their places', () => {
  const code = 'f(("a" + "b") + "c")';
  expect(foldedTexts(parseSyntax(code, 'js').program)).toEqual([{ text: 'abc', start: 2, end: code.length - 1 }]);
});

test('a sum of very many pieces takes no time of its square', () => {
  const code = `f(${Array.from({ length: 30 }, (_, index) => `"${index}"`).join(' + ')} + x)`;
  expect(folded(code)).toEqual([Array.from({ length: 30 }, (_, index) => index).join('')]);
});
