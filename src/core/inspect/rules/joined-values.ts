import { markupLanguage, scriptLanguage } from '../../files/languages.js';
import { placeBetween } from '../../findings/place.js';
import { limits } from '../../limits/index.js';
import { byteSize } from '../../text/display.js';
import type { ValueHit } from '../hits.js';
import type { ArtifactRule, Surroundings } from '../rule.js';
import { valueFinding } from './known-values.js';

/** The kind of marks that are fragments of secrets. */
const FRAGMENT = 'fragment';

const notSearched = 'values that it joins from pieces were not searched for';

/** Secrets that a script joins from pieces. Only scripts with a fragment of a secret are parsed. */
export const joinedValues: ArtifactRule = {
  codes: ['leak/known-value'],
  marks: ({ fragments }) => fragments.map((bytes) => ({ kind: FRAGMENT, bytes })),
  async check(_, surroundings) {
    const { content, inspected, found, unread } = surroundings;
    const { fileName, size, where, original } = content;
    if (!scriptLanguage(fileName) && !markupLanguage(fileName)) return [];
    if (size > limits.scriptBytes.value) {
      unread(
        `contains a fragment of a secret and is larger than ${byteSize(limits.scriptBytes.value)}: ${notSearched}`,
      );
      return [];
    }
    try {
      // The parser is loaded when the first fragment is found.
      const { joinedTexts } = await import('../joined-text.js');
      return joinedTexts(await content.text(), fileName).flatMap(({ text, start, end }) => {
        const place = placeBetween(where, start, end);
        const isKnown = ({ owner }: ValueHit) =>
          found.some(
            (one) =>
              one.code === 'leak/known-value' &&
              one.variable === owner.variable &&
              isWithin(one.place?.offset, start.offset, end.offset),
          );
        const origin =
          original === undefined ? {} : { origin: { path: original, line: start.line, column: start.column } };
        return secretsIn(text, surroundings)
          .filter((hit) => !isKnown(hit))
          .flatMap(({ owner, encoding }) => {
            const steps = ['joined', ...encoding.filter((name) => name !== 'plain')];
            // No excerpt: a mask knows whole values, not their pieces.
            return valueFinding({ owner, encoding: steps }, { place, ...origin }, inspected);
          });
      });
    } catch {
      unread(`contains a fragment of a secret and could not be parsed: ${notSearched}`);
      return [];
    }
  },
};

/** Whole secrets in a text, each once. */
function secretsIn(text: string, { valuesIn }: Surroundings): ValueHit[] {
  const secrets = valuesIn(Buffer.from(text)).filter(({ owner }) => owner.role === 'secret' && !owner.part);
  return [...new Map(secrets.map((hit) => [hit.owner, hit])).values()];
}

function isWithin(offset: number | undefined, start: number, end: number): boolean {
  return offset !== undefined && start <= offset && offset < end;
}
