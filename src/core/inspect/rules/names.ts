import { finding, type RawFinding } from '../../findings/finding.js';
import { type ArtifactRule, subject } from '../rule.js';
import { marksFor } from '../token-runs.js';

/** The kind of marks that are names of server variables. */
const NAME = 'server-name';

/** Names of server variables in code for browsers: their values are not there, but who reads the code knows what to look for. */
export const serverNames: ArtifactRule = {
  codes: ['leak/name'],
  marks: ({ serverNames }) => marksFor(NAME, serverNames),
  async check(hits, { content, inspected, found, describe }) {
    if (inspected.audience !== 'browser' || content.original !== undefined) return [];
    if (found.some(({ code }) => code === 'leak/env-file' || code === 'leak/env-dump')) return [];
    // Beside its value, or a read that is reported, the name is not worth a finding.
    const withValue = new Set(found.map(({ variable }) => variable));
    const first = new Map<string, { start: number; end: number }>();
    for (const { start, end } of hits) {
      const around = Buffer.from(content.read(Math.max(0, start - 1), end + 1)).toString('latin1');
      const name = Buffer.from(content.read(start, end)).toString();
      const isWord =
        !/^\w/.test(start === 0 ? '' : around) && !/\w$/.test(around.slice(name.length + (start === 0 ? 0 : 1)));
      if (isWord && !withValue.has(name) && !first.has(name)) first.set(name, { start, end });
    }
    const described = await describe([...first.values()]);
    return [...first.keys()].map((name, index): RawFinding => {
      const at = described[index] ?? { place: { ...content.where } };
      return finding('leak/name', 'name', { variable: name }, { ...subject(inspected), ...at });
    });
  },
};
