import { posix } from 'node:path';
import dockerIgnoreModule from '@balena/dockerignore';
import { parse as parseJson } from 'jsonc-parser';
import { lastName, parentOf } from '../../files/directories.js';
import { globMatcher } from '../../files/glob.js';
import { sideOfPath } from '../../files/side.js';
import { isEnvLike, valueFileOf } from '../../files/value-files.js';
import { type FindingContext, finding } from '../../findings/finding.js';
import { jsonIn, stringValues } from '../../text/json.js';
import { yamlIn } from '../../text/yaml.js';
import { toolchainOf } from '../../toolchains/index.js';
import type { LintFinding } from '../model.js';
import { ELECTRON_BUILDER, electronBuilderOf, packsFile } from './electron-builder.js';
import { packagers, packsEverything } from './electron-packager.js';
import type { RepositoryFacts } from './facts.js';
import { npmLeavesOut } from './npm-ignore.js';
import { secretNamesOf } from './tracked.js';

/** The module exports the function itself; its types say otherwise. */
const dockerIgnore = dockerIgnoreModule as unknown as typeof dockerIgnoreModule.default;

/** Everything that ships and would include an env file. One with public values alone discloses nothing, and is a note. */
export function packedRules(facts: RepositoryFacts): LintFinding[] {
  const envFiles = facts.paths.filter(isEnvLike);
  const key = ({ place, variant }: LintFinding) => `${place?.path}:${place?.line} ${variant}`;
  const secret = envFiles.filter((path) => secretNamesOf(facts, path).length > 0);
  const grave = packedBy(facts, secret);
  if (secret.length === envFiles.length) return grave;
  const said = new Set(grave.map(key));
  const others = packedBy(facts, envFiles).filter((one) => !said.has(key(one)));
  return [...grave, ...others.map((one) => ({ ...one, level: 'note' as const }))];
}

function packedBy(facts: RepositoryFacts, envFiles: readonly string[]): LintFinding[] {
  return [
    ...publicFolders(facts, envFiles),
    ...facts.paths.flatMap((path) => {
      const name = lastName(path);
      if (name === 'pubspec.yaml') return assets(facts, path, envFiles);
      if (/^tauri(\.[\w-]+)?\.conf\.json5?$/.test(name)) return resources(facts, path, envFiles);
      if (name === 'package.json') return packageManifest(facts, path, envFiles);
      if (/^(Dockerfile|Containerfile)(\.[\w.-]+)?$|\.(dockerfile|containerfile)$/i.test(name))
        return container(facts, path, envFiles);
      return [];
    }),
  ];
}

function placed(path: string, line?: number, level?: 'warning'): FindingContext {
  return { place: { path, inside: [], ...(line && { line, column: 1 }) }, ...(level && { level }) };
}

/** Directories whose files are served or copied. Unknown tools may copy any of the usual ones. */
function publicFolders({ contract }: RepositoryFacts, envFiles: readonly string[]): LintFinding[] {
  const bundles = [...contract.bundles.values()].filter(({ runs }) => runs !== 'server');
  const known = bundles.map((bundle) => toolchainOf(bundle).copies);
  const usual = known.length > 0 && known.every((one) => one !== undefined) ? [] : usualFolders;
  const folders = [...new Set([...usual, ...known.flatMap((one) => one ?? []), ANDROID_ASSETS])];
  return envFiles
    .filter((path) => folders.some((folder) => `/${path}`.includes(`/${folder}/`)))
    .map((path) => finding('repo/packed', 'copied-directory', { path }, placed(path)));
}

const usualFolders = ['public', 'static', 'www', 'assets'] as const;
const ANDROID_ASSETS = 'src/main/assets';

