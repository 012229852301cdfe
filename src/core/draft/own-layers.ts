import { joinWords } from '../text/nearest.js';
import type { DraftBundle } from './bundles.js';
import type { DraftStage } from './stages.js';

/**
 * Gives each package's files to its own bundles, if a project has bundles in several packages: a monorepo's packages use the
 * same names for different values. Files outside the packages stay with the stages.
 */
export function divideLayers(
  stages: readonly DraftStage[],
  bundles: readonly DraftBundle[],
): { stages: DraftStage[]; bundles: DraftBundle[] } {
  const folders = [...new Set(bundles.map(({ folder }) => folder))];
  const paths = stages.flatMap(({ layers }) => layers);
  const owners = new Set(paths.map((path) => ownerOf(path, folders)));
  const isDivided = folders.length > 1 && [...owners].some((folder) => folder !== '');
  if (!isDivided) return { stages: [...stages], bundles: [...bundles] };
  const isOf = (folder: string) => (path: string) => path !== 'process' && ownerOf(path, folders) === folder;
  return {
    stages: stages.map((stage) => sharedPart(stage, stage.layers.filter(isOf('')))),
    bundles: bundles.map((bundle) => {
      const { folder, because } = bundle;
      const own = folder === '' ? [] : stages.map(({ name, layers }) => [name, layers.filter(isOf(folder))] as const);
      const layers = Object.fromEntries(own.filter(([, list]) => list.length > 0));
      const hasOwn = Object.keys(layers).length > 0;
      return { ...bundle, layers, because: hasOwn ? `${because}; ${folder} has env files of its own` : because };
    }),
  };
}

/** A stage needs one layer; a shared file may be added later. */
function sharedPart(stage: DraftStage, shared: readonly string[]): DraftStage {
  const hasProcess = stage.layers.includes('process');
  const rest = hasProcess ? ['process'] : shared.length > 0 ? [] : ['.env'];
  const moved = stage.layers.filter((path) => path !== 'process' && !shared.includes(path));
  const because = moved.length > 0 ? `${stage.because}; the bundles have ${joinWords(moved)}` : stage.because;
  return { ...stage, layers: [...shared, ...rest], because };
}

/** The innermost of some directories that has a file; empty for the project's own. */
function ownerOf(path: string, folders: readonly string[]): string {
  return folders.filter((folder) => path.startsWith(folder)).sort((a, b) => b.length - a.length)[0] ?? '';
}
