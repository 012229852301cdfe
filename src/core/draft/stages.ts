import { compareStages, stageOfWord } from '../files/value-files.js';
import { finding, type RawFinding } from '../findings/finding.js';
import { ships } from '../resolve/value-rules.js';
import { joinWords } from '../text/nearest.js';
import { toolchainOf } from '../toolchains/index.js';
import type { DraftBundle } from './bundles.js';
import { decidedAt, layerText, type Material, type ValueFile } from './material.js';

/** A stage of the draft. */
export interface DraftStage {
  name: string;
  /** File names, and `process`. */
  layers: string[];
  because: string;
  /** True if some file is for this stage; the others are there because a project has them. */
  isTold: boolean;
  /** True if a layer of its own sets values. */
  hasValues: boolean;
}

export interface DraftStages {
  stages: DraftStage[];
  undecided: RawFinding[];
}

/** The stages of a project's files, scripts and configurations, with their layers from the most shared to the most local. */
export function draftStages(material: Material, bundles: readonly DraftBundle[]): DraftStages {
  const { files } = material;
  const values = files.filter(({ kind }) => kind === 'env' || kind === 'structured' || kind === 'module');
  // If a stage's only file is misnamed, its correct name becomes an absent layer, so that every check reports it.
  const found = [...values, ...files.filter(({ kind }) => kind === 'misnamed')].flatMap(({ stage }) => stage ?? []);
  const scripts = scriptStages(material);
  const hasShared = values.some(({ stage, kind }) => stage === undefined && kind === 'env');
  const names = new Set([...found, ...scripts.keys()]);
  if (found.length === 0 || hasShared) names.add('development');
  if (![...names].some(ships) || buildsUsualMode(material, bundles)) names.add('production');
  const isOnlyModules = values.length > 0 && values.every(({ kind }) => kind === 'module');
  const drafted = [...names].sort(compareStages).map((name) =>
    stageFrom(name, values, {
      meant: meantFor(name, files),
      script: scripts.get(name),
      loadsLocal: loadsLocal(name, bundles),
      // A module of constants is part of the code; no environment reaches it.
      hasProcess: ships(name) && !isOnlyModules,
    }),
  );
  // A fresh clone has no env file yet: the usual ones are named, so that there is a place for values.
  const stages = values.length > 0 ? drafted : drafted.map(withUsualFiles);
  return { stages, undecided: [...twins(values), ...keptOut(values), ...strays(files)] };
}

/** Stages that package scripts and workflows build: `--mode staging`, `--configuration staging`. */
function scriptStages({ packages, workflows }: Pick<Material, 'packages' | 'workflows'>): Map<string, string> {
  const scripts = packages.flatMap(({ folder, scripts: all }) =>
    Object.entries(all).map(([name, text]) => ({ text, because: `${folder}package.json builds it (${name})` })),
  );
  const commands = [...scripts, ...workflows.map(({ path, text }) => ({ text, because: `${path} builds it` }))];
  const found = new Map<string, string>();
  for (const { text, because } of commands)
    for (const [, word = ''] of text.matchAll(/--(?:mode|configuration)[ =]([\w-]+)/g)) {
      const stage = stageOfWord(word);
      if (stage !== undefined && !found.has(stage)) found.set(stage, because);
    }
  return found;
}

/** Tells whether a script builds without a mode. Tools that choose env files by mode then take those of production. */
function buildsUsualMode({ packages }: Pick<Material, 'packages'>, bundles: readonly DraftBundle[]): boolean {
  const tools = bundles
    .map(toolchainOf)
    .filter(({ envFiles }) => envFiles?.names.some((one) => one.includes('{mode}')));
  const programs = tools.flatMap((tool) => Object.keys(tool.programs ?? {})).join('|');
  const build = new RegExp(`(?:^|&&|;)\\s*(?:npx\\s+)?(?:${programs})\\s+build\\b(?![^&;]*\\s(?:--mode|-m)\\b)`);
  return tools.length > 0 && packages.some(({ scripts }) => Object.values(scripts).some((text) => build.test(text)));
}

