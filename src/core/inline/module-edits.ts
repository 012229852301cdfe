import MagicString from 'magic-string';
import { literalReads } from '../lint/destructured.js';
import type { Edit } from '../lint/model.js';
import type { ObjectUse, Read, Taken } from '../reads/read.js';

/** Code for a name of an object; absent if the read stays as it is. */
export type CodeOf = (name: string, object: string) => string | undefined;

/** The edits that replace a module's reads. Code that is not a read keeps what it does. */
export class ModuleEdits {
  readonly result: MagicString;
  /** Declarators that became literal declarations. */
  readonly #rewritten: Edit[] = [];

  constructor(
    readonly file: { path: string; text: string },
    readonly reads: readonly Read[],
    readonly codeOf: CodeOf,
    /** Tells whether an object is not there when the code runs. */
    readonly isEmptied: (object: string) => boolean,
  ) {
    this.result = new MagicString(file.text);
  }

  replace(read: Read): void {
    const { kind, name, object } = read;
    if (kind === 'whole' || kind === 'spread') {
      if (this.isEmptied(object) && (!read.isTest || object === 'process.env')) this.#empty(read);
    } else if (name === undefined || read.isUncertain) return;
    else if (kind === 'destructured') this.#declare(read);
    else if (kind === 'in') this.#exists(read, name);
    else if (/^(member|constant|key|alias|call)$/.test(kind)) {
      const kept = kind === 'alias' && this.isEmptied(object) ? memberOf(object, name) : undefined;
      this.#overwrite(read, this.codeOf(name, object) ?? kept);
    }
  }

  /** An object that is destructured becomes an object of the names that are taken, so that patterns and defaults stay. */
  source({ start, end, object, taken }: ObjectUse): void {
    if (this.#rewritten.some((edit) => edit.start <= start && end <= edit.end)) return;
    const code = taken ? this.#objectOf(taken) : this.#aliased(object);
    if (code !== undefined) this.result.overwrite(start, end, `(${code})`);
  }

  /** The code that another name of an object stands for; a `process` that is not there throws where it gets one. */
  #aliased(object: string): string | undefined {
    if (object === 'process') return this.isEmptied('process.env') ? '{ env: {} }' : undefined;
    return this.isEmptied(object) ? '{}' : undefined;
  }

  #overwrite({ start, end, isShorthand, isStatement }: Read, code: string | undefined): void {
    if (code === undefined) return;
    const key = isShorthand ? `${this.file.text.slice(start, end)}: ` : '';
    // Alone in a statement, a string could be a directive such as "use client". An operator that is a word joins no line before.
    this.result.overwrite(start, end, key + (isStatement ? `void ${code}` : code));
  }

  /** Another name of the object stands for an empty one already. */
  #empty(read: Read): void {
    const { text } = this.file;
    if (text.startsWith('...', read.start) || /^[\w$]+$/.test(text.slice(read.start, read.end))) return;
    // A bracket at the start of a line could continue the line before.
    const startsLine = /(^|\n)[ \t]*$/.test(text.slice(Math.max(0, read.start - 200), read.start));
    const key = read.isShorthand ? `${text.slice(read.start, read.end)}: ` : '';
    this.result.overwrite(read.start, read.end, key + (startsLine ? 'Object()' : '({})'));
  }

  #exists({ start, end, object }: Read, name: string): void {
    const code = this.codeOf(name, object);
    if (code !== undefined) this.result.overwrite(start, end, String(code !== 'undefined'));
  }

  /** A plain pattern becomes declarations with literals, which a minifier can fold. */
  #declare(read: Read): void {
    const known = new Set<string>();
    const edit = literalReads(
      this.file,
      read,
      (name) => {
        const code = this.codeOf(name, read.object);
        if (code !== undefined) known.add(name);
        return code ?? memberOf(read.object, name);
      },
      true,
    );
    if (!edit || known.size === 0 || this.#rewritten.some(({ start }) => start === edit.start)) return;
    // A default may contain reads of its own.
    const isNested = this.reads.some(
      ({ kind, start, end }) => kind !== 'destructured' && edit.start <= start && end <= edit.end,
    );
    if (isNested) return;
    this.#rewritten.push(edit);
    this.result.overwrite(edit.start, edit.end, edit.text);
  }

  /** Undefined if nothing of the object is replaced. */
  #objectOf({ path, object, names, below, others }: Taken): string | undefined {
    const isEmptied = object !== undefined && this.isEmptied(object);
    const own = object === undefined ? [] : names.map((name) => [name, this.codeOf(name, object)] as const);
    const inner = Object.entries(below).map(([key, one]) => [key, this.#objectOf(one)] as const);
    const isReplaced = [...own, ...inner].some(([, code]) => code !== undefined);
    if (!isReplaced && !isEmptied) return undefined;
    const kept = [...own, ...inner].map(([name, code]) => [name, code ?? memberOf(path, name)] as const);
    const parts = kept
      .filter(([, code]) => code !== 'undefined')
      .map(([name, code]) => `${JSON.stringify(name)}: ${code}`);
    const isThere = others && !isEmptied;
    return `{ ${[...(isThere ? [`...${path}`] : []), ...parts].join(', ')} }`;
  }
}

function memberOf(path: string, name: string): string {
  return /^[A-Za-z_$][\w$]*$/.test(name) ? `${path}.${name}` : `${path}[${JSON.stringify(name)}]`;
}
