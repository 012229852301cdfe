import type { Bundle } from '../core/contract/contract.js';
import { replacedObjects } from '../core/contract/names.js';
import { scopesOf } from '../core/contract/scopes.js';
import { isSkippedDirectory, isUsualOutput } from '../core/files/directories.js';
import { isSource, scriptLanguage } from '../core/files/languages.js';
import { within } from '../core/files/within.js';
import type { CheckResult, Unread } from '../core/findings/check.js';
import { planSearch } from '../core/inspect/plan.js';
import { limits } from '../core/limits/index.js';
import { lintCode } from '../core/lint/index.js';
import type { LintContext, LintFinding, SourceText } from '../core/lint/model.js';
import { bundleCode } from '../core/lint/reachability.js';
import { SourceView } from '../core/lint/show.js';
import { addIndirectReads, mayRead, readsIn, usualObjects } from '../core/reads/index.js';
import { isNative, unreadLanguage } from '../core/reads/native.js';
import { BinaryMissing } from '../core/syntax/binary-missing.js';
import { count } from '../core/text/display.js';
import { once } from '../core/text/once.js';
import { toolchainOf } from '../core/toolchains/index.js';
import { noSettings } from '../core/toolchains/settings.js';
import { describeFileError, isMissing } from '../host/files.js';
import { filesNamed, type WalkHow } from '../host/walk.js';
import type { World } from '../host/world.js';
import type { Check } from './check.js';
import { ProjectModules } from './modules.js';
import type { Project } from './open.js';
import { StageResolver } from './resolve.js';
import { bundleSettings, hasPlugin, inlinedNames, toolConfigs } from './tool-configs.js';

/** The project's code, and which of it reaches the browser. */
export interface ProjectCode {
  files: ReadonlyMap<string, SourceText>;
  context: LintContext;
  /** How much source text was read. */
  bytes: number;
  /** Files that are too large, and `code` directories of the contract without source files. */
  unread: Unread[];
  /** Code in languages without a reader. */
  skipped: Unread[];
}

/** Result of the check of the code, with the edits of findings that have some. */
export interface CodeCheck extends CheckResult {
  code: ProjectCode;
  fixable: readonly LintFinding[];
}

/** Checks the code of bundles against the contract. */
export const checkCode: Check<{ bundles: readonly Bundle[] }, Promise<CodeCheck>> = async (
  project,
  { bundles },
  world,
) => {
  const code = await readCode(project, bundles, world);
  const { files, bytes, unread, skipped, context } = code;
  const found = lintCode(context);
  return {
    code,
    fixable: found.filter(({ fix }) => fix),
    findings: found.map(({ fix: _, ...finding }) => finding),
    coverage: { files: files.size + context.native.size, members: 0, bytes, unread, skipped },
    groups: ['code/'],
  };
};

/** Reads the code and follows its imports, without checking it. */
export async function readCode(project: Project, bundles: readonly Bundle[], world: World): Promise<ProjectCode> {
  const { contract } = project;
  const alone = scopesOf(contract).flatMap((scope) =>
    new StageResolver({ ...project, contract: scope.contract }, world).eachAlone(),
  );
  const [first] = contract.stages.keys();
  const view = new SourceView(planSearch(contract, first ?? '', alone));
  const { files, native, bytes, unread: tooLarge, skipped } = await readSources(project, bundles);
  const modules = new ProjectModules(project, files);
  const configs = new Map(bundles.map((one) => [one.name, toolConfigs(project, one)]));
  // A build may name a script in a directory whose name is usual for outputs.
  for (const { path, text } of [...configs.values()].flat())
    if (!files.has(path)) files.set(path, sourceText(path, text, readObjects(project)));
  const withPlugin = new Set(
    bundles.filter((one) => hasPlugin(project, one, configs.get(one.name) ?? [])).map(({ name }) => name),
  );
  const names = [...contract.variables.keys()];
  const settings = new Map(
    bundles.map((one) => [one.name, bundleSettings(project, one, configs.get(one.name) ?? [], names)]),
  );
  const inlined = (bundle: Bundle) => {
    const [config] = configs.get(bundle.name) ?? [];
    const found = settings.get(bundle.name);
    const { listName, settings: keys } = toolchainOf(bundle);
    const mayList = listName !== undefined || keys?.keys.define !== undefined;
    if (!config || !found || !mayList || withPlugin.has(bundle.name)) return undefined;
    const names = inlinedNames(found);
    return { path: config.path, ...(names && { names }) };
  };
  // Most texts are parsed for their imports alone.
  const followed = once(() =>
    bundles.map((bundle) => bundleCode(bundle, files, (...asked) => modules.resolve(...asked))),
  );
  const context: LintContext = {
    contract,
    stages: alone,
    files,
    native,
    get bundles() {
      return followed();
    },
    inlined,
    settings: ({ name }) => settings.get(name) ?? noSettings,
    hasPlugin: (name) => withPlugin.has(name),
    resolve: (from, specifier) => {
      for (const bundle of bundles) {
        const path = modules.resolve(bundle, from, specifier);
        if (path !== undefined) return path;
      }
      return undefined;
    },
    at: (file, offset) => view.at(file, offset),
    show: (file, start, end) => view.show(file, start, end),
    mask: (text) => view.mask(text),
  };
  const withoutBundle =
    contract.bundles.size === 0
      ? [{ path: contract.path, inside: [], because: 'has no bundle, so no code was checked' }]
      : [];
  const without = withoutCode(project, bundles, context);
  return {
    files,
    context,
    bytes,
    skipped: [...skipped, ...without.skipped],
    unread: [...tooLarge, ...withoutBundle, ...without.unread],
  };
}

