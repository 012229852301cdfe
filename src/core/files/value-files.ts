import { table } from '../text/table.js';
import { parentOf } from './directories.js';

/** A file that may contain values, as its name describes it. */
export interface NamedFile {
  /** `misnamed`: nearly the name of an env file, but tools do not read it. */
  kind: 'env' | 'structured' | 'module' | 'example' | 'leftover' | 'misnamed';
  /** The directory, with its slash; empty for the root. */
  folder: string;
  /** The stage's name for a contract; absent for what all stages share. */
  stage?: string;
  /** The stage in the file's name. */
  stageWord?: string;
  /** Kept on one machine. */
  isLocal: boolean;
  /** The intended path (misnamed files only). */
  meant?: string;
}

/** The usual words for stages, to the name that the contract gets. */
const stageWords: Readonly<Record<string, string>> = table({
  dev: 'development',
  devel: 'development',
  develop: 'development',
  development: 'development',
  test: 'test',
  testing: 'test',
  qa: 'qa',
  uat: 'uat',
  preview: 'preview',
  demo: 'demo',
  int: 'integration',
  integration: 'integration',
  stage: 'staging',
  staging: 'staging',
  stg: 'staging',
  preprod: 'preproduction',
  preproduction: 'preproduction',
  live: 'production',
  prd: 'production',
  prod: 'production',
  production: 'production',
});

/** The order in which a value travels: the nearer to the customer, the later. */
const order = [
  'development',
  'test',
  'integration',
  'qa',
  'uat',
  'demo',
  'preview',
  'staging',
  'preproduction',
  'production',
];

/** Compares stages by how near they are to the customer; unknown ones come before production. */
export function compareStages(a: string, b: string): number {
  const rank = (name: string) => (order.includes(name) ? order.indexOf(name) : order.length - 1.5);
  return rank(a) - rank(b) || a.localeCompare(b);
}

/** The stage that a word means; undefined if it is not a usual word for one. */
export function stageOfWord(word: string): string | undefined {
  return stageWords[word.toLowerCase()];
}

/** The stage of a contract that a configuration is named after: by its own name, or by a usual word for it. */
export function stageNamed(word: string, stages: ReadonlyMap<string, unknown>): string | undefined {
  return [word, stageOfWord(word)].find((name) => name !== undefined && stages.has(name));
}

const exampleWords = new Set(['example', 'sample', 'template', 'tpl', 'dist', 'defaults', 'schema']);
const leftoverWords = new Set([
  'bak',
  'backup',
  'old',
  'orig',
  'copy',
  'save',
  'swp',
  'tmp',
  'disabled',
  'unused',
  'rej',
]);
/** The rest of the name of a stage's file. */
const holders =
  /^(env|environments?|config|configuration|settings|app|appsettings|vars|variables|values|constants?|defines?|dart[-_]?defines?|flavou?r)$/;
const sharedWords = /^(default|base|common|shared|all|build)$/;
/** Folders whose files may be called by nothing but a stage. */
const holderFolders =
  /(^|\/)(env|envs|environments?|configs?|configuration|settings|dart[-_]?defines?|defines?|flavou?rs?|stages?)\/$/;

/**
 * Describes a file by its name, or returns undefined if the name is not one of a file with values.
 * @param path relative to the project, with `/`
 */
export function valueFileOf(path: string): NamedFile | undefined {
  const folder = parentOf(path);
  const name = path.slice(folder.length);
  return envFile(folder, name) ?? stageFile(folder, name);
}

function envFile(folder: string, name: string): NamedFile | undefined {
  const meant = meantBy(name);
  if (meant !== undefined) {
    const { stage, stageWord } = envFile(folder, meant) ?? {};
    const named = stage !== undefined && stageWord !== undefined ? { stage, stageWord } : {};
    return { kind: 'misnamed', folder, isLocal: meant.includes('.local'), meant: folder + meant, ...named };
  }
  // Workers of some hosts have env files of this name on a developer's machine, `.dev.vars.staging` for another stage.
  const [isOfWorker, ofStage = 'dev'] = /^\.dev\.vars(?:\.([\w-]+))?$/.exec(name) ?? [];
  if (isOfWorker) return { kind: 'env', folder, isLocal: true, ...stageOf([ofStage]) };
  const [, behind] = /^\.env(?:\.(.+))?$/.exec(name) ?? [];
  const before = /^([^.].*)\.env$/.exec(name)?.[1];
  if (!/^\.env(\.|$)/.test(name) && before === undefined) return undefined;
  const words = (behind ?? before ?? '').split('.').filter(Boolean);
  if (words.some((word) => leftoverWords.has(word.toLowerCase()) || word.endsWith('~')))
    return { kind: 'leftover', folder, isLocal: false };
  const isLocal = words.includes('local');
  if (words.some((word) => exampleWords.has(word.toLowerCase()))) return { kind: 'example', folder, isLocal };
  return { kind: 'env', folder, isLocal, ...stageOf(words.filter((word) => word !== 'local')) };
}

