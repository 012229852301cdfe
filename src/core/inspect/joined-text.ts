import { type ScriptLanguage, scriptLanguage } from '../files/languages.js';
import { foldedTexts } from '../syntax/fold.js';
import { inlineScripts } from '../syntax/inline-scripts.js';
import { type Node, parseSyntax, TOO_DEEP } from '../syntax/parse.js';
import { type Position, textPositions } from '../text/positions.js';

/** A string that a script joins from pieces, with the place of the expression. */
export interface JoinedText {
  text: string;
  start: Position;
  end: Position;
}

/**
 * The strings that a script, or the scripts of a page, joins from pieces.
 * @param fileName tells the language
 * @throws RangeError if a script nests too deeply
 */
export function joinedTexts(text: string, fileName: string): JoinedText[] {
  const positionOf = textPositions(text);
  const language = scriptLanguage(fileName);
  const scripts = language ? [{ code: text, kind: language, start: 0 }] : inlineScripts(text);
  return scripts.flatMap(({ code, kind, start: base }) =>
    foldedTexts(parsed(code, kind)).map((one) => ({
      text: one.text,
      start: positionOf(base + one.start),
      end: positionOf(base + one.end),
    })),
  );
}

function parsed(code: string, language: ScriptLanguage): Node {
  const { program, problem } = parseSyntax(code, language);
  if (problem?.message === TOO_DEEP) throw new RangeError(TOO_DEEP);
  return program;
}
