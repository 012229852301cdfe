import MagicString, { type SourceMap } from 'magic-string';
import { type Bundle, type Contract, type Variable, whereCodeGoes } from '../contract/contract.js';
import { nameIn, replacedObjects } from '../contract/names.js';
import { type Meaning, Names } from '../lint/names.js';
import { readsIn, usualObjects } from '../reads/index.js';
import type { Read } from '../reads/read.js';
import { stringLiteral, valueLiteral } from '../runtime/literal.js';
import { loadedExpression, loadedHelper } from '../runtime/runtime.js';
import { reveal, type Secret } from '../secrets/secret.js';
import { rawElements } from '../syntax/inline-scripts.js';
import { textPlaces } from '../text/positions.js';
import { isIn } from '../text/ranges.js';
import { toolchainOf } from '../toolchains/index.js';
import { isReadLate } from '../toolchains/read-from.js';
import { ModuleEdits } from './module-edits.js';

/** Something that the build has to say about a module. */
export interface InlineProblem {
  message: string;
  /** From 1. */
  line: number;
  column: number;
  /** A read that must not reach the browser stops the build. */
  stops: boolean;
}

/** A module with its reads replaced. */
export interface Inlined {
  code: string;
  /** Created on demand, because it costs more than everything else. */
  map(): SourceMap;
}

export interface InlineResult {
  /** Absent if nothing changed. */
  inlined?: Inlined;
  problems: InlineProblem[];
  /** The variables that the module reads. */
  used: string[];
}

/** Replaces the reads of a bundle's code by its values: by syntax tree, never by text. */
export class Inliner {
  readonly #names: Names;
  readonly #values = new Map<string, string>();
  readonly #objects: readonly string[];

