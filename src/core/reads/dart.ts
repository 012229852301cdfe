import { readFrom } from '../toolchains/read-from.js';
import type { FileReads, Import, Read } from './read.js';

/** The constructors of the Dart core library that read compile-time constants. */
const reader = /\b(?:(?:String|int|bool)\.fromEnvironment|bool\.hasEnvironment)\s*\(\s*/y;

/** Tells whether the object of a read is a constructor that reads compile-time constants. */
export function isDartConstant(object: string): boolean {
  return /^(String|int|bool)\.(fromEnvironment|hasEnvironment)$/.test(object);
}

/** A text for a missing value, after the bracket of a read: `object['NAME'] ?? 'text'`. */
const fallback = /\s*[\])]\s*\?\?\s*((['"])((?:(?!\2)[^\\$\n])*)\2)/y;

const importWord = /\b(?:import|export|part)\s+(?!of\b)/y;

/**
 * The reads of a Dart text: `String.fromEnvironment('NAME')` and its like, outside of strings and comments, and inside of
 * `${...}` in strings (Dart language specification, 17.7 strings, 21.1 comments).
 */
export function readsInDart(text: string, objects: readonly string[] = []): FileReads {
  return new DartReader(text, declaredObjects(objects)).run();
}

/** Reads that a contract declares, of what a program loads as it runs: `object['NAME']`, `object.get('NAME')`, `call('NAME')`. */
function declaredObjects(objects: readonly string[]): readonly { entry: string; pattern: RegExp }[] {
  return objects.flatMap((entry) => {
    const from = readFrom(entry);
    if (from?.kind !== 'object' && from?.kind !== 'call') return [];
    const path = from.path.replaceAll('.', '\\s*[?!]?\\.\\s*').replaceAll('$', '\\$');
    const after = from.kind === 'call' ? '\\(\\s*' : '\\s*[?!]?(?:\\[\\s*|\\.\\s*(?:get|maybeGet)\\s*\\(\\s*)';
    return [{ entry, pattern: new RegExp(`${path}${after}`, 'y') }];
  });
}

class DartReader {
  #at = 0;
  readonly #reads: Read[] = [];
  readonly #imports: Import[] = [];

  constructor(
    readonly text: string,
    readonly objects: ReturnType<typeof declaredObjects>,
  ) {}

  run(): FileReads {
    this.#code(undefined);
    return { reads: this.#reads, imports: this.#imports };
  }

  /** Code up to the brace that closes an interpolation, or to the end. */
  #code(until: '}' | undefined): void {
    let depth = 0;
    while (this.#at < this.text.length) {
      const sign = this.text[this.#at] as string;
      if (until && sign === '}' && depth === 0) return;
      if (sign === '{') depth++;
      else if (sign === '}') depth--;
      if (this.text.startsWith('//', this.#at)) this.#skipTo('\n');
      else if (this.text.startsWith('/*', this.#at)) this.#blockComment();
      else if (sign === '"' || sign === "'")
        this.#string(this.text[this.#at - 1] === 'r' && !/\w/.test(this.text[this.#at - 2] ?? ''));
      else if (/[A-Za-z_$]/.test(sign)) this.#word();
      else this.#at++;
    }
  }

  #skipTo(end: string): void {
    const found = this.text.indexOf(end, this.#at);
    this.#at = found < 0 ? this.text.length : found + end.length;
  }

  /** Block comments nest. */
  #blockComment(): void {
    let depth = 0;
    while (this.#at < this.text.length) {
      if (this.text.startsWith('/*', this.#at)) depth++;
      else if (this.text.startsWith('*/', this.#at)) depth--;
      else {
        this.#at++;
        continue;
      }
      this.#at += 2;
      if (depth === 0) return;
    }
  }

  /** @returns the text, if it is constant */
  #string(raw: boolean): string | undefined {
    const quote = /^("""|'''|"|')/.exec(this.text.slice(this.#at, this.#at + 3))?.[0] as string;
    this.#at += quote.length;
    let text: string | undefined = '';
    while (this.#at < this.text.length && !this.text.startsWith(quote, this.#at)) {
      const sign = this.text[this.#at] as string;
      if (quote.length === 1 && sign === '\n') return undefined;
      if (!raw && sign === '\\') this.#at++;
      if (!raw && sign === '$') {
        text = undefined;
        this.#at++;
        if (this.text[this.#at] !== '{') continue;
        this.#at++;
        this.#code('}');
        this.#at++;
        continue;
      }
      if (text !== undefined) text += this.text[this.#at] ?? '';
      this.#at++;
    }
    this.#at += quote.length;
    return text;
  }

  #word(): void {
    const start = this.#at;
    if (this.#match(importWord)) {
      const specifierAt = this.#at;
      if (/["']/.test(this.text[this.#at] ?? '')) this.#addImport(this.#string(false), specifierAt);
      return;
    }
    this.#at = start;
    if (!/[\w$.]/.test(this.text[start - 1] ?? '')) {
      const declared = this.objects.find(({ pattern }) => this.#match(pattern) !== undefined);
      if (declared) {
        this.#addRead(declared.entry, start);
        return;
      }
    }
    const call = this.#match(reader);
    if (!call) {
      this.#at = start + (/^[\w$]+/.exec(this.text.slice(start, start + 256))?.[0].length ?? 1);
      return;
    }
    this.#addRead(call.trim().replace(/\s*\($/, ''), start);
  }

  /** Adds a read whose name, or the expression of it, is next. */
  #addRead(object: string, start: number): void {
    const nameAt = this.#at;
    const isString = /["']/.test(this.text[this.#at] ?? '');
    const name = isString ? this.#string(false) : undefined;
    const nameEnd = isString ? this.#at - 1 : this.#at;
    const isKnown = name !== undefined;
    fallback.lastIndex = this.#at;
    const other = fallback.exec(this.text);
    this.#reads.push({
      kind: isKnown ? 'call' : 'computed',
      ...(isKnown && { name }),
      object,
      optional: false,
      start,
      end: this.#at,
      nameStart: isString ? nameAt + 1 : start,
      nameEnd: isString ? nameEnd : this.#at,
      ...(other && {
        fallback: {
          start: this.#at + other[0].length - (other[1] ?? '').length,
          end: this.#at + other[0].length,
          text: other[3] ?? '',
        },
      }),
    });
  }

  #addImport(specifier: string | undefined, start: number): void {
    if (specifier !== undefined) this.#imports.push({ specifier, start, end: this.#at, isDynamic: false });
  }

  #match(pattern: RegExp): string | undefined {
    pattern.lastIndex = this.#at;
    const found = pattern.exec(this.text)?.[0];
    if (found !== undefined) this.#at += found.length;
    return found;
  }
}