/**
 * Code directories of the contract without source files: a check of nothing is not clean. One of several may hold something else,
 * pages of text say, and is skipped if it exists.
 */
function withoutCode(project: Project, bundles: readonly Bundle[], { files, native }: LintContext) {
  const isEmpty = (folder: string) => ![...files.keys(), ...native.keys()].some(within([folder]));
  const empty = bundles.flatMap(({ name, code }) =>
    code.filter(isEmpty).map((folder) => {
      const isThere = project.files.stat(project.files.path.join(project.root, folder)) !== undefined;
      const because = `is in \`code\` of ${name}, but ${isThere ? 'contains no source file' : 'does not exist'}`;
      return { path: folder, inside: [], because, isSkipped: isThere && !code.every(isEmpty) };
    }),
  );
  const of = (asked: boolean): Unread[] =>
    empty.flatMap(({ isSkipped, ...rest }) => (isSkipped === asked ? [rest] : []));
  return { skipped: of(true), unread: of(false) };
}

function isRead(name: string): boolean {
  return isSource(name) || isNative(name) || unreadLanguage(name) !== undefined;
}

/** Source files of bundles in languages without a reader, by directory of the contract. */
function withoutReader(paths: readonly string[], bundles: readonly Bundle[]): Unread[] {
  return [...new Set(bundles.flatMap(({ code }) => code))].flatMap((folder) => {
    const languages = paths.filter(within([folder])).flatMap((path) => unreadLanguage(path) ?? []);
    return [...new Set(languages)].map((language) => {
      const number = languages.filter((one) => one === language).length;
      return {
        path: folder,
        inside: [],
        because: `contains ${count(number, `${language} file`)}, which lint cannot read`,
      };
    });
  });
}

/** Paths of the source files below the contract's directory, except outputs and packages, and of code outside it. */
export function sourcePaths(
  { root, contract, files: disk }: Project,
  bundles: readonly Bundle[],
): { paths: string[]; unread: Unread[] } {
  const isOutput = within([...contract.bundles.values()].flatMap(({ output }) => output));
  // A build that the contract does not describe writes to a usual directory.
  const inCode = within(bundles.flatMap(({ code }) => code));
  const holdsCode = (path: string) =>
    inCode(path) || bundles.some(({ code }) => code.some((one) => `${one}/`.startsWith(`${path}/`)));
  const isSkipped = (path: string) =>
    isSkippedDirectory(path) || isOutput(path) || (isUsualOutput(path) && !holdsCode(path));
  const outside = bundles
    .flatMap(({ code, serverCode }) => [...code, ...serverCode])
    .filter((path) => path.startsWith('../'));
  const unread: Unread[] = [];
  // Imports lead to what a symlink points at.
  const how: WalkHow = {
    onUnread: ({ path, because }) => void unread.push({ path: disk.shown(path, root), inside: [], because }),
    withLinks: false,
  };
  const inside = filesNamed(disk, root, isRead, isSkipped, how);
  const others = outside.flatMap((folder) =>
    filesNamed(disk, disk.path.join(root, folder), isRead, isSkipped, how).map((path) => `${folder}/${path}`),
  );
  return { paths: [...new Set([...inside, ...others])].sort(), unread };
}

/** The objects whose reads the code of a project is searched for. */
export function readObjects({ contract }: Project): string[] {
  return [...new Set([...usualObjects, ...[...contract.bundles.values()].flatMap(replacedObjects)])];
}

/** A source text; one that cannot read a value is parsed when its imports are needed. */
function sourceText(path: string, text: string, objects: readonly string[]): SourceText {
  if (!scriptLanguage(path) || mayRead(text, objects)) return { path, text, ...readsIn(path, text, objects) };
  const parsed = once(() => readsIn(path, text, objects));
  return {
    path,
    text,
    reads: [],
    get imports() {
      return parsed().imports;
    },
    get problem() {
      return parsed().problem;
    },
  };
}

/** Every source file of {@link sourcePaths}. */
async function readSources(
  project: Project,
  bundles: readonly Bundle[],
): Promise<{
  files: Map<string, SourceText>;
  native: Map<string, string>;
  bytes: number;
  unread: Unread[];
  skipped: Unread[];
}> {
  const { root, files: disk } = project;
  const { paths, unread } = sourcePaths(project, bundles);
  const objects = readObjects(project);
  const files = new Map<string, SourceText>();
  const native = new Map<string, string>();
  let bytes = 0;
  const skipped = withoutReader(paths, bundles);
  for (const path of paths) {
    if (unreadLanguage(path) !== undefined) continue;
    try {
      const data = disk.readRegular(disk.path.join(root, path), limits.sourceFileBytes.value);
      bytes += data.length;
      const text = data.toString();
      if (isNative(path)) {
        native.set(path, text);
        continue;
      }
      files.set(path, sourceText(path, text, objects));
    } catch (error) {
      // No file could be read then, and a report that says so of each one helps nobody.
      if (error instanceof BinaryMissing) throw error;
      // A tool's own temporary file, such as a compiled configuration.
      if (isMissing(error)) continue;
      unread.push({ path, inside: [], because: describeFileError(error) });
    }
  }
  addIndirectReads(files);
  return { files, native, bytes, unread, skipped };
}
