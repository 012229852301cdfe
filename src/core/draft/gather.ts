import { posix } from 'node:path';
import { parseEnvFile } from '../envfile/parse.js';
import { parentOf } from '../files/directories.js';
import { isStructured } from '../files/file-kinds.js';
import { isPage, isSource } from '../files/languages.js';
import { mayHaveStages, type NamedFile, stageOfWord, valueFileOf } from '../files/value-files.js';
import { limits } from '../limits/index.js';
import type { SourceText } from '../lint/model.js';
import { serverParts } from '../lint/server-parts.js';
import { addIndirectReads, readsIn, usualObjects } from '../reads/index.js';
import { noFacts } from '../resolve/env-findings.js';
import { readFileLayer } from '../resolve/file-layer.js';
import type { ReadLayer } from '../resolve/layer.js';
import { byteSize } from '../text/display.js';
import { localUrl } from '../text/local-address.js';
import { textPlaces } from '../text/positions.js';
import { table } from '../text/table.js';
import { yamlIn } from '../text/yaml.js';
import { shapeOf } from '../tokens/shapes.js';
import { angularApplications } from '../toolchains/angular-workspace.js';
import { importedObjects, isConfigOfTool } from '../toolchains/index.js';
import { other } from '../toolchains/other.js';
import type { ConfigFile, LeftOut, LocalUrl, Material, Package, SourceFile, ValueFile } from './material.js';

/** Objects that code of any toolchain reads from, before the toolchain is known. */
const objects = [...usualObjects, ...importedObjects.keys()];

/** A file's bytes, or undefined if it cannot be read. */
type ReadBytes = (path: string) => Uint8Array | undefined;

/**
 * Gathers the material of a draft from all files of a project. A file that cannot be read counts as absent.
 * @param paths relative to the contract's directory, with slashes
 * @param resolver answers which source file an import means
 */
export function gather(
  paths: readonly string[],
  read: ReadBytes,
  exists: Material['exists'],
  resolver: (modules: Material['modules']) => Material['resolve'],
): Material {
  const configs = paths.filter(isConfig).flatMap((path) => configFile(read, path) ?? []);
  const replaced = replacedModules(configs);
  const single = paths.flatMap((path) => valueFile(read, path, replaced.get(path)) ?? []);
  const known = new Set(single.map(({ path }) => path));
  const keyed = paths.filter((path) => !known.has(path)).flatMap((path) => stagesOfFile(read, path));
  const valueFiles = [...single, ...keyed];
  const valuePaths = new Set(valueFiles.map(({ path }) => path));
  const leftOut: LeftOut[] = [];
  const localUrls: LocalUrl[] = [];
  const modules = new Map<string, SourceText>();
  for (const path of paths.filter(isSource)) {
    const module = sourceText(read, path, leftOut);
    if (module) modules.set(path, module);
  }
  addIndirectReads(modules);
  const sources = [...modules.values()].filter(({ path }) => !valuePaths.has(path));
  return {
    files: valueFiles,
    sources: sources.flatMap((one) => sourceFile(one, localUrls) ?? []),
    modules,
    resolve: resolver(modules),
    localUrls,
    workflows: paths.filter(isWorkflow).flatMap((path) => configFile(read, path) ?? []),
    packages: paths.flatMap((path) => packageFrom(read, path) ?? []),
    configs,
    paths,
    pages: paths.filter(isPage).flatMap((path) => pageFrom(read, path) ?? []),
    leftOut,
    exists,
    text: (path) => configFile(read, path)?.text,
  };
}

/** Modules that a workspace file exchanges, with the stage that gets each; none for the module that is in the code. */
function replacedModules(configs: readonly ConfigFile[]): Map<string, NamedFile> {
  const found = new Map<string, NamedFile>();
  for (const { path, text } of configs) {
    if (!path.endsWith('angular.json')) continue;
    for (const { replacements } of angularApplications(text))
      for (const { configuration, replace, with: by } of replacements) {
        const at = (one: string) => parentOf(path) + one;
        const stage = stageOfWord(configuration) ?? configuration;
        found.set(at(by), {
          kind: 'module',
          folder: parentOf(at(by)),
          isLocal: false,
          stage,
          stageWord: configuration,
        });
        if (!found.has(at(replace)))
          found.set(at(replace), { kind: 'module', folder: parentOf(at(replace)), isLocal: false });
      }
  }
  return found;
}

function valueFile(read: ReadBytes, path: string, replaced?: NamedFile): ValueFile | undefined {
  const named = replaced ?? valueFileOf(path);
  if (!named) return undefined;
  const hasValues = named.kind !== 'leftover' && named.kind !== 'misnamed';
  const bytes = hasValues ? read(path) : undefined;
  if (hasValues && !bytes) return undefined;
  const layer: ReadLayer = bytes
    ? readFileLayer(path, bytes, noFacts)
    : { name: path, state: 'read', path, offers: [], findings: [] };
  const isOther = named.kind === 'structured' || named.kind === 'module';
  // A shell script that is called NAME.env sets variables for its own program.
  const isScript = layer.findings.some(({ code }) => code === 'file/syntax') && !/(^|\/)\.env(\.|$)/.test(path);
  if (named.kind === 'env' && isScript) return undefined;
  // Without values, a stage in a file's name means nothing.
  if (isOther && layer.offers.length === 0) return undefined;
  return { ...named, path, layer, about: named.kind === 'example' && bytes ? commentsIn(bytes) : new Map() };
}