/** The name that a file was meant to have which is nearly an env file; undefined if its name is right, or none of those. */
function meantBy(name: string): string | undefined {
  if (name === 'env' || name === '.env ' || /^\.(evn|nev|enn?v|envv|en|ev)$/i.test(name))
    return name === '.env' ? undefined : '.env';
  const withEnding = /^(\.env(?:\.[\w-]+)*)\.(?:txt|rtf|js|ts|doc)$/.exec(name)?.[1];
  if (withEnding) return withEnding;
  const withoutDot = /^env(\.(?:local|[\w-]+))$/.exec(name)?.[1];
  if (withoutDot && stageWords[withoutDot.slice(1).toLowerCase()]) return `.env${withoutDot}`;
  const spaced = /^\.env[ \t]*(\.?[\w.-]*)[ \t]*$/.exec(name);
  if (spaced && /[ \t]/.test(name)) return `.env${spaced[1]}`;
  return undefined;
}

/** The first known word; a single unknown one is a stage of its own. */
function stageOf(words: readonly string[]): Pick<NamedFile, 'stage' | 'stageWord'> {
  const known = words.find((word) => stageWords[word.toLowerCase()]);
  if (known) return { stage: stageWords[known.toLowerCase()] as string, stageWord: known };
  const [only, ...others] = words;
  if (only === undefined || others.length > 0 || !/^[A-Za-z0-9][A-Za-z0-9_-]*$/.test(only)) return {};
  return sharedWords.test(only) ? {} : { stage: only, stageWord: only };
}

/** A JSON, YAML or module file named after a stage: `config/production.json`, `environment.prod.ts`. */
function stageFile(folder: string, name: string): NamedFile | undefined {
  const [, stem = '', ending = ''] = /^(.+?)\.(json|ya?ml|[cm]?[jt]s)$/.exec(name) ?? [];
  if (stem === '' || /\.(d|test|spec|config|stories)$/.test(stem)) return undefined;
  const words = stem.split(/[._-]/);
  const stageWord = words.find((word) => stageWords[word.toLowerCase()]);
  const rest = words.filter((word) => word !== stageWord && word !== 'local');
  const isHolder = (word: string) => holders.test(word.toLowerCase());
  const inHolder = holderFolders.test(folder);
  if (rest.some((word) => exampleWords.has(word))) return undefined;
  const kind = /json|ya?ml/.test(ending) ? 'structured' : 'module';
  const isLocal = words.includes('local');
  if (stageWord) {
    const fits = rest.every(isHolder) && (rest.length > 0 || inHolder);
    return fits
      ? { kind, folder, isLocal, stage: stageWords[stageWord.toLowerCase()] as string, stageWord }
      : undefined;
  }
  // A base, if there are files of stages; the caller checks that.
  const isBase = inHolder && rest.length === 1 && rest.every((word) => sharedWords.test(word) || isHolder(word));
  return isBase ? { kind, folder, isLocal } : undefined;
}

/** Tells whether a file may have settings of several stages, by its name: `settings.ts`, `config/index.js`, `environments.json`. */
export function mayHaveStages(path: string): boolean {
  const folder = parentOf(path);
  const [, stem = ''] = /^(.+?)\.(json|ya?ml|[cm]?[jt]s)$/.exec(path.slice(folder.length)) ?? [];
  const isHolder = (word: string) => holders.test(word.toLowerCase());
  return stem.split(/[._-]/).some(isHolder) || (stem === 'index' && holderFolders.test(folder));
}

/** Kinds of files that contain values as an env file does, whether or not tools read them. */
const envKinds: ReadonlySet<NamedFile['kind']> = new Set(['env', 'leftover', 'misnamed']);

/** Tells whether a file is an env file, an old copy of one, or a misnamed one. */
export function isEnvLike(path: string): boolean {
  const kind = valueFileOf(path)?.kind;
  return kind !== undefined && envKinds.has(kind);
}

/** A quick test for walks: every file of {@link isEnvLike} passes, and a few others. @param name without directories */
export function mayBeEnvLike(name: string): boolean {
  return /env|^\.(evn|nev|en|ev|dev\.vars)/i.test(name);
}

/** Patterns of version control for every name that {@link isEnvLike} may accept. */
export const envLikeGlobs: readonly string[] = [
  '**/.env',
  '**/.env.*',
  '**/*.env',
  '**/env',
  '**/env.*',
  '**/.evn*',
  '**/.dev.vars*',
];

/** Tells whether a file is for one machine, by its name. */
export function isLocalFile(path: string): boolean {
  return /(^|[./])local([./]|$)/.test(path);
}
