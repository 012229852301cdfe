import type { Offer } from '../resolve/layer.js';
import { reveal } from '../secrets/secret.js';
import { joinWords } from '../text/nearest.js';
import type { DraftBundle } from './bundles.js';
import { layerText, type ValueFile } from './material.js';
import type { DraftStage } from './stages.js';

/**
 * Gives each package's files to its own bundles, if packages of a monorepo use one name for different values. Files outside
 * the packages stay with the stages.
 */
export function divideLayers(
  stages: readonly DraftStage[],
  bundles: readonly DraftBundle[],
  files: readonly ValueFile[],
): { stages: DraftStage[]; bundles: DraftBundle[] } {
  const folders = [...new Set(bundles.map(({ folder }) => folder))];
  const listed = new Set(stages.flatMap(({ layers }) => layers));
  const values = files.filter((file) => listed.has(layerText(file)));
  if (!hasConflict(values, folders)) return { stages: [...stages], bundles: [...bundles] };
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

/** Tells whether files of two packages give one name different values for the same stage. */
function hasConflict(files: readonly ValueFile[], folders: readonly string[]): boolean {
  const known = new Map<string, { owner: string; text: string }>();
  return files.some(({ path, stage, layer }) =>
    layer.offers.some((offer) => {
      const key = JSON.stringify([offer.name, stage]);
      const now = { owner: ownerOf(path, folders), text: offerText(offer) };
      const earlier = known.get(key);
      known.set(key, now);
      return earlier !== undefined && earlier.owner !== now.owner && earlier.text !== now.text;
    }),
  );
}

/** A value as its file has it, to compare with others. */
export function offerText({ value }: Offer): string {
  if (value.kind === 'plain') return reveal(value.text);
  return JSON.stringify(value.template.map((part) => (part.kind === 'text' ? part.text : part.name)));
}

/** The innermost of some directories that has a file; empty for the project's own. */
function ownerOf(path: string, folders: readonly string[]): string {
  return folders.filter((folder) => path.startsWith(folder)).sort((a, b) => b.length - a.length)[0] ?? '';
}
