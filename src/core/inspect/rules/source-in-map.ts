import { finding, type RawFinding } from '../../findings/finding.js';
import { limits } from '../../limits/index.js';
import { byteSize } from '../../text/display.js';
import { sourcesIn } from '../../unpack/formats/source-map.js';
import { type ArtifactRule, type FileNames, type Surroundings, subject } from '../rule.js';
import { marksFor } from '../token-runs.js';

/** The kind of marks that are references to a map inside the script or style itself. */
const INLINE_MAP = 'inline-map';

/** The code of server-only modules in maps that ship, and maps that must not ship. */
export const sourceInMap: ArtifactRule = {
  codes: ['leak/source-in-map'],
  marks: () => marksFor(INLINE_MAP, ['# sourceMappingURL=data:']),
  wants: (names, { audience, facts }) =>
    audience === 'browser' && isMap(names) && (facts?.forbidsMaps === true || facts?.isServerCode !== undefined),
  async check(hits, surroundings) {
    const { content, inspected, describe } = surroundings;
    const { facts, bundle, audience } = inspected;
    if (audience !== 'browser' || !facts) return [];
    const isOwnFile = content.fileName.endsWith('.map');
    if (facts.forbidsMaps && (isOwnFile || hits.length > 0)) {
      const [described] = await describe(hits.slice(0, 1).map(({ start, end }) => ({ start, end, isBrief: true })));
      const { excerpt: _, ...place } = described ?? { place: { ...content.where } };
      const about = { isFile: isOwnFile, bundle: bundle ?? '' };
      return [finding('leak/source-in-map', 'forbidden', about, { ...subject(inspected), ...place })];
    }
    return isMap({ fileName: content.fileName }) ? serverModules(surroundings) : [];
  },
};

/** A file of its own, or a data: URI. */
function isMap({ fileName }: Pick<FileNames, 'fileName'>): boolean {
  return /\.map$|^data:application\/json\b/.test(fileName);
}

async function serverModules(surroundings: Surroundings): Promise<RawFinding[]> {
  const { content, inspected, originalPath, unread } = surroundings;
  const { isServerCode } = inspected.facts ?? {};
  if (!isServerCode) return [];
  if (content.size > limits.mapBytes.value) {
    unread(`is larger than ${byteSize(limits.mapBytes.value)}, so its sources were not compared with \`server-code\``);
    return [];
  }
  const modules = sourcesIn(Buffer.from(await content.text()))
    .map(originalPath)
    .filter(isServerCode);
  if (modules.length === 0) return [];
  const more = { ...subject(inspected), place: { ...content.where } };
  return [finding('leak/source-in-map', 'server', { modules }, more)];
}
