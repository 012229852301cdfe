import type { Place } from '../core/findings/finding.js';
import type { ValueHit } from '../core/inspect/hits.js';
import type { LocatedHit } from '../core/inspect/rules.js';
import { foldedTexts } from '../core/syntax/fold.js';
import { parseSyntax, scriptKind } from '../core/syntax/parse.js';
import { textPlaces } from '../core/text/positions.js';
import { readHelpfulText } from '../host/files.js';

/** Larger scripts are not looked at a second time. */
export const LARGEST_SCRIPT = 8 * 2 ** 20;

/**
 * Values that a script puts together from pieces, by its syntax tree. What stands there is not shown: a mask knows whole values, and
 * not their pieces.
 * @param shown the path as reports have it
 * @param known what stands there as a whole is told already
 * @param secretsIn the whole secrets in a text, each once
 */
export function joinedSecrets(
  path: string,
  shown: string,
  known: readonly LocatedHit[],
  secretsIn: (text: string) => readonly ValueHit[],
): LocatedHit[] {
  const kind = scriptKind(path);
  const text = kind && readHelpfulText(path, LARGEST_SCRIPT);
  if (!kind || !text) return [];
  const placeOf = textPlaces(text);
  return foldedTexts(parseSyntax(text, kind).program).flatMap((folded) => {
    const secrets = secretsIn(folded.text);
    if (secrets.length === 0) return [];
    const offset = Buffer.byteLength(text.slice(0, folded.start));
    const length = Buffer.byteLength(text.slice(folded.start, folded.end));
    const place: Place = { path: shown, inside: [], ...placeOf(folded.start), offset, length };
    const isThere = ({ place: { offset: at = -1 } }: LocatedHit) => offset <= at && at < offset + length;
    const there = known.filter(isThere).map(({ owner }) => owner);
    return secrets
      .filter(({ owner }) => !there.includes(owner))
      .map(({ owner, encoding }) => ({
        owner,
        encoding: ['joined', ...encoding.filter((name) => name !== 'plain')],
        place,
      }));
  });
}
