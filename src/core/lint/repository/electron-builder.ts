import { globMatcher } from '../../files/glob.js';
import { yamlIn } from '../../text/yaml.js';
import type { RepositoryFacts } from './facts.js';

/** A configuration of electron-builder, and the file that it is in. */
export interface PackerConfig {
  path: string;
  text: string;
  /** The parsed settings, of any shape. */
  settings: unknown;
}

export const ELECTRON_BUILDER = 'electron-builder';

type Facts = Pick<RepositoryFacts, 'text' | 'exists'>;

const dataFiles = ['electron-builder.yml', 'electron-builder.yaml', 'electron-builder.json'] as const;

/** Configurations that only running or another parser would tell. */
const otherFiles = ['json5', 'toml', 'js', 'cjs', 'mjs', 'ts'].map((extension) => `electron-builder.${extension}`);

/**
 * The configuration of electron-builder for a package, which may be empty.
 * @param folder of the package, with its slash
 * @param manifest its `package.json`, with `build` as parsed
 * @returns undefined if the package does not use it, or if the configuration is not data
 */
export function electronBuilderOf(
  facts: Facts,
  folder: string,
  manifest: { path: string; text: string; build?: unknown; dependencies: readonly string[] },
): PackerConfig | undefined {
  const { path, text, build, dependencies } = manifest;
  if (build && typeof build === 'object') return { path, text, settings: build };
  for (const name of dataFiles) {
    const data = facts.text(folder + name);
    if (data === undefined) continue;
    const settings = yamlIn(data);
    return settings === undefined ? undefined : { path: folder + name, text: data, settings: settings ?? {} };
  }
  if (!dependencies.includes(ELECTRON_BUILDER) || otherFiles.some((name) => facts.exists(folder + name)))
    return undefined;
  return { path, text, settings: {} };
}

interface Settings {
  files?: unknown;
  directories?: { app?: unknown };
  mac?: { files?: unknown } | null;
  win?: { files?: unknown } | null;
  linux?: { files?: unknown } | null;
}

/**
 * Tells whether electron-builder puts a file of the package into the app (measured with version 26): without patterns, or with
 * nothing but exclusions, it packs every file, env files included; the last pattern that matches decides. The list of a system
 * is a list of its own: what either has is packed.
 * @param isApp whether a directory of the package has a manifest of its own, and so is the app
 */
export function packsFile({ settings }: PackerConfig, isApp: (folder: string) => boolean): (file: string) => boolean {
  const { files, directories, ...rest } = settings as Settings;
  const app = typeof directories?.app === 'string' ? directories.app : ['app', 'www'].find(isApp);
  const base = app === undefined || app === '.' ? '' : `${app.replace(/^\.\//, '').replace(/\/$/, '')}/`;
  const lists = [files, rest.mac?.files, rest.win?.files, rest.linux?.files].filter((one) => one !== undefined);
  const tests = (lists.length === 0 ? [[]] : lists).map((list) => matcherOf(list));
  return (file) => file.startsWith(base) && tests.some((isPacked) => isPacked(file.slice(base.length)));
}

/** @param list of patterns, or one; an entry with `from` packs a directory under another name, and is no pattern */
function matcherOf(list: unknown): (file: string) => boolean {
  const entries: unknown[] = [list].flat();
  const patterns = entries.filter((one): one is string => typeof one === 'string');
  const hasOthers = entries.some((one) => one && typeof one === 'object');
  const takesAll = patterns.length > 0 ? patterns.every((one) => one.startsWith('!')) : !hasOthers;
  const rules = [...(takesAll ? ['**/*'] : []), ...patterns].map((pattern) => {
    const plain = pattern.replace(/^!/, '').replace(/^\.\//, '').replace(/\/$/, '');
    return { isIn: !pattern.startsWith('!'), matches: globMatcher([plain, `${plain}/**`]) };
  });
  return (file) => rules.findLast(({ matches }) => matches(file))?.isIn ?? false;
}
