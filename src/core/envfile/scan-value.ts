import { finding, type RawFinding } from '../findings/finding.js';
import { limits } from '../limits/index.js';
import { withoutEndBlanks } from '../text/trim.js';
import { operators, type Quote, type Template, type TemplatePart } from './ast.js';

/** A finding about a value, with byte offsets. */
export interface ValueProblem extends RawFinding {
  start: number;
  end: number;
}

/** A value in the file; `end` is the offset after it, closing quote included. */
export interface ScannedValue {
  quote: Quote;
  template: Template;
  start: number;
  end: number;
  problems: ValueProblem[];
  /** Where a quote was opened that the file never closes; the rest of the result is then of no use. */
  unclosed?: boolean;
}

type Context = 'bare' | 'double' | 'word-in-bare' | 'word-in-double';

/** How deep `${A:-${B:-...}}` may go; a file is not to choose how much stack it takes. */
const DEEPEST = limits.referenceDepth.value;

const NAME = /[A-Za-z_][A-Za-z0-9_]*/y;
const BEYOND_ASCII = /[\u0080-\u00ff]/;
const PLAIN = /[^\\`$\r\n"}#]+/y;
const doubleEscapes: Record<string, string> = { n: '\n', r: '\r', t: '\t', '"': '"', '\\': '\\', $: '$', '`': '`' };
const bareEscapes: Record<string, string> = { $: '$' };

const notRun = finding('file/syntax', 'command', {});

/**
 * Reads the value that starts at `start`. The text is bytes as Latin-1 characters, so that offsets are byte offsets and
 * bytes that are not UTF-8 survive; every sign of the grammar is ASCII.
 */
export function scanValue(text: string, start: number): ScannedValue {
  const opening = text[start];
  if (opening === "'") return scanSingle(text, start);
  const scanner = new Scanner(text);
  return opening === '"' ? scanner.double(start) : scanner.bare(start);
}

function scanSingle(text: string, start: number): ScannedValue {
  const close = text.indexOf("'", start + 1);
  const value: ScannedValue = { quote: 'single', template: [], start, end: close + 1, problems: [] };
  if (close < 0) return { ...value, end: text.length, unclosed: true };
  const raw = text.slice(start + 1, close);
  value.template = textParts(raw.replaceAll('\r\n', '\n'));
  value.problems.push(...loneReturns(text, start + 1, close));
  return value;
}

class Scanner {
  readonly problems: ValueProblem[] = [];
  #at = 0;
  #depth = 0;

  constructor(readonly text: string) {}

  double(start: number): ScannedValue {
    this.#at = start + 1;
    const template = this.#template('double');
    const value = { quote: 'double', template, start, end: this.#at + 1, problems: this.problems } as const;
    if (this.text[this.#at] !== '"') return { ...value, end: this.text.length, unclosed: true };
    this.problems.push(...loneReturns(this.text, start + 1, this.#at));
    return value;
  }

  bare(start: number): ScannedValue {
    this.#at = start;
    const template = this.#template('bare');
    const end = this.#at - trailingBlanks(this.text, start, this.#at);
    this.problems.push(...loneReturns(this.text, start, end));
    return { quote: 'none', template: trimmedEnd(template), start, end, problems: this.problems };
  }

  /** Reads parts up to what ends the context, and stops on it. */
  #template(context: Context): Template {
    const parts: TemplatePart[] = [];
    let pending = '';
    const flush = () => {
      parts.push(...textParts(pending));
      pending = '';
    };
    for (;;) {
      pending += this.#plainRun();
      if (this.#ends(context)) break;
      const sign = this.text[this.#at] as string;
      if (sign === '\\') pending += this.#escape(context);
      else if (sign === '`') pending += this.#refuse(1, notRun);
      else if (sign === '$' && this.#startsReference()) {
        flush();
        parts.push(...this.#reference(context));
      } else if (sign === '\r' && this.text[this.#at + 1] === '\n') this.#at++;
      else {
        pending += sign;
        this.#at++;
      }
    }
    flush();
    return parts;
  }

  /** Steps over what means nothing in any context; most values are nothing else. */
  #plainRun(): string {
    PLAIN.lastIndex = this.#at;
    const run = PLAIN.exec(this.text)?.[0] ?? '';
    this.#at += run.length;
    return run;
  }

  #ends(context: Context): boolean {
    const sign = this.text[this.#at];
    if (sign === undefined) return true;
    const inBare = context === 'bare' || context === 'word-in-bare';
    if (inBare && (sign === '\n' || (sign === '\r' && this.text[this.#at + 1] === '\n'))) return true;
    if (!inBare && sign === '"') return true;
    if (context === 'bare') return sign === '#' && /[ \t]/.test(this.text[this.#at - 1] ?? '');
    return context !== 'double' && sign === '}';
  }

  #escape(context: Context): string {
    const escapes = context === 'double' || context === 'word-in-double' ? doubleEscapes : bareEscapes;
    const next = this.text[this.#at + 1] ?? '';
    const meaning = next === '}' && context.startsWith('word') ? '}' : escapes[next];
    this.#at += meaning === undefined ? 1 : 2;
    return meaning ?? '\\';
  }

  #startsReference(): boolean {
    return /[A-Za-z_{(]/.test(this.text[this.#at + 1] ?? '');
  }

  #reference(context: Context): TemplatePart[] {
    const offset = this.#at;
    const next = this.text[offset + 1];
    if (next === '(') return textParts(this.#refuse(2, notRun));
    if (next === '{') return this.#braced(context, offset);
    const name = this.#name(offset + 1);
    this.#at = offset + 1 + name.length;
    return [{ kind: 'reference', name, offset }];
  }

  #braced(context: Context, offset: number): TemplatePart[] {
    const name = this.#name(offset + 2);
    this.#at = offset + 2 + name.length;
    const operator = operators.find((known) => this.text.startsWith(known, this.#at));
    if (name !== '' && operator) {
      this.#at += operator.length;
      if (this.#depth >= DEEPEST) return this.#tooDeep(context, offset);
      this.#depth++;
      const word = this.#template(wordIn(context));
      this.#depth--;
      if (this.#close(offset)) return [{ kind: 'reference', name, operator, word, offset }];
      return [];
    }
    if (name !== '' && this.text[this.#at] === '}') {
      this.#at++;
      return [{ kind: 'reference', name, offset }];
    }
    this.#skipBraces(context);
    if (!this.#close(offset)) return [];
    this.#complain(offset, this.#at, finding('file/syntax', 'reference', {}));
    return [];
  }

  /** Consumes the closing brace, or reports that it is missing. */
  #close(offset: number): boolean {
    if (this.text[this.#at] === '}') {
      this.#at++;
      return true;
    }
    const end = Math.min(offset + 2, this.text.length);
    this.#complain(offset, end, finding('file/syntax', 'unclosed-reference', {}));
    return false;
  }

  #tooDeep(context: Context, offset: number): TemplatePart[] {
    this.#complain(offset, offset + 2, finding('file/syntax', 'nested-references', { limit: DEEPEST }));
    this.#skipBraces(context);
    return [];
  }

  #skipBraces(context: Context): void {
    while (!this.#ends(wordIn(context))) this.#at++;
  }

  #name(at: number): string {
    NAME.lastIndex = at;
    return NAME.exec(this.text)?.[0] ?? '';
  }

  /** Complains about the next `length` signs and gives them back as plain text, so that reading goes on after them. */
  #refuse(length: number, problem: RawFinding): string {
    const signs = this.text.slice(this.#at, this.#at + length);
    this.#complain(this.#at, this.#at + length, problem);
    this.#at += length;
    return signs;
  }

  #complain(start: number, end: number, problem: RawFinding): void {
    this.problems.push({ ...problem, start, end });
  }
}

function wordIn(context: Context): Context {
  return context === 'bare' || context === 'word-in-bare' ? 'word-in-bare' : 'word-in-double';
}

function textParts(latin1: string): TemplatePart[] {
  if (latin1 === '') return [];
  const isAscii = !BEYOND_ASCII.test(latin1);
  return [{ kind: 'text', text: isAscii ? latin1 : Buffer.from(latin1, 'latin1').toString('utf8') }];
}

function trailingBlanks(text: string, start: number, end: number): number {
  let blanks = 0;
  while (end - blanks > start && isBlank(text[end - blanks - 1])) blanks++;
  return blanks;
}

function isBlank(character: string | undefined): boolean {
  return character === ' ' || character === '\t';
}

function trimmedEnd(template: Template): Template {
  const last = template.at(-1);
  if (last?.kind !== 'text') return template;
  const text = withoutEndBlanks(last.text);
  if (text.length === last.text.length) return template;
  return [...template.slice(0, -1), ...(text === '' ? [] : [{ kind: 'text', text } as const])];
}

function loneReturns(text: string, start: number, end: number): ValueProblem[] {
  const problems: ValueProblem[] = [];
  for (let at = text.indexOf('\r', start); at >= 0 && at < end; at = text.indexOf('\r', at + 1)) {
    if (text[at + 1] === '\n') continue;
    problems.push({ ...finding('value/untidy', 'carriage-return', {}), start: at, end: at + 1 });
    break;
  }
  return problems;
}
