import MagicString from 'magic-string';
import { type Bundle, type Contract, type Variable, whereCodeGoes } from '../contract/contract.js';
import { nameIn, replacedObjects } from '../contract/names.js';
import { literalReads } from '../lint/destructured.js';
import type { Edit } from '../lint/model.js';
import { type Meaning, Names } from '../lint/names.js';
import { readsIn, usualObjects } from '../reads/index.js';
import type { Read } from '../reads/read.js';
import { stringLiteral, valueLiteral } from '../runtime/literal.js';
import { loadedExpression, loadedHelper } from '../runtime/runtime.js';
import { reveal, type Secret } from '../secrets/secret.js';
import { textPlaces } from '../text/positions.js';
import { toolchainOf } from '../toolchains/index.js';
import { isReadLate } from '../toolchains/read-from.js';

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
  map(): ReturnType<MagicString['generateMap']>;
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
    // A framework's configuration is read when the app runs, and is left to it.
    const replaced = replacedObjects(bundle).filter((entry) => !isReadLate(entry));
    this.#objects = [...new Set([...replaced, ...usualObjects])];
  }

  /**
   * @param path tells the language; scripts of components come as what their own plugins made of them
   * @param isServer whether the module is built for a program that reads its own environment as it runs
   */
  module(path: string, text: string, isServer: boolean): InlineResult {
    const { reads, sources = [] } = readsIn(path, text, this.#objects);
    const result: InlineResult = { problems: [], used: [] };
    if (reads.length === 0) return result;
    const placeOf = textPlaces(text);
    const report = ({ nameStart }: Read, message: string, stops = false) => {
      result.problems.push({ message, ...placeOf(nameStart), stops });
    };
    const edits = new MagicString(text);
    const done: Edit[] = [];
    for (const read of reads) {
      const meaning = read.name === undefined ? undefined : this.#names.meaning(read.name);
      if (meaning?.kind === 'public') result.used.push(meaning.variable.name);
      if (
        meaning?.kind === 'builtIn' ||
        read.kind === 'assigned' ||
        read.kind === 'import' ||
        read.kind === 'placeholder'
      )
        continue;
      if (isServer && meaning?.kind !== 'public' && !(meaning?.kind === 'withheld' && this.#isInstalled)) continue;
      const problem = problemOf(read, meaning, this.bundle);
      if (problem) report(read, problem, meaning?.kind === 'withheld');
      if (read.isShorthand) edits.appendLeft(read.start, `${text.slice(read.start, read.end)}: `);
      this.#replace({ path, text }, read, edits, done);
    }
    for (const { start, end, object } of sources) this.#emptied(object, start, end, edits, done);
    if (edits.hasChanged())
      result.inlined = {
        code: edits.toString(),
        map: () => edits.generateMap({ source: path, includeContent: true, hires: 'boundary' }),
      };
    return result;
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
    for (const read of reads) {
      if (read.kind !== 'placeholder' || read.name === undefined) continue;
      const meaning = this.#names.meaning(read.name);
      const value = this.#values.get(read.name);
      if (value !== undefined) edits.overwrite(read.start, read.end, escapedHtml(value));
      else if (meaning.kind !== 'builtIn') {
        const message =
          problemOf(read, meaning, this.bundle) ?? `${read.name} has no value, so the page shows %${read.name}%`;
        problems.push({ message, ...placeOf(read.nameStart), stops: meaning.kind === 'withheld' });
      }
    }
    return { html: edits.toString(), problems };
  }

  #replace(file: { path: string; text: string }, read: Read, edits: MagicString, done: Edit[]): void {
    const { kind, name = '', start, end } = read;
    if (/^(member|constant|key|alias|call)$/.test(kind))
      edits.overwrite(start, end, this.#literal(name, file.text, start));
    else if ((kind === 'whole' || kind === 'spread') && !file.text.startsWith('...', start))
      this.#emptied(read.object, start, end, edits, done);
    else if (kind === 'in') edits.overwrite(start, end, String(this.#values.has(name)));
    else if (kind === 'destructured') {
      const edit = literalReads(file, read, (one) => this.#literal(one, '', 0));
      if (!edit || done.some((one) => one.start === edit.start)) return;
      done.push(edit);
      edits.overwrite(edit.start, edit.end, edit.text);
    }
  }

  /** The object itself is never inlined. If the tool has none at that place, an empty one replaces it. */
  #emptied(object: string, start: number, end: number, edits: MagicString, done: readonly Edit[]): void {
    const isTools = object.startsWith('import.meta') && providesImportMetaEnv(this.bundle);
    const isIn = done.some((edit) => edit.start <= start && end <= edit.end);
    if (!isTools && !isIn && !object.startsWith('$')) edits.overwrite(start, end, '({})');
  }

  /** A value as a JavaScript string; U+2028 and U+2029 end a line in older engines, `<` a script in a page. */
  #literal(name: string, text: string, at: number): string {
    const value = this.#values.get(name);
    if (value === undefined) return 'undefined';
    const literal = stringLiteral(value);
    // At the beginning of a statement a string could be taken for a directive.
    return /(^|[;{}\n])\s*$/.test(text.slice(Math.max(0, at - 80), at)) ? `(${literal})` : literal;
  }
}

/** HTML Standard, 13.3: what ends text or a quoted attribute value. An ampersand stays, as URLs contain it. */
function escapedHtml(text: string): string {
  return text.replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
}

/** Tools with a dev server of their own keep an `import.meta.env` object, with the mode in it. */
function providesImportMetaEnv(bundle: Bundle): boolean {
  return toolchainOf(bundle).reads.some(({ from, prefix }) => from === 'import.meta.env' && prefix !== '');
}

function problemOf(read: Read, meaning: Meaning | undefined, shipped: Bundle): string | undefined {
  const { kind, name, object } = read;
  const tool = toolchainOf(shipped);
  const isFull = tool.reads.some(({ from, inlinesObjectAnyway }) => from === object && inlinesObjectAnyway);
  const holds = isFull ? `where ${tool.name} puts every public value` : 'which contains no value of the contract';
  if (kind === 'whole' || kind === 'spread') return `uses all of ${object}, ${holds}`;
  if (name === undefined) return `reads a computed name of ${object}, ${holds}`;
  switch (meaning?.kind) {
    case 'withheld':
      return `${name}, a ${meaning.variable.reach}-only variable, is read by a module that ${whereCodeGoes(shipped)}`;
    case 'misnamed':
      return `${name} is undefined here: ${meaning.mistake}; write ${meaning.right}`;
    case 'elsewhere':
      return `${name} is undefined here: ${meaning.because}`;
    case 'unknown':
      return `${name} is not in the contract, so it is undefined in ${shipped.name}${meaning.near.length > 0 ? `; did you mean ${meaning.near.join(' or ')}?` : ''}`;
    default:
      return undefined;
  }
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