/** Tells whether the local env file without a stage counts: tools load it in development, some of them never in tests. */
function loadsLocal(name: string, bundles: readonly DraftBundle[]): boolean {
  if (ships(name) || /^(test|build|ci)/.test(name)) return false;
  const known = bundles.flatMap((bundle) => toolchainOf(bundle).envFiles?.names ?? []);
  return known.length === 0 || known.includes('.env.local');
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

interface StageFacts {
  /** Right names of misnamed files of the stage. */
  meant: readonly string[];
  /** The package script that builds it. */
  script: string | undefined;
  loadsLocal: boolean;
  hasProcess: boolean;
}

function stageFrom(name: string, files: readonly ValueFile[], facts: StageFacts): DraftStage {
  const { meant, script, loadsLocal, hasProcess } = facts;
  const own = files.filter(({ stage, isLocal }) => stage === name && !(ships(name) && isLocal));
  const shared = files.filter(
    ({ stage, isLocal, ...file }) => stage === undefined && (loadsLocal || !isLocal) && isBaseOf(file, name, files),
  );
  const layers = [...shared, ...own].sort(compareLayers).map(layerText);
  return {
    name,
    layers: [...layers, ...meant, ...(hasProcess ? ['process'] : [])],
    because: stageReason(name, own, meant, script),
    isTold: own.length > 0 || meant.length > 0 || script !== undefined,
    hasValues:
      own.some(({ layer }) => layer.offers.length > 0) || (own.length === 0 && meant.length === 0 && !ships(name)),
  };
}

function stageReason(
  name: string,
  own: readonly ValueFile[],
  meant: readonly string[],
  script: string | undefined,
): string {
  if (own.length === 0 && meant.length > 0) return `from a misnamed file; tools would read ${joinWords(meant)}`;
  if (own.length === 0) return script ?? 'no file is only for this stage';
  const words = [...new Set(own.flatMap(({ stageWord }) => (stageWord !== name ? (stageWord ?? []) : [])))];
  const names = joinWords(own.map(({ path }) => path));
  if (own.every(({ key }) => key !== undefined)) return `a key of ${names}`;
  return `from the name${own.length === 1 ? '' : 's'} of ${names}${words.length > 0 ? ` (${joinWords(words)})` : ''}`;
}

/**
 * A module without a stage, next to modules with one, is the development variant, or with a development module the
 * production variant; it is not a base of the others. Files of other kinds without a stage apply to all stages.
 */
function isBaseOf(file: Pick<ValueFile, 'kind' | 'folder'>, stage: string, files: readonly ValueFile[]): boolean {
  if (file.kind === 'env') return true;
  const siblings = files.filter(
    ({ kind, folder, stage }) => kind === file.kind && folder === file.folder && stage !== undefined,
  );
  if (siblings.length === 0) return false;
  if (file.kind === 'structured') return true;
  // A module that a builder replaces for some stages is the module of the first usual stage without one.
  const usual = ['development', 'production'].find((name) => !siblings.some((one) => one.stage === name));
  return stage === usual;
}

/** Files of a build first, env files over them; then shared before own, and what is local at the end. */
function compareLayers(a: ValueFile, b: ValueFile): number {
  const rank = ({ kind, stage, isLocal }: ValueFile) =>
    (kind === 'env' ? 4 : 0) + (isLocal ? 2 : 0) + (stage === undefined ? 0 : 1);
  return rank(a) - rank(b) || a.folder.length - b.folder.length || a.path.localeCompare(b.path);
}

/** Two files in one directory for one stage. */
function twins(files: readonly ValueFile[]): RawFinding[] {
  const groups = new Map<string, ValueFile[]>();
  for (const file of files) {
    if (file.stage === undefined || file.isLocal) continue;
    const key = JSON.stringify([file.folder, file.kind, file.stage]);
    groups.set(key, [...(groups.get(key) ?? []), file]);
  }
  return [...groups.values()]
    .filter((group) => group.length > 1)
    .map((group) => {
      const about = { paths: group.map(({ path }) => path), stage: group[0]?.stage ?? '' };
      return finding('contract/undecided', 'twins', about, decidedAt(group.at(-1)));
    });
}

/** Local files never count in a stage that ships: what a laptop has must not win there. */
function keptOut(files: readonly ValueFile[]): RawFinding[] {
  return files
    .filter(({ stage, isLocal }) => isLocal && stage !== undefined && ships(stage))
    .map(({ path, stage = '' }) => finding('contract/undecided', 'local-file', { path, stage }, decidedAt({ path })));
}

function strays(files: readonly ValueFile[]): RawFinding[] {
  return files.flatMap(({ kind, path, meant = '' }): RawFinding[] => {
    const at = decidedAt({ path });
    if (kind === 'misnamed') return [finding('contract/undecided', 'misnamed', { path, meant }, at)];
    return kind === 'leftover' ? [finding('contract/undecided', 'leftover', { path }, at)] : [];
  });
}
