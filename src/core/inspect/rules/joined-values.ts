import { markupLanguage, scriptLanguage } from '../../files/languages.js';
import { limits } from '../../limits/index.js';
import { byteSize } from '../../text/display.js';
import type { ValueHit } from '../hits.js';
import type { ArtifactRule, Surroundings } from '../rule.js';
import { decodedFindings } from './decoded.js';

/** The kind of marks that are fragments of secrets. */
const FRAGMENT = 'fragment';

const notSearched = 'values that it joins from pieces were not searched for';

/** Secrets that a script joins from pieces. Only scripts with a fragment of a secret are parsed. */
export const joinedValues: ArtifactRule = {
  codes: ['leak/known-value'],
  marks: ({ fragments }) => fragments.map((bytes) => ({ kind: FRAGMENT, bytes })),
  async check(_, surroundings) {
    const { content, unread } = surroundings;
    const { fileName, size } = content;
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
      return joinedTexts(await content.text(), fileName).flatMap(({ text, start, end }) =>
        decodedFindings(
          secretsIn(text, surroundings),
          { start, end, step: 'joined' },
          surroundings,
          (code) => code === 'leak/known-value',
        ),
      );
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
