import type { EnvFile, EnvProblem } from '../envfile/ast.js';
import type { Excerpt, RawFinding } from '../findings/finding.js';
import { MASK } from '../secret.js';
import { excerptOf } from '../text/frame.js';
import type { Position } from '../text/positions.js';

/** Whether a name's value may be shown. */
export type IsPublic = (name: string) => boolean;

/** A problem of an env file as a finding, with its line shown as far as that is safe. */
export function envProblemFinding(file: EnvFile, path: string, problem: EnvProblem, isPublic: IsPublic): RawFinding {
  const { code, level, name, message, remedy, start, end } = problem;
  const length = start.line === end.line ? end.column - start.column : Number.POSITIVE_INFINITY;
  return {
    code,
    ...(level && { level }),
    ...(name && { variable: name }),
    message,
    remedy,
    place: { path, inside: [], ...start, length: end.offset - start.offset },
    // A file in another encoding has no line that could be shown.
    ...(!file.lineText(start.line).includes('\0') && {
      excerpt: envExcerpt(file, start, length, name !== undefined && isPublic(name)),
    }),
  };
}

/**
 * A line of an env file to show.
 * @param length in UTF-16 units; what reaches beyond the line is cut
 * @param shown whether the value on it may be read
 */
export function envExcerpt(
  file: EnvFile,
  { line, column }: Pick<Position, 'line' | 'column'>,
  length: number,
  shown: boolean,
): Excerpt {
  const text = file.lineText(line);
  const room = Math.max(1, Math.min(length, text.length - column + 1));
  const piece = shown ? { text, column, length: room } : maskLine(text, column, room);
  return excerptOf(line, piece.text, piece.column, piece.length);
}

/**
 * A line whose value may not be shown: what stands before the first `=` stays, the rest is a mask. A line without `=`
 * may be the middle of a key that somebody broke, so nothing of it stays.
 */
function maskLine(line: string, column: number, length: number): { text: string; column: number; length: number } {
  const equals = line.indexOf('=');
  if (equals < 0) return { text: MASK, column: 1, length: MASK.length };
  const text = line.slice(0, equals + 1) + MASK;
  const inValue = column > equals + 1;
  return inValue
    ? { text, column: equals + 2, length: MASK.length }
    : { text, column, length: Math.min(length, text.length - column + 1) };
}
