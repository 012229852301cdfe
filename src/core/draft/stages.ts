import { compareStages } from '../files/value-files.js';
import { ships } from '../resolve/value-rules.js';
import { joinWords } from '../text/nearest.js';
import type { Undecided, ValueFile } from './material.js';

/** A stage of the draft. */
export interface DraftStage {
  name: string;
  /** File names, and `process`. */
  layers: string[];
  because: string;
  /** Whether some file is for this stage; the others are there because a project has them. */
  isTold: boolean;
}

export interface DraftStages {
  stages: DraftStage[];
  undecided: Undecided[];
}

/** The stages that the names of files tell, with their layers from the most shared to the most local. */
export function draftStages(files: readonly ValueFile[]): DraftStages {
  const values = files.filter(({ kind }) => kind === 'env' || kind === 'structured' || kind === 'module');
  // If a stage's only file is misnamed, its correct name becomes an absent layer, so that every check reports it.
  const found = [
    ...new Set([...values, ...files.filter(({ kind }) => kind === 'misnamed')].flatMap(({ stage }) => stage ?? [])),
  ];
  const hasShared = values.some(({ stage, kind }) => stage === undefined && kind === 'env');
  const names = new Set(found);
  if (found.length === 0 || hasShared) names.add('development');
  if (![...names].some(ships)) names.add('production');
  const drafted = [...names].sort(compareStages).map((name) => stageFrom(name, values, meantFor(name, files)));
  // A fresh clone has no env file yet: the usual ones are named, so that there is a place for values.
  const stages = values.length > 0 ? drafted : drafted.map(withUsualFiles);
  return { stages, undecided: [...twins(values), ...keptOut(values), ...strays(files)] };
}

function withUsualFiles(stage: DraftStage): DraftStage {
  const usual = ['.env', `.env.${stage.name}`].filter((file) => !stage.layers.includes(file));
  return stage.layers.some((layer) => layer !== 'process')
    ? stage
    : { ...stage, layers: [...usual, ...stage.layers], because: 'no env file exists yet; these are the usual ones' };
}

function meantFor(name: string, files: readonly ValueFile[]): string[] {
  const paths = files.map(({ path }) => path);
  return files.flatMap(({ kind, stage, meant, isLocal }) =>
    kind === 'misnamed' && stage === name && meant !== undefined && !isLocal && !paths.includes(meant) ? [meant] : [],
  );
}

/** @param meant right names of misnamed files of the stage */
function stageFrom(name: string, files: readonly ValueFile[], meant: readonly string[]): DraftStage {
  const isShipped = ships(name);
  const own = files.filter(({ stage, isLocal }) => stage === name && !(isShipped && isLocal));
  const shared = files.filter(
    ({ stage, isLocal, ...file }) => stage === undefined && !(isShipped && isLocal) && isBaseOf(file, name, files),
  );
  const layers = [...shared, ...own].sort(compareLayers).map(({ path }) => path);
  const words = [
    ...new Set(own.map(({ stageWord }) => stageWord).filter((word) => word !== undefined && word !== name)),
  ];
  const because =
    own.length === 0 && meant.length > 0
      ? `from a misnamed file; tools would read ${joinWords(meant)}`
      : own.length === 0
        ? 'no file is only for this stage'
        : `from the name${own.length === 1 ? '' : 's'} of ${joinWords(own.map(({ path }) => path))}${words.length > 0 ? ` (${joinWords(words as string[])})` : ''}`;
  const isTold = own.length > 0 || meant.length > 0;
  return { name, layers: [...layers, ...meant, ...(isShipped ? ['process'] : [])], because, isTold };
}

/**
 * A module without a stage, next to modules with one, is the development variant, not a base of the others. Files of other
 * kinds without a stage apply to all stages.
 */
function isBaseOf(file: Pick<ValueFile, 'kind' | 'folder'>, stage: string, files: readonly ValueFile[]): boolean {
  if (file.kind === 'env') return true;
  const siblings = files.filter(
    ({ kind, folder, stage }) => kind === file.kind && folder === file.folder && stage !== undefined,
  );
  if (siblings.length === 0) return false;
  return file.kind === 'structured' || (stage === 'development' && !siblings.some((one) => one.stage === stage));
}

/** Files of a build first, env files over them; then shared before own, and what is local at the end. */
function compareLayers(a: ValueFile, b: ValueFile): number {
  const rank = ({ kind, stage, isLocal }: ValueFile) =>
    (kind === 'env' ? 4 : 0) + (isLocal ? 2 : 0) + (stage === undefined ? 0 : 1);
  return rank(a) - rank(b) || a.folder.length - b.folder.length || a.path.localeCompare(b.path);
}

/** Two files in one directory for one stage. */
function twins(files: readonly ValueFile[]): Undecided[] {
  const groups = new Map<string, ValueFile[]>();
  for (const file of files) {
    if (file.stage === undefined || file.isLocal) continue;
    const key = JSON.stringify([file.folder, file.kind, file.stage]);
    groups.set(key, [...(groups.get(key) ?? []), file]);
  }
  return [...groups.values()]
    .filter((group) => group.length > 1)
    .map((group) => ({
      message: `${joinWords(group.map(({ path }) => path))} are for the same stage, ${group[0]?.stage}; the last one wins`,
      remedy: 'check which of them the build reads, and remove the others from the layers',
      path: group.at(-1)?.path as string,
    }));
}

/** Local files never count in a stage that ships: what a laptop has must not win there. */
function keptOut(files: readonly ValueFile[]): Undecided[] {
  return files
    .filter(({ stage, isLocal }) => isLocal && stage !== undefined && ships(stage))
    .map(({ path, stage }) => ({
      message: `${path} is a local file, so it is not a layer of ${stage}`,
      remedy: 'set its values in the pipeline, or list it as the last layer if every build needs them',
      path,
    }));
}

function strays(files: readonly ValueFile[]): Undecided[] {
  return files.flatMap(({ kind, path, meant }): Undecided[] => {
    if (kind === 'misnamed')
      return [
        {
          message: `${path} looks like an env file, but no tool reads a file of that name`,
          remedy: `rename it to ${meant}, or remove it`,
          path,
        },
      ];
    if (kind === 'leftover')
      return [
        {
          message: `${path} looks like an old copy of an env file`,
          remedy: 'remove it; its values are still secret',
          path,
        },
      ];
    return [];
  });
}