/** A settings file with an object for each stage, `{ development: {…}, production: {…} }`: a layer of each. */
function stagesOfFile(read: ReadBytes, path: string): ValueFile[] {
  if (!mayHaveStages(path)) return [];
  const bytes = read(path);
  if (!bytes || bytes.length > limits.envFileBytes.value) return [];
  const words = new Set([...(textOf(bytes) ?? '').matchAll(/(\w+)["']?\s*[:=]/g)].map(([, word = '']) => word));
  const found = [...words].flatMap((key): ValueFile[] => {
    const stage = stageOfWord(key);
    const layer = stage === undefined ? undefined : readFileLayer(path, bytes, noFacts, key);
    if (stage === undefined || !layer || layer.offers.length === 0) return [];
    const kind = isStructured(path) ? 'structured' : 'module';
    const named = { kind, folder: parentOf(path), isLocal: false, stage, stageWord: key } as const;
    return [{ ...named, path, key, layer, about: new Map() }];
  });
  return found.length > 1 ? found : [];
}

/** The comment lines directly above a name, if they are prose. A commented-out assignment or a token is not. */
function commentsIn(bytes: Uint8Array): Map<string, string> {
  const { nodes } = parseEnvFile(bytes);
  const about = new Map<string, string>();
  let lines: string[] = [];
  for (const node of nodes) {
    if (node.kind === 'comment')
      lines.push(
        textBetween(bytes, node.start, node.end)
          .replace(/^\s*#+\s?/, '')
          .trim(),
      );
    else {
      if (node.kind === 'entry' && lines.length > 0 && lines.every(isProse))
        about.set(node.name, lines.join(' ').slice(0, 200));
      lines = [];
    }
  }
  return about;
}

function isProse(line: string): boolean {
  return (
    line !== '' &&
    /[A-Za-z]{2}/.test(line) &&
    line.split(/\s+/).every((word) => word.length < 24 && !word.includes('=') && !shapeOf(word))
  );
}

function textBetween(bytes: Uint8Array, start: number, end: number): string {
  return Buffer.from(bytes.buffer, bytes.byteOffset + start, end - start).toString();
}

function sourceText(read: ReadBytes, path: string, leftOut: LeftOut[]): SourceText | undefined {
  const bytes = read(path);
  if (!bytes) return undefined;
  if (bytes.length > limits.draftSourceBytes.value) {
    leftOut.push({ path, because: `is larger than ${byteSize(limits.draftSourceBytes.value)}` });
    return undefined;
  }
  const text = textOf(bytes) ?? '';
  return { path, text, ...readsIn(path, text, objects) };
}

function sourceFile({ path, text, reads }: SourceText, localUrls: LocalUrl[]): SourceFile | undefined {
  const placeOf = textPlaces(text);
  localUrls.push(...localUrlsIn(path, text, placeOf));
  if (reads.length === 0) return undefined;
  const onServer = serverParts({ path, text }, other);
  return { path, reads: reads.map((one) => ({ ...one, ...placeOf(one.nameStart) })), onServer };
}

function localUrlsIn(path: string, text: string, placeOf: ReturnType<typeof textPlaces>): LocalUrl[] {
  if (!text.includes('://')) return [];
  const isComment = (index: number) =>
    /^\s*(\/\/|\*|#|<!--)/.test(text.slice(text.lastIndexOf('\n', index) + 1, index + 2));
  return [...text.matchAll(localUrl)]
    .filter(({ index }) => !isComment(index))
    .map(({ 0: url, index }) => ({ path, url, ...placeOf(index) }));
}

function packageFrom(read: ReadBytes, path: string): Package | undefined {
  const folder = parentOf(path);
  const name = path.slice(folder.length);
  if (name !== 'package.json' && name !== 'pubspec.yaml') return undefined;
  const isDart = name === 'pubspec.yaml';
  try {
    const text = textOf(read(path)) ?? '';
    const manifest: unknown = isDart ? yamlIn(text) : JSON.parse(text);
    const {
      name: label,
      scripts,
      dependencies,
      devDependencies,
    } = manifest as Record<string, Record<string, string> | undefined> & { name?: string };
    return {
      folder,
      name: typeof label === 'string' ? label : '',
      isDart,
      scripts: isDart ? {} : stringsOf(scripts),
      dependencies: Object.keys({ ...dependencies, ...devDependencies }),
    };
  } catch {
    return undefined;
  }
}

function stringsOf(given: object | undefined): Record<string, string> {
  return table(Object.fromEntries(Object.entries(given ?? {}).filter(([, text]) => typeof text === 'string')));
}

/** The scripts of a page by their paths in the project: those from the root are in the page's directory. */
function pageFrom(read: ReadBytes, path: string): Material['pages'][number] | undefined {
  const text = textOf(read(path));
  if (text === undefined || text.length > limits.draftSourceBytes.value) return undefined;
  const { imports } = readsIn(path, text);
  const loads = imports.map(({ specifier }) => posix.join(posix.dirname(path), specifier.replace(/[?#].*$/, '')));
  return { path, loads };
}

function isConfig(path: string): boolean {
  return /(^|\/)([\w-]+\.config\.[cm]?[jt]s|angular\.json)$/.test(path) || isConfigOfTool(path);
}

function isWorkflow(path: string): boolean {
  return /(^|\/)(\.github\/workflows\/[^/]+|\.gitlab-ci|azure-pipelines|bitbucket-pipelines)\.ya?ml$/.test(path);
}

function configFile(read: ReadBytes, path: string): ConfigFile | undefined {
  const text = textOf(read(path));
  return text === undefined ? undefined : { path, text };
}

function textOf(bytes: Uint8Array | undefined): string | undefined {
  return bytes && Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length).toString();
}
