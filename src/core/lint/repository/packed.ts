import dockerIgnoreModule from '@balena/dockerignore';
import { lastName, parentOf } from '../../files/directories.js';
import { globMatcher } from '../../files/glob.js';
import { isEnvLike, valueFileOf } from '../../files/value-files.js';
import { someWords } from '../../text/nearest.js';
import { toolchainOf } from '../../toolchains/index.js';
import type { LintFinding } from '../model.js';
import { jsonIn, yamlIn } from './data.js';
import { ELECTRON_BUILDER, electronBuilderOf, packsFile } from './electron-builder.js';
import { packagers, packsEverything } from './electron-packager.js';
import type { RepositoryFacts } from './facts.js';
import { npmLeavesOut } from './npm-ignore.js';

/** The module exports the function itself; its types say otherwise. */
const dockerIgnore = dockerIgnoreModule as unknown as typeof dockerIgnoreModule.default;

/** Everything that ships and would include an env file. */
export function packedRules(facts: RepositoryFacts): LintFinding[] {
  const envFiles = facts.paths.filter(isEnvLike);
  return [
    ...publicFolders(facts, envFiles),
    ...facts.paths.flatMap((path) => {
      const name = lastName(path);
      if (name === 'pubspec.yaml') return assets(facts, path, envFiles);
      if (name === 'package.json') return packageManifest(facts, path, envFiles);
      if (/^(Dockerfile|Containerfile)(\.[\w.-]+)?$|\.(dockerfile|containerfile)$/i.test(name))
        return container(facts, path, envFiles);
      return [];
    }),
  ];
}

function packed(
  path: string,
  message: string,
  remedy: string,
  at: { line?: number; level?: 'warning' } = {},
): LintFinding {
  const { line, level } = at;
  return {
    code: 'repo/packed',
    ...(level && { level }),
    message,
    remedy,
    place: { path, inside: [], ...(line && { line, column: 1 }) },
  };
}

/** Directories whose files are served or copied. Unknown tools may copy any of the usual ones. */
function publicFolders({ contract }: RepositoryFacts, envFiles: readonly string[]): LintFinding[] {
  const bundles = [...contract.bundles.values()].filter(({ runs }) => runs !== 'server');
  const known = bundles.map((bundle) => toolchainOf(bundle).copies);
  const usual = known.length > 0 && known.every((one) => one !== undefined) ? [] : usualFolders;
  const folders = [...new Set([...usual, ...known.flatMap((one) => one ?? []), ANDROID_ASSETS])];
  return envFiles
    .filter((path) => folders.some((folder) => `/${path}`.includes(`/${folder}/`)))
    .map((path) =>
      packed(
        path,
        `${path} is in a directory that the build copies into its output`,
        'move it elsewhere, and rotate the values in it',
      ),
    );
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
    return taken === undefined
      ? []
      : [
          packed(
            path,
            `${taken} is packed into the app: ${path} lists ${asset} among its assets`,
            'remove it from the assets, and pass the values at build time: adder emit defines',
            { line: lineOf(text, asset) },
          ),
        ];
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

/** What npm publishes: what `files` includes, or everything, in both cases without what ignore files leave out. */
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
  const because =
    ownFile === '.gitignore' && facts.isIgnored(folder + first)
      ? 'packing does not read the rule by which git ignores it'
      : `no ${folder}${ownFile} leaves it out`;
  return [
    packed(
      path,
      `${folder}${first} would be published with the package: ${path} has no \`files\`, and ${because}`,
      'add "private": true or "files" to the manifest',
    ),
  ];
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
    const message = `${folder}${file} is published with the package: \`files\` in ${path} has ${last.pattern}`;
    return [packed(path, message, 'remove it from `files`', { line: lineOf(text, last.pattern) })];
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
    return packedWhole(
      everything,
      folder,
      own,
      'Electron Packager takes every file',
      'add `/\\/\\.env/` to its `ignore`',
    );
  const config = electronBuilderOf(facts, folder, { path, text, build: manifest.build, dependencies: names });
  if (!config) return [];
  const named = stringsIn(config.settings).filter((one) => isEnvName(one) && !one.startsWith('!'));
  const isPacked = packsFile(config, (app) => facts.exists(`${folder}${app}/package.json`));
  const taken = names.includes(ELECTRON_BUILDER) ? own.filter((file) => isPacked(file) && !named.includes(file)) : [];
  const rules = [...new Set(taken.map((file) => (lastName(file).startsWith('.env') ? '!**/.env*' : `!${file}`)))];
  return [
    ...named.map((one) =>
      packed(config.path, `${one} is packed into the app: ${config.path} lists it`, 'remove it there', {
        line: lineOf(config.text, one),
      }),
    ),
    ...packedWhole(
      config.path,
      folder,
      taken,
      'electron-builder takes every file that `files` does not leave out',
      `add ${rules.map((rule) => `'${rule}'`).join(' and ')} at the end of \`files\``,
    ),
  ];
}

/** One finding for the files that a packer takes without asking. */
function packedWhole(
  path: string,
  folder: string,
  files: readonly string[],
  because: string,
  remedy: string,
): LintFinding[] {
  if (files.length === 0) return [];
  const which = someWords(
    files.map((file) => folder + file),
    MOST_FILES,
  );
  return [packed(path, `${which} ${files.length === 1 ? 'is' : 'are'} packed into the app: ${because}`, remedy)];
}

const MOST_FILES = 4;

function stringsIn(value: unknown): string[] {
  if (typeof value === 'string') return [value];
  return value && typeof value === 'object' ? Object.values(value).flatMap(stringsIn) : [];
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
    return isAll && !/(-x|--exclude)\S*[ =]\S*\.env/.test(script)
      ? [
          packed(
            path,
            `the script ${name} in ${path} packs the whole directory, including ${first}`,
            'list what to pack, or exclude the env files',
            { line: lineOf(text, `"${name}"`), level: 'warning' },
          ),
        ]
      : [];
  });
}

/** COPY and ADD of a Dockerfile. The patterns of its ignore file are relative to the build context. */
function container(facts: RepositoryFacts, path: string, envFiles: readonly string[]): LintFinding[] {
  const folder = parentOf(path);
  const text = facts.text(path) ?? '';
  const own = envFiles.filter((file) => file.startsWith(folder)).map((file) => file.slice(folder.length));
  const ignored = dockerIgnore().add(facts.text(`${path}.dockerignore`) ?? facts.text(`${folder}.dockerignore`) ?? '');
  const taken = own.filter((file) => !ignored.ignores(file));
  const lines = text.split('\n');
  const lastFrom = lines.findLastIndex((line) => /^\s*FROM\s/i.test(line));
  return lines.flatMap((line, index): LintFinding[] => {
    const sources = copiedBy(line);
    const file = taken.find((one) => sources.some((source) => includes(source, one)));
    if (file === undefined) return [];
    const isFinal = index > lastFrom;
    const message = `${folder}${file} is copied into the ${isFinal ? 'image' : "image's build stage"}: ${line.trim()}`;
    const at = { line: index + 1, ...(!isFinal && { level: 'warning' as const }) };
    return [packed(path, message, `add the line ${file} to ${folder}.dockerignore`, at)];
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