  /** On people's own machines, also what runs as a program and reads an environment of its own. */
  get #isInstalled(): boolean {
    return this.bundle.runs === 'desktop' || this.bundle.runs === 'mobile';
  }

  /** @param values of public variables, by their names in the contract */
  constructor(
    contract: Contract,
    readonly bundle: Bundle,
    values: ReadonlyMap<string, Secret>,
  ) {
    this.#names = new Names(contract, bundle);
    // Only public values get here.
    for (const variable of contract.variables.values()) {
      const value = values.get(variable.name);
      if (variable.reach === 'public' && value) this.#values.set(nameIn(bundle, variable), reveal(value));
    }
    this.#objects = objectsOf(bundle);
  }

  /**
   * @param path tells the language; scripts of components come as what their own plugins made of them
   * @param isServer whether the module is built for a program that reads its own environment as it runs
   */
  module(path: string, text: string, isServer: boolean): InlineResult {
    const { reads, objectUses: sources = [] } = readsIn(path, text, this.#objects);
    const result: InlineResult = { problems: [], used: [] };
    if (reads.length === 0) return result;
    const placeOf = textPlaces(text);
    const edits = new ModuleEdits(
      { path, text },
      reads,
      (name, object) => this.#codeOf(name, object, isServer),
      (object) => this.#isEmptied(object, isServer),
    );
    for (const read of reads) {
      const meaning = read.name === undefined ? undefined : this.#names.meaning(read.name);
      if (meaning?.kind === 'public') result.used.push(meaning.variable.name);
      const problem = this.#isLeft(read, meaning, isServer) ? undefined : problemOf(read, meaning, this.bundle);
      if (problem) result.problems.push({ ...problem, ...placeOf(read.nameStart) });
      edits.replace(read);
    }
    for (const source of sources) edits.source(source);
    const changed = edits.result;
    if (changed.hasChanged())
      result.inlined = {
        code: changed.toString(),
        map: () => changed.generateMap({ source: path, includeContent: true, hires: 'boundary' }),
      };
    return result;
  }

  /** Tells whether the tool or the running program answers a read, so that there is nothing to report. */
  #isLeft({ kind, object, name, isTest, isUncertain }: Read, meaning: Meaning | undefined, isServer: boolean): boolean {
    if (isTest || /^(import|placeholder)$/.test(kind)) return true;
    // A server has an environment of its own when it runs.
    const isOfRun = isServer && !object.startsWith('import.meta');
    // An installed app may have parts with an environment of their own.
    if (kind === 'assigned') return isServer || (this.#isInstalled && !isUncertain);
    if (name === undefined || isUncertain) return isOfRun;
    if (this.#codeOf(name, object, isServer) !== undefined) return false;
    const isTypo = meaning?.kind === 'unknown' && meaning.near.length > 0;
    return isServer || !isTypo;
  }

  /**
   * The code that replaces a read: a literal or `undefined`. Absent where the tool, another script or the running program
   * provides the value.
   */
  #codeOf(name: string, object: string, isServer: boolean): string | undefined {
    const meaning = this.#names.meaning(name);
    if (meaning.kind === 'public') {
      const value = this.#values.get(name);
      return value === undefined ? 'undefined' : stringLiteral(value);
    }
    if (meaning.kind === 'builtIn') return undefined;
    if (isServer && !(meaning.kind === 'withheld' && this.#isInstalled)) return undefined;
    // Objects of the project's own may have keys that no contract knows.
    const isOwn = !(usualObjects as readonly string[]).includes(object);
    return meaning.kind === 'unknown' && isOwn ? undefined : 'undefined';
  }

  /** The whole object is never inlined. Where a browser has none, an empty one replaces it. */
  #isEmptied(object: string, isServer: boolean): boolean {
    if (object.startsWith('import.meta')) return !providesImportMetaEnv(this.bundle);
    return !isServer && object.endsWith('process.env');
  }

  /**
   * Fills the placeholders of a page, `%NAME%`, as the tool would. Only names of the contract are filled; a build or server
   * variable stops the build.
   */
  page(path: string, html: string): { html: string; problems: InlineProblem[] } {
    const { reads } = readsIn(path, html, this.#objects);
    const problems: InlineProblem[] = [];
    const placeOf = textPlaces(html);
    const edits = new MagicString(html);
    const scripts = rawElements(html, false).filter(({ name }) => name === 'script');
    const content = scripts.map(({ contentStart: start, contentEnd: end }) => ({ start, end }));
    for (const read of reads) {
      if (read.kind !== 'placeholder' || read.name === undefined) continue;
      const escaped = isIn(content, read.start) ? escapedText : escapedHtml;
      const meaning = this.#names.meaning(read.name);
      const value = this.#values.get(read.name);
      if (value !== undefined) edits.overwrite(read.start, read.end, escaped(value));
      else if (meaning.kind !== 'builtIn') {
        const message =
          problemOf(read, meaning, this.bundle)?.message ??
          `${read.name} has no value, so the page shows %${read.name}%`;
        problems.push({ message, ...placeOf(read.nameStart), stops: meaning.kind === 'withheld' });
      }
    }
    return { html: edits.toString(), problems };
  }
}

/** The objects whose reads are replaced in a bundle's modules. */
export function objectsOf(bundle: Bundle): readonly string[] {
  // A framework's configuration is read when the app runs, and is left to it.
  const replaced = replacedObjects(bundle).filter((entry) => !isReadLate(entry));
  return [...new Set([...replaced, ...usualObjects])];
}

/** HTML Standard, 13.3: what ends text or a quoted attribute value. An ampersand stays, as URLs contain it. */
function escapedHtml(text: string): string {
  return text.replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
}

/** Inside a script, where a placeholder is a part of a string in any quotes, or of JSON. */
function escapedText(text: string): string {
  return stringLiteral(text)
    .slice(1, -1)
    .replaceAll(/['`$]/g, (one) => `\\u00${one.charCodeAt(0).toString(16)}`);
}

/** Tools with a dev server of their own keep an `import.meta.env` object, with the mode in it. */
function providesImportMetaEnv(bundle: Bundle): boolean {
  return toolchainOf(bundle).reads.some(({ from, prefix }) => from === 'import.meta.env' && prefix !== '');
}

function problemOf(
  read: Read,
  meaning: Meaning | undefined,
  shipped: Bundle,
): Pick<InlineProblem, 'message' | 'stops'> | undefined {
  const { kind, object, name } = read;
  if (kind === 'assigned') {
    const message = `writes ${name ?? `a name of ${object}`}, whose reads have the value of the build; use a variable of your own`;
    return { message, stops: meaning?.kind !== 'builtIn' };
  }
  if (kind === 'whole' || kind === 'spread' || name === undefined) return problemOfMany(read, shipped);
  if (read.isUncertain && meaning?.kind === 'public') {
    const message = `${name} is read through a name that may mean another object by then; write ${object}.${name}`;
    return { message, stops: true };
  }
  switch (meaning?.kind) {
    case 'withheld': {
      const whose = `a ${meaning.variable.reach}-only variable`;
      return { message: `${name}, ${whose}, is read by a module that ${whereCodeGoes(shipped)}`, stops: true };
    }
    case 'misnamed':
      return { message: `${name} is undefined here: ${meaning.mistake}; write ${meaning.right}`, stops: false };
    case 'elsewhere':
      return { message: `${name} is undefined here: ${meaning.because}`, stops: false };
    case 'unknown': {
      const near = meaning.near.length > 0 ? `; did you mean ${meaning.near.join(' or ')}?` : '';
      return { message: `${name} is not in the contract, so it is undefined in ${shipped.name}${near}`, stops: false };
    }
    default:
      return undefined;
  }
}

/**
 * A read of the whole object, or of a name that only the running code knows. The latter stops the build where the bundle's
 * code expects values: the code would go on with `undefined`.
 */
function problemOfMany({ kind, object }: Read, shipped: Bundle): Pick<InlineProblem, 'message' | 'stops'> {
  const tool = toolchainOf(shipped);
  const way = tool.reads.find(({ from }) => from === object);
  const isWhole = kind === 'whole' || kind === 'spread';
  const what = isWhole ? `uses all of ${object}` : `reads a computed name of ${object}`;
  if (way?.inlinesObjectAnyway) return { message: `${what}, where ${tool.name} puts every public value`, stops: false };
  const stops = !isWhole && replacedObjects(shipped).includes(object);
  const message = `${what}, which contains no value of the contract`;
  return {
    message: stops ? `${message}; write literal reads, such as ${object}.${shipped.prefixes[0] ?? ''}NAME` : message,
    stops,
  };
}

/**
 * A module with an export for each public variable of a bundle, converted by its form. A misspelt name is an error of the
 * build, and what is not imported is dropped.
 * @param later the variables that come with the page
 * @param isNeeded whether every stage has a value of such a one
 */
export function valuesModule(
  variables: readonly Variable[],
  values: ReadonlyMap<string, Secret>,
  later: readonly Variable[],
  isNeeded: (variable: Variable) => boolean,
): string {
  const inlined = variables
    .filter(({ reach }) => reach === 'public')
    .map((variable) => {
      const value = values.get(variable.name);
      return `export const ${variable.name} = ${value ? valueLiteral(variable, reveal(value)) : 'undefined'};`;
    });
  const loaded = later.map(
    // Without the mark a bundler would keep a call that nothing needs.
    (one) => `export const ${one.name} = /* @__PURE__ */ (() => ${loadedExpression(one, isNeeded(one))})();`,
  );
  return `${[...inlined, ...(loaded.length > 0 ? [loadedHelper(false)] : []), ...loaded].join('\n')}\n`;
}
