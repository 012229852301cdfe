import type { RawFinding } from '../../findings/finding.js';
import type { ArtifactRule } from '../rule.js';
import { marksFor } from '../token-runs.js';

/** The kind of marks that are directories of this machine. */
const DIRECTORY = 'directory';

/** Directories of the machine that built: they name people and show how a project is laid out. */
export const buildMachine: ArtifactRule = {
  codes: ['leak/build-machine'],
  marks: ({ directories }) => marksFor(DIRECTORY, directories),
  async check(hits, { content, inspected, describe }) {
    const [first] = hits;
    if (!first || inspected.audience !== 'browser' || content.original !== undefined) return [];
    const [described] = await describe([{ start: first.start, end: first.end }]);
    return [
      {
        code: 'leak/build-machine',
        // Maps have the paths of their sources by design, and often do not ship.
        ...(content.fileName.endsWith('.map') && { level: 'note' as const }),
        ...(inspected.bundle && { bundle: inspected.bundle }),
        message: 'contains the path of a directory of this machine',
        remedy:
          "set paths relative to the project in the build tool's options, or build in a directory with a general name",
        ...(described ?? { place: { ...content.where } }),
      } satisfies RawFinding,
    ];
  },
};
