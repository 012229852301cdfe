import type { EnvFile, EnvProblem } from '../envfile/ast.js';
import type { RawFinding } from '../findings/finding.js';
import { placeBetween } from '../findings/place.js';
import { MASK } from '../secrets/secret.js';
import type { Excerpt } from '../text/frame.js';
import { excerptOf } from '../text/frame.js';
import type { Position } from '../text/positions.js';
import { namesSecret } from '../tokens/shapes.js';
import { isSecretByText } from '../tokens/strength.js';

/** Facts about names in an env file, which decide how much of a line is shown. */
export interface NameFacts {
  /** Tells whether the name's value may be shown. */
  isPublic(name: string): boolean;
  /** Tells whether the contract has the name. */
  isDeclared(name: string): boolean;
}

/** For files that are not a layer of a contract. */
export const noFacts: NameFacts = { isPublic: () => false, isDeclared: () => false };

/**
 * A problem of an env file as a finding, with its line shown as far as that is safe. A string that looks like a name on a broken
 * line may be a piece of a value, so only names that the contract or a valid line has are shown.
 */
export function envProblemFinding(file: EnvFile, path: string, problem: EnvProblem, facts: NameFacts): RawFinding {
  const { name, start, end, ...finding } = problem;
  const length = start.line === end.line ? end.column - start.column : Number.POSITIVE_INFINITY;
  const isKnown = name !== undefined && isKnownName(file, facts, name);
  return {
    ...finding,
    ...(isKnown && { variable: name }),
    place: placeBetween({ path }, start, end),
    // A file in another encoding has no line that could be shown.
    ...(!file.lineText(start.line).includes('\0') && { excerpt: envExcerpt(file, start, length, facts, name) }),
  };
}

/**
 * A line of an env file to show.
 * @param length in UTF-16 units; what reaches beyond the line is cut
 * @param name the variable that the line sets, if any
 */
export function envExcerpt(
  file: EnvFile,
  { line, column }: Pick<Position, 'line' | 'column'>,
  length: number,
  facts: NameFacts,
  name?: string,
): Excerpt {
  const text = file.lineText(line);
  const isShown = name !== undefined && isShownName(facts, name) && !isSecretByText(text);
  const piece = isShown
    ? { text, column, length }
    : maskLine(text, column, length, (one) => isKnownName(file, facts, one));
  const room = Math.max(1, Math.min(piece.length, piece.text.length - piece.column + 1));
  return excerptOf(line, piece.text, piece.column, room);
}

/** Tells whether reports may show a name's value: a public one under a secret's name is left to decide. */
export function isShownName({ isPublic }: NameFacts, name: string): boolean {
  return isPublic(name) && !namesSecret(name);
}

function isKnownName(file: EnvFile, { isDeclared }: NameFacts, name: string): boolean {
  return isDeclared(name) || file.names.has(name);
}

/** A line whose value may not be shown: a known name at its beginning stays, the rest is a mask. */
function maskLine(
  line: string,
  column: number,
  length: number,
  isKnown: (name: string) => boolean,
): { text: string; column: number; length: number } {
  const [, before = '', name = '', gap = ''] =
    /^(\s*(?:export\s+)?)([A-Za-z_]\w*)?(\s*=?)/.exec(line.slice(0, LONGEST_HEAD)) ?? [];
  if (!isKnown(name)) return { text: MASK, column: 1, length: MASK.length };
  const head = before + name + gap;
  const hasRest = line.length > head.length;
  const text = hasRest ? head + MASK : head;
  return column > head.length
    ? { text, column: head.length + 1, length: MASK.length }
    : { text, column, length: Math.min(length, text.length - column + 1) };
}

/** Maximum length of what precedes a value; the rest of a long line is not scanned. */
const LONGEST_HEAD = 300;
