import { finding } from '../../findings/finding.js';
import type { MarkHit } from '../../search/scan.js';
import type { Content } from '../content.js';
import type { ArtifactRule } from '../rule.js';
import { marksFor } from '../token-runs.js';

/** The kind of marks that are directories of this machine. */
const DIRECTORY = 'directory';
/** Owner of the marks that are names of the machine. */
const HOST = 'host-name';

/** Directories of the machine that built: they name people and show how a project is laid out. */
export const buildMachine: ArtifactRule = {
  codes: ['leak/build-machine'],
  marks: ({ directories, hostNames }) => [...marksFor(DIRECTORY, directories), ...marksFor(HOST, hostNames)],
  async check(hits, { content, inspected, describe }) {
    const [first] = hits.filter((hit) => hit.kind === DIRECTORY || isWord(content, hit));
    if (!first || inspected.audience !== 'browser' || content.original !== undefined) return [];
    const [described] = await describe([{ start: first.start, end: first.end }]);
    const more = {
      // Maps have the paths of their sources by design, and often do not ship.
      ...(content.fileName.endsWith('.map') && { level: 'note' as const }),
      ...(inspected.bundle && { bundle: inspected.bundle }),
      ...(described ?? { place: { ...content.where } }),
    };
    return [finding('leak/build-machine', first.kind === HOST ? 'host-name' : 'directory', {}, more)];
  },
};

/** Tells whether a name is not a part of a longer one. */
function isWord({ read }: Content, { start, end }: MarkHit): boolean {
  const around = Buffer.from(read(Math.max(0, start - 1), end + 1)).toString('latin1');
  const before = start === 0 ? '' : around.slice(0, 1);
  return !/[\w-]/.test(before) && !/[\w-]/.test(around.slice(before.length + end - start));
}