/** `flutter: assets:` of a Dart package's manifest: files, and directories with all their files. */
function assets(facts: RepositoryFacts, path: string, envFiles: readonly string[]): LintFinding[] {
  const text = facts.text(path) ?? '';
  const listed = (yamlIn(text) as { flutter?: { assets?: unknown } } | undefined)?.flutter?.assets;
  if (!Array.isArray(listed)) return [];
  const folder = parentOf(path);
  return listed.flatMap((one): LintFinding[] => {
    const asset = typeof one === 'string' ? one : (one as { path?: string } | null)?.path;
    if (!asset) return [];
    const full = folder + asset.replace(/^\.\//, '');
    const taken = full.endsWith('/')
      ? envFiles.find((file) => file.startsWith(full) && !file.slice(full.length).includes('/'))
      : isEnvName(full)
        ? full
        : undefined;
    if (taken === undefined) return [];
    const about = { path, file: taken, asset, loaders: loadersOf(facts, lastName(taken)) };
    return [finding('repo/packed', 'asset', about, placed(path, lineOf(text, asset)))];
  });
}

/** `bundle.resources` of a desktop shell's manifest: files and patterns, or a table of them. */
function resources(facts: RepositoryFacts, path: string, envFiles: readonly string[]): LintFinding[] {
  const text = facts.text(path) ?? '';
  const { bundle } = (parseJson(text) ?? {}) as { bundle?: { resources?: unknown } };
  const listed = bundle?.resources;
  const patterns = Array.isArray(listed) ? listed : Object.keys((listed as object | undefined) ?? {});
  return patterns.flatMap((one): LintFinding[] => {
    if (typeof one !== 'string') return [];
    const isTaken = globMatcher([posix.join(parentOf(path), one).replace(/\/$/, '/**')]);
    return envFiles.filter(isTaken).map((file) => {
      const about = { path, file, asset: one, loaders: loadersOf(facts, lastName(file)) };
      return finding('repo/packed', 'asset', about, placed(path, lineOf(text, one)));
    });
  });
}

/** The code that loads a file as the app runs, as `lib/main.dart:8`: it has the file's name in a string. */
function loadersOf(facts: RepositoryFacts, name: string): string[] {
  const named = new RegExp(`["'\`/]${name.replaceAll('.', '\\.')}["'\`]`);
  return facts.paths
    .filter((path) => /\.(dart|rs|kt|java|swift|[cm]?[jt]sx?)$/.test(path) && sideOfPath(path) === undefined)
    .flatMap((path) => {
      const text = facts.text(path) ?? '';
      const at = text.search(named);
      return at < 0 ? [] : [`${path}:${text.slice(0, at).split('\n').length}`];
    });
}

interface Manifest {
  version?: unknown;
  private?: boolean;
  files?: unknown;
  scripts?: Record<string, string>;
  build?: unknown;
  dependencies?: Record<string, unknown>;
  devDependencies?: Record<string, unknown>;
}

function packageManifest(facts: RepositoryFacts, path: string, envFiles: readonly string[]): LintFinding[] {
  const text = facts.text(path) ?? '';
  const manifest = jsonIn(text) as Manifest | undefined;
  if (!manifest) return [];
  const folder = parentOf(path);
  const own = envFiles.filter((file) => file.startsWith(folder)).map((file) => file.slice(folder.length));
  const files = Array.isArray(manifest.files) ? manifest.files.filter((one) => typeof one === 'string') : undefined;
  return [
    ...published(facts, path, isPrivate(manifest), files, own, text),
    ...desktopApp(facts, path, manifest, own, text),
    ...archives(path, manifest.scripts ?? {}, own, text),
  ];
}

function isPrivate(manifest: Manifest): boolean {
  const isApp = dependenciesOf(manifest).some((name) => name === ELECTRON_BUILDER || packagers.includes(name));
  return isApp || manifest.private === true || manifest.version === undefined;
}

function dependenciesOf({ dependencies, devDependencies }: Manifest): string[] {
  return Object.keys({ ...dependencies, ...devDependencies });
}

/** Files that npm publishes: those that `files` includes, or all, in both cases without ignored ones. */
function published(
  facts: RepositoryFacts,
  path: string,
  isPrivate: boolean,
  files: readonly string[] | undefined,
  own: readonly string[],
  text: string,
): LintFinding[] {
  if (isPrivate) return [];
  const folder = parentOf(path);
  const isLeftOut = npmLeavesOut(facts, folder, files !== undefined);
  const taken = own.filter((file) => !isLeftOut(file));
  if (files) return listed(path, files, taken, text);
  const [first] = taken;
  if (first === undefined) return [];
  const ownFile = ['.npmignore', '.gitignore'].find((name) => facts.exists(folder + name)) ?? '.gitignore';
  const isIgnoredElsewhere = ownFile === '.gitignore' && facts.isIgnored(folder + first);
  const about = { path, file: folder + first, ignoreFile: folder + ownFile, isIgnoredElsewhere };
  return [finding('repo/packed', 'published', about, placed(path))];
}

/** `files` of npm: the last matching pattern decides; a pattern without a slash matches at any depth (npm-packlist). */
function listed(path: string, files: readonly string[], own: readonly string[], text: string): LintFinding[] {
  const folder = parentOf(path);
  const rules = files.map((pattern) => {
    const plain = pattern
      .replace(/^!/, '')
      .replace(/^\.?\//, '')
      .replace(/\/\*?$/, '');
    const isRooted = /^!?\.?\//.test(pattern) || plain.includes('/');
    const globs = isRooted ? [plain, `${plain}/**`] : [`**/${plain}`, `**/${plain}/**`];
    return { pattern, matches: globMatcher(globs) };
  });
  return own.flatMap((file) => {
    const last = rules.findLast(({ matches }) => matches(file));
    if (!last || last.pattern.startsWith('!')) return [];
    const about = { path, file: folder + file, pattern: last.pattern };
    return [finding('repo/packed', 'listed', about, placed(path, lineOf(text, last.pattern)))];
  });
}

/** A desktop app gets what the packer's settings name, and every file of the package unless they leave it out. */
function desktopApp(
  facts: RepositoryFacts,
  path: string,
  manifest: Manifest,
  own: readonly string[],
  text: string,
): LintFinding[] {
  const folder = parentOf(path);
  const names = dependenciesOf(manifest);
  const everything = packsEverything(facts, folder, text, names);
  if (everything !== undefined)
    return own.length === 0
      ? []
      : [finding('repo/packed', 'packager', { files: own.map((file) => folder + file) }, placed(everything))];
  const config = electronBuilderOf(facts, folder, { path, text, build: manifest.build, dependencies: names });
  if (!config) return [];
  const named = stringValues(config.settings)
    .map(({ text }) => text)
    .filter((one) => isEnvName(one) && !one.startsWith('!'));
  const isPacked = packsFile(config, (app) => facts.exists(`${folder}${app}/package.json`));
  const taken = names.includes(ELECTRON_BUILDER) ? own.filter((file) => isPacked(file) && !named.includes(file)) : [];
  const rules = [...new Set(taken.map((file) => (lastName(file).startsWith('.env') ? '!**/.env*' : `!${file}`)))];
  const about = { files: taken.map((file) => folder + file), rules };
  return [
    ...named.map((file) => {
      const at = placed(config.path, lineOf(config.text, file));
      return finding('repo/packed', 'named', { path: config.path, file }, at);
    }),
    ...(taken.length > 0 ? [finding('repo/packed', 'builder', about, placed(config.path))] : []),
  ];
}

/** `zip -r app.zip .` includes hidden files. */
function archives(
  path: string,
  scripts: Readonly<Record<string, string>>,
  own: readonly string[],
  text: string,
): LintFinding[] {
  const [first] = own;
  if (first === undefined) return [];
  return Object.entries(scripts).flatMap(([name, script]) => {
    const isAll = /\b(?:zip\s+-\S*r\S*\s+\S+\s+(?:\.|\*)|tar\s+\S*c\S*\s+\S+\s+(?:\.|\*))(?:\s|$)/.test(script);
    if (!isAll || /(-x|--exclude)\S*[ =]\S*\.env/.test(script)) return [];
    const at = placed(path, lineOf(text, `"${name}"`), 'warning');
    return [finding('repo/packed', 'archive', { path, script: name, file: first }, at)];
  });
}

/** COPY and ADD of a Dockerfile. The patterns of its ignore file are relative to the build context. */
function container(facts: RepositoryFacts, path: string, envFiles: readonly string[]): LintFinding[] {
  const folder = parentOf(path);
  const text = facts.text(path) ?? '';
  const own = envFiles.filter((file) => file.startsWith(folder)).map((file) => file.slice(folder.length));
  const ignored = dockerIgnore().add(facts.text(`${path}.dockerignore`) ?? facts.text(`${folder}.dockerignore`) ?? '');
  const taken = own.filter((file) => !ignored.ignores(file));
  const lines = text.split(/\r?\n/);
  const lastFrom = lines.findLastIndex((line) => /^\s*FROM\s/i.test(line));
  return lines.flatMap((line, index): LintFinding[] => {
    const sources = copiedBy(line);
    const files = taken.filter((one) => sources.some((source) => includes(source, one)));
    if (files.length === 0) return [];
    const isFinal = index > lastFrom;
    const at = placed(path, index + 1, isFinal ? undefined : 'warning');
    return [finding('repo/packed', 'image', { folder, files, line: line.trim(), isFinal }, at)];
  });
}

/** The sources of COPY and ADD, relative to the build context; none for those from another build stage. */
function copiedBy(line: string): string[] {
  const list = /^\s*(?:COPY|ADD)\s+(?!.*--from=)(?:--\S+\s+)*(.+)$/i.exec(line)?.[1] ?? '';
  const words = list
    .replace(/[[\]",]/g, ' ')
    .trim()
    .split(/\s+/);
  return words.slice(0, -1).map((word) => word.replace(/^\.\//, '').replace(/\/$/, ''));
}

function includes(source: string, path: string): boolean {
  if (source === '.' || source === '' || source === path || path.startsWith(`${source}/`)) return true;
  return /[*?]/.test(source) && globMatcher(source)(path);
}

function isEnvName(path: string): boolean {
  return valueFileOf(path)?.kind === 'env';
}

function lineOf(text: string, piece: string): number {
  const at = text.indexOf(piece);
  return at < 0 ? 1 : text.slice(0, at).split('\n').length;
}
