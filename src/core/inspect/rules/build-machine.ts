import type { RawFinding } from '../../findings/finding.js';
import type { MarkHit } from '../../search/scan.js';
import type { Content } from '../content.js';
import type { ArtifactRule } from '../rule.js';
import { marksFor } from '../token-runs.js';

/** The kind of marks that are directories of this machine. */
const DIRECTORY = 'directory';
/** Those that are its names. */
const HOST = 'host-name';

/** Directories of the machine that built: they name people and show how a project is laid out. */
export const buildMachine: ArtifactRule = {
  codes: ['leak/build-machine'],
  marks: ({ directories, hostNames }) => [...marksFor(DIRECTORY, directories), ...marksFor(HOST, hostNames)],
  async check(hits, { content, inspected, describe }) {
    const [first] = hits.filter((hit) => hit.kind === DIRECTORY || isWord(content, hit));
    if (!first || inspected.audience !== 'browser' || content.original !== undefined) return [];
    const [described] = await describe([{ start: first.start, end: first.end }]);
    return [
      {
        code: 'leak/build-machine',
        // Maps have the paths of their sources by design, and often do not ship.
        ...(content.fileName.endsWith('.map') && { level: 'note' as const }),
        ...(inspected.bundle && { bundle: inspected.bundle }),
        message:
          first.kind === HOST
            ? 'contains the host name of this machine'
            : 'contains the path of a directory of this machine',
        remedy:
          first.kind === HOST
            ? 'find what writes it (a banner, a version file, a define option), and remove it there'
            : "set paths relative to the project in the build tool's options, or build in a directory with a general name",
        ...(described ?? { place: { ...content.where } }),
      } satisfies RawFinding,
    ];
  },
};

/** Whether a name is not a part of a longer one. */
function isWord({ read }: Content, { start, end }: MarkHit): boolean {
  const around = Buffer.from(read(Math.max(0, start - 1), end + 1)).toString('latin1');
  const before = start === 0 ? '' : around.slice(0, 1);
  return !/[\w-]/.test(before) && !/[\w-]/.test(around.slice(before.length + end - start));
}
