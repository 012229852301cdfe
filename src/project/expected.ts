import type { Bundle } from '../core/contract/contract.js';
import { nameIn } from '../core/contract/names.js';
import { within } from '../core/files/within.js';
import type { Place } from '../core/findings/finding.js';
import { limits } from '../core/limits/index.js';
import { isText } from '../core/lint/literals.js';
import { placed, type SourceText, shipsAsItIs } from '../core/lint/model.js';
import { Names } from '../core/lint/names.js';
import { unusedExports } from '../core/lint/unused-exports.js';
import { isDartConstant } from '../core/reads/dart.js';
import { readsIn } from '../core/reads/index.js';
import { isNative, unreadLanguage } from '../core/reads/native.js';
import { once } from '../core/text/once.js';
import { textPlaces } from '../core/text/positions.js';
import { isIn } from '../core/text/ranges.js';
import { isCompiledIn, toolchainOf } from '../core/toolchains/index.js';
import { DART_READS, readFrom } from '../core/toolchains/read-from.js';
import { type ProjectCode, readObjects, sourcePaths } from './lint.js';
import type { Project } from './open.js';

/** The public variables that a bundle's shipped code reads at build time, by name, each with one place. */
export function readPlaces(project: Project, bundle: Bundle, { context }: ProjectCode): Map<string, Place> {
  const byName = publicNames(project, bundle);
  const found = new Map<string, Place>();
  const files = context.bundles.flatMap((code) =>
    [...code.shipped].flatMap(([path, chain]) => {
      const file = shipsAsItIs(context, code, path) ? undefined : context.files.get(path);
      return file ? [{ file, isEntry: chain.length === 1 }] : [];
    }),
  );
  const whole = takenWhole(
    files.map(({ file }) => file),
    (from, specifier) => context.resolve(from, specifier),
  );
  for (const { file, isEntry } of files) {
    const left = once(() => {
      if (isEntry || whole.has(file.path)) return [];
      return unusedExports(
        file,
        files.flatMap((one) => (one.file === file ? [] : one.file)),
      );
    });
    for (const read of file.reads) {
      const variable = byName.get(read.name ?? '');
      if (variable === undefined || found.has(variable) || read.kind === 'assigned') continue;
      if (isReplaced(bundle, read.object) && !isIn(left(), read.start))
        found.set(variable, placed(context, file, read.start, read.end).place);
    }
  }
  return found;
}

