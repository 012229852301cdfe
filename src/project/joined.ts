import { markupLanguage, type ScriptLanguage, scriptLanguage } from '../core/files/languages.js';
import type { Place } from '../core/findings/finding.js';
import { placeBetween } from '../core/findings/place.js';
import type { ValueHit } from '../core/inspect/hits.js';
import type { LocatedHit } from '../core/inspect/rules.js';
import { type Folded, foldedTexts } from '../core/syntax/fold.js';
import { inlineScripts } from '../core/syntax/inline-scripts.js';
import { type Node, parseSyntax, TOO_DEEP } from '../core/syntax/parse.js';
import { textPlaces } from '../core/text/positions.js';

/** Whether something of this name may have scripts. */
export function mayHaveScripts(name: string): boolean {
  return markupLanguage(name) !== undefined || scriptLanguage(name) !== undefined;
}

/**
 * Values that scripts put together from pieces, by their syntax trees. What stands there is not shown: a mask knows whole values, and
 * not their pieces.
 * @param text of a script, or of a page with scripts, told by its name
 * @param where it is, as reports have it
 * @param known what stands there as a whole is told already
 * @param secretsIn the whole secrets in a text, each once
 * @throws RangeError where a script nests too deeply
 */
export function joinedSecrets(
  text: string,
  name: string,
  where: Pick<Place, 'path' | 'inside'>,
  known: readonly LocatedHit[],
  secretsIn: (text: string) => readonly ValueHit[],
): LocatedHit[] {
  const placeOf = textPlaces(text);
  return foldedIn(text, name).flatMap((folded) => {
    const secrets = secretsIn(folded.text);
    if (secrets.length === 0) return [];
    const offset = Buffer.byteLength(text.slice(0, folded.start));
    const length = Buffer.byteLength(text.slice(folded.start, folded.end));
    const [start, end] = [placeOf(folded.start), placeOf(folded.end)];
    const place = placeBetween(where, { ...start, offset }, { ...end, offset: offset + length });
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

/** @throws RangeError where the script nests too deeply */
function parsed(code: string, kind: ScriptLanguage): Node {
  const { program, problem } = parseSyntax(code, kind);
  if (problem?.message === TOO_DEEP) throw new RangeError(TOO_DEEP);
  return program;
}

function foldedIn(text: string, name: string): Folded[] {
  const kind = scriptLanguage(name);
  const scripts = kind ? [{ code: text, kind, start: 0 }] : inlineScripts(text);
  return scripts.flatMap(({ code, kind, start }) =>
    foldedTexts(parsed(code, kind)).map((one) => ({
      text: one.text,
      start: one.start + start,
      end: one.end + start,
    })),
  );
}
