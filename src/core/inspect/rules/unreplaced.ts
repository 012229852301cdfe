import { isPage, scriptLanguage } from '../../files/languages.js';
import { finding, type RawFinding } from '../../findings/finding.js';
import { limits } from '../../limits/index.js';
import type { UnreplacedRead } from '../plan.js';
import type { ArtifactRule } from '../rule.js';

/** The kind of marks that are reads of public variables. */
const READ = 'read';

/** The shortest text that the matcher finds, in bytes. */
const SHORTEST_MARK = 4;

/** A placeholder with a name of one letter, `%A%`, is searched for with each byte that may precede it. */
function longEnough(text: Buffer): Buffer[] {
  if (text.length >= SHORTEST_MARK) return [text];
  return Array.from({ length: 256 }, (_, byte) => Buffer.concat([Buffer.from([byte]), text]));
}

/**
 * Reads that the build left in shipped code. A text counts only where a script reads it, not in a string or comment; embedded
 * files are source text, or belong to an app with an environment of its own.
 */
export const unreplacedReads: ArtifactRule = {
  codes: ['read/unreplaced'],
  marks: ({ reads }) =>
    reads.flatMap(({ text }) => longEnough(Buffer.from(text)).map((bytes) => ({ kind: READ, bytes }))),
  async check(hits, { content, inspected, plan, describe }) {
    const { where, fileName, size } = content;
    const isScript = scriptLanguage(fileName) !== undefined;
    if (inspected.audience !== 'browser' || where.inside.length > 0 || size > limits.scriptBytes.value) return [];
    if (!isScript && !isPage(fileName)) return [];
    const own = new Map(
      plan.reads.filter(({ bundle }) => bundle === inspected.bundle).map((read) => [read.text, read]),
    );
    const first = new Map<UnreplacedRead, { start: number; end: number }>();
    for (const { start, end } of hits) {
      const text = Buffer.from(content.read(start, end)).toString('latin1');
      const read = own.get(text) ?? own.get(text.slice(1));
      if (read && !first.has(read)) first.set(read, { start: end - read.text.length, end });
    }
    if (first.size === 0) return [];
    const isReal = await readsOf(fileName, await content.text());
    const real = [...first].filter(([read]) => (read.object === 'placeholder' ? !isScript : isReal(read)));
    const described = await describe(real.map(([, range]) => range));
    return real.map(([read], index): RawFinding => {
      const { variable, text, object, bundle } = read;
      const about = { variable, stage: inspected.stage, bundle };
      return finding('read/unreplaced', 'read', { text, object }, { ...about, ...described[index] });
    });
  },
};

/** Tells whether the scripts of a file read a name from an object. The parser is loaded when it is needed. */
async function readsOf(fileName: string, text: string): Promise<(read: UnreplacedRead) => boolean> {
  const { readsIn } = await import('../../reads/index.js');
  const { reads } = readsIn(fileName, text, ['import.meta.env', 'process.env']);
  return ({ name, object }) =>
    reads.some((read) => read.name === name && read.object === object && read.kind !== 'assigned');
}