/** Modules whose exports may be read by computed names: they are imported as objects. */
function takenWhole(
  files: readonly SourceText[],
  resolve: (from: string, specifier: string) => string | undefined,
): Set<string> {
  const whole = new Set<string>();
  for (const { path, text, imports } of files)
    for (const { specifier, start, isDynamic } of imports) {
      const before = text.slice(Math.max(0, start - 120), start);
      const isObject = isDynamic || /(\*\s*as\s+[\w$]+\s*from|require\()\s*["'`]?$/.test(before);
      const target = isObject ? resolve(path, specifier) : undefined;
      if (target !== undefined) whole.add(target);
    }
  return whole;
}

/** A text in a string of a bundle's code. */
export interface WrittenText {
  /** File and line. */
  source: string;
  /** Tells whether the bundle ships the file as far as imports tell; then `adder lint` reports it. */
  isShipped: boolean;
}

/** Finds some texts in strings of a bundle's code, first in the files that it ships. Comments do not count. */
export function writtenText({ context }: ProjectCode, texts: readonly string[]): WrittenText | undefined {
  const shipped = new Set(context.bundles.flatMap((one) => [...one.shipped.keys(), ...one.onServer]));
  const files = [...context.files.values()];
  const find = (isShipped: boolean) => {
    for (const file of files.filter(({ path }) => shipped.has(path) === isShipped)) {
      const at = texts.flatMap((text) => offsetsOf(file.text, text)).find((offset) => isText(file, offset));
      if (at !== undefined) return { source: `${file.path}:${textPlaces(file.text)(at).line}`, isShipped };
    }
    return undefined;
  };
  return find(true) ?? find(false);
}

function offsetsOf(text: string, sought: string): number[] {
  const offsets: number[] = [];
  for (let at = text.indexOf(sought); at >= 0; at = text.indexOf(sought, at + 1)) offsets.push(at);
  return offsets;
}

/** Which modules read a bundle's public variables at build time. */
export interface Readers {
  /** By the variable's name: modules of the bundle's code, by paths from the contract's directory. */
  modules: ReadonlyMap<string, readonly string[]>;
  /** Variables that modules read only in ways that a framework's server fills as it starts. */
  atStart: ReadonlySet<string>;
  /** Variables that other files of the project read, such as the build's configuration. */
  elsewhere: ReadonlySet<string>;
  /** True if no read can be missing: everything was parsed, and nothing is read by a computed name or as a whole. */
  isComplete: boolean;
}

/**
 * Searches all source files of the project, without following imports: only those that mention a name or an object are parsed, so that
 * it takes a small part of a build.
 */
export function readersOf(project: Project, bundle: Bundle): Readers {
  const { files, root } = project;
  const { paths, unread } = sourcePaths(project, [bundle]);
  const byName = publicNames(project, bundle);
  const names = new Names(project.contract, bundle);
  const objects = readObjects(project);
  const mentions = mentionsOf([...byName.keys()], objects);
  const isOwn = within(bundle.code);
  const modules = new Map<string, string[]>();
  const inlined = new Set<string>();
  const elsewhere = new Set<string>();
  let isComplete = unread.length === 0 && paths.length > 0;
  for (const path of paths) {
    const text = files.readIfPossible(files.path.join(root, path), limits.sourceFileBytes.value)?.toString();
    if (text === undefined || unreadLanguage(path) !== undefined) isComplete = false;
    if (text === undefined || isNative(path) || !mentions.test(text)) continue;
    const { reads, problem } = readsIn(path, text, objects);
    if (problem) isComplete = false;
    for (const { name, object, kind } of reads) {
      const isInlined = isReplaced(bundle, object);
      if (kind === 'assigned' || (!isInlined && !isFilledAtStart(bundle, object))) continue;
      if (name === undefined) isComplete = false;
      const variable = isInlined ? byName.get(name ?? '') : publicName(names, name, object);
      if (variable === undefined) continue;
      if (isInlined) inlined.add(variable);
      if (isOwn(path)) modules.set(variable, [...new Set([...(modules.get(variable) ?? []), path])]);
      else elsewhere.add(variable);
    }
  }
  const atStart = new Set([...modules.keys()].filter((name) => !inlined.has(name)));
  return { modules, atStart, elsewhere, isComplete };
}

/** The public variable that a key of a framework's configuration is. */
function publicName(names: Names, key: string | undefined, object: string): string | undefined {
  const meaning = key === undefined ? undefined : names.meaningOf(key, object);
  return meaning?.kind === 'public' ? meaning.variable.name : undefined;
}

/** Matches a text that may read a value: one with a name, which may be part of a constant's, or with the last word of an object. */
function mentionsOf(names: readonly string[], objects: readonly string[]): RegExp {
  const words = objects.map((entry) => (entry === DART_READS ? 'fromEnvironment' : lastWord(entry)));
  const whole = words.map((word) => (/^\w+$/.test(word) ? `\\b${word}\\b` : word.replace(/[^\w]/g, '\\$&')));
  const patterns = [...new Set([...names, ...whole])].filter((one) => one !== '');
  return new RegExp(patterns.join('|') || '$^');
}

/** `env` of `import.meta.env`; a module's specifier as a whole. */
function lastWord(entry: string): string {
  if (readFrom(entry)?.kind === 'module' || readFrom(entry)?.kind === 'live') return entry;
  return (
    entry
      .replace(/[^\w$]+$/, '')
      .split(/[^\w$]+/)
      .at(-1) ?? ''
  );
}

/** The names that a bundle's code reads, to the names of the contract. */
function publicNames({ contract }: Project, bundle: Bundle): Map<string, string> {
  const variables = [...contract.variables.values()].filter(({ reach }) => reach === 'public');
  return new Map(variables.map((variable) => [nameIn(bundle, variable), variable.name]));
}

/** Tells whether a framework's server fills a read of browser code as it starts. */
function isFilledAtStart(bundle: Bundle, object: string): boolean {
  const way = toolchainOf(bundle).reads.find(({ from }) => from === object);
  return way?.time === 'run' && way.side === 'any';
}

/** Tells whether the build puts the value in the place of a read; other ways give it when the app runs. */
function isReplaced(bundle: Bundle, object: string): boolean {
  if (toolchainOf(bundle).reads.find(({ from }) => from === object)?.time === 'run') return false;
  if (isCompiledIn(bundle) && isDartConstant(object)) return true;
  const from = readFrom(object);
  if (from?.kind === 'object') return /^(import\.meta|process)\.env$/.test(from.path);
  return from?.kind === 'module' || from?.kind === 'constant' || from?.kind === 'compiled';
}
