import { finding, type RawFinding } from '../findings/finding.js';
import type { BuildFacts } from '../receipt/build-facts.js';
import { stalenessFindings } from '../receipt/staleness.js';
import type { Conclusion } from './conclusion.js';
import type { DigestedFile, OutputFacts } from './facts.js';
import { isUndecided } from './last-build.js';
import { locator } from './located.js';

/**
 * Files and embedded files of earlier builds, wherever they are now, also beside the new ones in the bundle's own output. A file that
 * several builds wrote counts as of the newest; those of a whole output's own build are compared by its receipt.
 */
export const earlierBuilds: Conclusion = {
  findings: (output, { stage }) =>
    [...recognised(output).builds].flatMap(([build, files]) => findingsOf(build, files, output, stage)),
  asks(output) {
    if (output.isWhole || !output.hasBuilds) return [];
    const { unknown } = recognised(output);
    const archives = new Set(output.files.flatMap(aroundIt));
    return unknown.every((file) => archives.has(keyOf(file.path, file.inside))) ? ['current'] : [];
  },
};

/** The files of each build, by their names at the build, and those of no build. */
function recognised({ files, earlier, build, isWhole }: OutputFacts): {
  builds: Map<BuildFacts, Map<string, DigestedFile>>;
  unknown: DigestedFile[];
} {
  const written = build?.files.filter(({ isUntouched }) => !isUntouched) ?? [];
  const own = isWhole ? new Set(written.map(({ sha256 }) => sha256)) : undefined;
  // A file on disk says more than the same one in an archive.
  const ordered = [...files].sort((a, b) => Math.sign(b.inside.length) - Math.sign(a.inside.length));
  const left = new Map(ordered.flatMap((file) => file.sha256.slice(0, 1).map((sha256) => [sha256, file] as const)));
  for (const sha256 of own ?? []) left.delete(sha256);
  const builds = new Map<BuildFacts, Map<string, DigestedFile>>();
  for (const one of earlier) {
    const found = new Map<string, DigestedFile>();
    // Builds list files that they did not write; an earlier build wrote them.
    for (const { name, sha256 } of one.files.filter(({ isUntouched }) => !isUntouched)) {
      const file = left.get(sha256);
      if (file) found.set(name, file);
      left.delete(sha256);
    }
    if (found.size > 0) builds.set(one, found);
  }
  return { builds, unknown: [...left.values()] };
}

function findingsOf(
  build: BuildFacts,
  files: ReadonlyMap<string, DigestedFile>,
  output: OutputFacts,
  stage: string,
): RawFinding[] {
  if (isUndecided(build)) return [];
  if (build.servesStage) {
    const names = new Set(files.keys());
    const now = { unchanged: names, present: names, seen: new Set<string>() };
    const all = stalenessFindings(stage, build, now, locator(output, build, files));
    const old = all.filter(({ code }) => code === 'stale/past-value');
    return output.isWhole ? old.flatMap((one) => leftOver(one, build, output)) : old;
  }
  const [first] = files.values();
  const { bundle, stage: builtFor, builtAt } = build;
  const at = first && { place: { path: first.path, inside: first.inside } };
  const variant = output.isWhole && first?.inside.length === 0 ? 'left-over' : 'file-of-other-stage';
  return [finding('stale/receipt', variant, { bundle, builtFor, builtAt }, at)];
}

/** An old value in a file that the last build did not write: another build would leave it there too. */
function leftOver(old: RawFinding, { bundle, builtAt }: BuildFacts, { build }: OutputFacts): RawFinding[] {
  const { variable = '', stage, place, excerpt } = old;
  // An archive is written as a whole, so the next build replaces what is in it.
  if (!place || place.inside.length > 0) return [old];
  // If the value changed after the last build, a rebuild writes the file, and the receipt of that build says so.
  if (build?.values.some((one) => one.variable === variable && one.relation !== 'same')) return [];
  const context = { place, ...(stage && { stage }), bundle, ...(excerpt && { excerpt }) };
  return [finding('stale/past-value', 'left-over', { bundle, variable, builtAt }, context)];
}

function keyOf(path: string, inside: readonly string[]): string {
  return JSON.stringify([path, ...inside]);
}

/** The archives that an embedded file is in. */
function aroundIt({ path, inside }: DigestedFile): string[] {
  return inside.map((_, depth) => keyOf(path, inside.slice(0, depth)));
}
