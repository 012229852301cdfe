import { isUtf8 } from 'node:buffer';
import { finding as findingOf, type RawFinding } from '../findings/finding.js';
import { limits } from '../limits/index.js';
import { LineMap } from '../text/positions.js';
import { firstInvalidUtf8 } from '../text/utf8.js';
import { isSecretByText } from '../tokens/strength.js';
import type { EnvEntry, EnvFile, EnvNode, EnvProblem } from './ast.js';
import { type ScannedValue, scanValue } from './scan-value.js';

type Complaint = Omit<EnvProblem, 'start' | 'end'> & { start: number; end: number };

/** Maximum number of problems reported per file. */
const MOST_PROBLEMS = 1000;

/**
 * Reads an env file by the grammar of docs/env-files.md. It takes any bytes, never throws and never stops at the first
 * problem: what can be read counts, and what can't is a problem with its place.
 */
export function parseEnvFile(bytes: Uint8Array): EnvFile {
  const lines = new LineMap(bytes);
  const at = (offset: number) => lines.at(offset);
  const { nodes, complaints } = wideEncoding(bytes) ?? richText(bytes) ?? new Parser(bytes, lines).parse();
  const problems = complaints.map(({ start, end, ...rest }) => ({ ...rest, start: at(start), end: at(end) }));
  const entries = nodes.filter((node): node is EnvEntry => node.kind === 'entry');
  return {
    bytes,
    nodes,
    entries,
    names: new Set(entries.map(({ name }) => name)),
    problems,
    at,
    lineText: (line) => lines.text(line),
  };
}

/** Text after a value that does not belong there. */
interface WrongEnd {
  variant: 'unclosed' | 'closed-late' | 'after-quote';
  start: number;
  end: number;
}

interface Parsed {
  nodes: EnvNode[];
  complaints: Complaint[];
}

/** UTF-16 text, recognised by its mark or by a NUL in every other byte at the beginning. */
function wideEncoding(bytes: Uint8Array): Parsed | undefined {
  const marked = (bytes[0] === 0xff && bytes[1] === 0xfe) || (bytes[0] === 0xfe && bytes[1] === 0xff);
  if (!marked && !alternatesWithNul(bytes)) return undefined;
  const finding = findingOf('file/encoding', 'utf-16', {});
  return {
    nodes: [{ kind: 'broken', start: 0, end: bytes.length }],
    complaints: [{ ...finding, start: 0, end: Math.min(2, bytes.length) }],
  };
}

/** A document of a word processor (Rich Text Format 1.9): its lines are markup, whatever they look like. */
function richText(bytes: Uint8Array): Parsed | undefined {
  const mark = Buffer.from('{\\rtf');
  if (bytes.length < mark.length || mark.compare(bytes, 0, mark.length) !== 0) return undefined;
  return {
    nodes: [{ kind: 'broken', start: 0, end: bytes.length }],
    complaints: [{ ...findingOf('file/encoding', 'rich-text', {}), start: 0, end: mark.length }],
  };
}

function alternatesWithNul(bytes: Uint8Array): boolean {
  const nuls = [0, 0];
  const length = Math.min(bytes.length, 512) & ~1;
  for (let i = 0; i < length; i++) if (bytes[i] === 0) nuls[i & 1] = (nuls[i & 1] ?? 0) + 1;
  const [even = 0, odd = 0] = nuls;
  return length >= 8 && Math.max(even, odd) > length * 0.4 && Math.min(even, odd) === 0;
}

class Parser {
  readonly #bytes: Uint8Array;
  readonly #text: string;
  readonly #nodes: EnvNode[] = [];
  readonly #complaints: Complaint[] = [];
  #complaintCount = 0;
  #entryCount = 0;
  readonly #wellEncoded: boolean;
  readonly #firstOfName = new Map<string, number>();

  constructor(
    bytes: Uint8Array,
    readonly lines: LineMap,
  ) {
    this.#bytes = bytes;
    this.#text = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString('latin1');
    this.#wellEncoded = isUtf8(bytes) && !bytes.includes(0);
  }

  parse(): Parsed {
    let start = 0;
    let contentStart = this.#skipMark();
    while (start < this.#text.length) {
      const node = this.#withinLimit(this.#withoutTails(this.#line(start, contentStart)));
      this.#nodes.push(this.#checkEncoding(node));
      start = node.end;
      contentStart = start;
    }
    this.#leftOut();
    return { nodes: this.#nodes, complaints: this.#complaints };
  }

  /** Reports once that the rest of the file is not read. */
  #withinLimit(node: EnvNode): EnvNode {
    if (node.kind !== 'entry' || ++this.#entryCount <= limits.envFileEntries.value) return node;
    if (this.#entryCount === limits.envFileEntries.value + 1) {
      const finding = findingOf('file/syntax', 'too-many-names', { limit: limits.envFileEntries.value });
      this.#complain(finding, node.nameStart, node.nameStart);
    }
    return { kind: 'broken', start: node.start, end: node.end };
  }

  /**
   * A line that only looks like an assignment: the last line of a base64 value that was pasted without quotes, padding
   * included. Its beginning is not a name, and must not be shown as one.
   */
  #withoutTails(node: EnvNode): EnvNode {
    if (node.kind !== 'entry') return node;
    const isTail = isTailOfValue(node, this.#nodes.at(-1));
    const isValue = !isTail && /\d/.test(node.name) && /[a-z]/.test(node.name) && isSecretByText(node.name);
    if (!isTail && !isValue) return node.name === '__proto__' ? this.#refuseName(node) : node;
    // Earlier complaints about this line contain the name.
    while ((this.#complaints.at(-1)?.start ?? -1) >= node.start) this.#complaints.pop();
    const finding = findingOf('file/syntax', isTail ? 'end-of-value' : 'value-as-name', {});
    this.#complain(finding, node.nameStart, node.valueEnd);
    return { kind: 'broken', start: node.start, end: node.end };
  }

  /** JavaScript objects have a property of this name, so no map of names can hold it. */
  #refuseName({ start, end, name, nameStart }: EnvEntry): EnvNode {
    this.#complain(findingOf('file/syntax', 'prototype-name', { name }), nameStart, nameStart + name.length);
    return { kind: 'broken', start, end };
  }

  #skipMark(): number {
    if (!this.#text.startsWith('\xef\xbb\xbf')) return 0;
    this.#complain(findingOf('file/encoding', 'mark', {}, { level: 'warning' }), 0, 3);
    return 3;
  }

  /** @param start where the node starts @param from where its text starts, after a byte-order mark */
  #line(start: number, from: number): EnvNode {
    return this.#plainEntry(start, from) ?? this.#anyLine(start, from);
  }

  /** Nearly every line of a real file is of this shape, and takes a third of the time so. */
  #plainEntry(start: number, nameStart: number): EnvEntry | undefined {
    const found = match(plainLine, this.#text, nameStart);
    if (!found) return undefined;
    const [line, name = '', text = ''] = found;
    const valueStart = nameStart + name.length + 1;
    const valueEnd = valueStart + text.length;
    const value = text === '' ? [] : [{ kind: 'text' as const, text }];
    const end = nameStart + line.length;
    return { kind: 'entry', start, end, name, nameStart, exported: false, quote: 'none', value, valueStart, valueEnd };
  }

  #anyLine(start: number, from: number): EnvNode {
    const lineEnd = this.#lineEnd(from);
    const at = this.#skipBlanks(from);
    const sign = this.#text[at];
    if (at >= this.#contentEnd(lineEnd)) return { kind: 'blank', start, end: lineEnd };
    if (sign === '#') return { kind: 'comment', start, end: lineEnd };
    return this.#assignment(start, at, lineEnd);
  }

  #assignment(start: number, at: number, lineEnd: number): EnvNode {
    const [, exportWord = '', name = '', before = '', equals = '', after = ''] =
      match(/(export[ \t]+(?![ \t=]))?([A-Za-z_][A-Za-z0-9_]*)?([ \t]*)(=)?([ \t]*)/y, this.#text, at) ?? [];
    const nameStart = at + exportWord.length;
    if (name === '' || equals === '') return this.#notAnAssignment(start, nameStart, lineEnd, name);
    const equalsAt = nameStart + name.length + before.length;
    const valueAt = equalsAt + 1 + after.length;
    const value = scanValue(this.#text, valueAt);
    const isEmptyBare = value.quote === 'none' && value.end === value.start;
    const ending = this.#afterValue(value, lineEnd);
    if (typeof ending === 'object') {
      this.#complain(findingOf('file/syntax', ending.variant, {}), ending.start, ending.end, name);
      return { kind: 'broken', start, end: lineEnd };
    }
    for (const { start, end, ...finding } of value.problems) this.#complain(finding, start, end, name);
    if (value.problems.some(({ code }) => code === 'file/syntax')) return { kind: 'broken', start, end: ending };
    const valueStart = isEmptyBare ? equalsAt + 1 : value.start;
    // On a broken line, the text before the gap may not be a name.
    if (before !== '' || (after !== '' && !isEmptyBare)) this.#noteSpaces(name, nameStart + name.length, valueAt);
    const entry: EnvEntry = {
      kind: 'entry',
      start,
      end: ending,
      name,
      nameStart,
      exported: exportWord !== '',
      quote: value.quote,
      value: value.template,
      valueStart,
      valueEnd: isEmptyBare ? valueStart : value.end,
    };
    return entry;
  }

  /** The end of the node after its value, or what is wrong there. */
  #afterValue(value: ScannedValue, lineEnd: number): number | WrongEnd {
    if (value.unclosed) return { variant: 'unclosed', start: value.start, end: value.start + 1 };
    if (value.quote === 'none') return this.#lineEnd(value.end);
    const end = this.#lineEnd(value.end);
    const rest = this.#skipBlanks(value.end);
    if (rest >= this.#contentEnd(end) || this.#text[rest] === '#') return end;
    if (end !== lineEnd) return { variant: 'closed-late', start: value.start, end: value.start + 1 };
    return { variant: 'after-quote', start: rest, end: this.#contentEnd(end) };
  }

  #notAnAssignment(start: number, at: number, lineEnd: number, name: string): EnvNode {
    const end = this.#contentEnd(lineEnd);
    // Searching the whole text would take quadratic time in a file without any `=`.
    const inLine = this.#text.slice(at, end).indexOf('=');
    const equals = at + inLine;
    const hasEquals = inLine >= 0;
    const finding = findingOf('file/syntax', hasEquals ? 'name' : 'no-equals', {});
    this.#complain(finding, at, hasEquals ? Math.max(equals, at + 1) : end, name || undefined);
    return { kind: 'broken', start, end: lineEnd };
  }

  #noteSpaces(name: string, start: number, end: number): void {
    this.#complain(findingOf('value/untidy', 'spaces', { name }, { level: 'note' }), start, end, name);
  }

  /** A node with invalid UTF-8 is reported once; an assignment with it is dropped. */
  #checkEncoding(node: EnvNode): EnvNode {
    const checked = this.#wellEncoded ? node : this.#badBytes(node);
    if (checked.kind === 'entry') this.#noteDuplicate(checked);
    return checked;
  }

  #badBytes(node: EnvNode): EnvNode {
    const nul = this.#bytes.subarray(node.start, node.end).indexOf(0);
    const invalid = firstInvalidUtf8(this.#bytes, node.start, node.end);
    if (nul < 0 && invalid < 0) return node;
    const offset = nul >= 0 ? node.start + nul : invalid;
    const finding = findingOf('file/encoding', nul >= 0 ? 'nul' : 'not-utf-8', {});
    this.#complain(finding, offset, offset + 1, node.kind === 'entry' ? node.name : undefined);
    return node.kind === 'entry' ? { kind: 'broken', start: node.start, end: node.end } : node;
  }

  #noteDuplicate({ name, nameStart }: EnvEntry): void {
    const earlier = this.#firstOfName.get(name);
    this.#firstOfName.set(name, nameStart);
    if (earlier === undefined) return;
    const { line } = this.lines.at(earlier);
    this.#complain(findingOf('value/duplicate', 'line', { name, line }), nameStart, nameStart + name.length, name);
  }

  /** A file of another kind has a problem on every line: the first ones are enough. */
  #leftOut(): void {
    const left = this.#complaintCount - MOST_PROBLEMS;
    if (left <= 0) return;
    const at = this.#complaints.at(-1)?.start ?? 0;
    this.#complaints.push({ ...findingOf('file/syntax', 'more', { number: left }), start: at, end: at });
  }

  #complain(finding: RawFinding, start: number, end: number, name?: string): void {
    if (++this.#complaintCount <= MOST_PROBLEMS)
      this.#complaints.push({ ...finding, start, end: Math.max(start, end), ...(name !== undefined && { name }) });
  }

  /** The offset after the line feed of the line that holds `at`. */
  #lineEnd(at: number): number {
    const feed = this.#text.indexOf('\n', at);
    return feed < 0 ? this.#text.length : feed + 1;
  }

  /** The offset where a line's text ends, before its line end. */
  #contentEnd(lineEnd: number): number {
    if (this.#text[lineEnd - 1] !== '\n') return lineEnd;
    return this.#text[lineEnd - 2] === '\r' ? lineEnd - 2 : lineEnd - 1;
  }

  #skipBlanks(at: number): number {
    let next = at;
    while (this.#text[next] === ' ' || this.#text[next] === '\t') next++;
    return next;
  }
}

/** `NAME==` is always base64. `NAME=` is base64 if it follows a broken line or a long base64 run and the name has mixed case. */
function isTailOfValue({ name, quote, value }: EnvEntry, before: EnvNode | undefined): boolean {
  const [part, ...more] = value;
  const text = part === undefined ? '' : part.kind === 'text' && more.length === 0 ? part.text : undefined;
  if (quote !== 'none' || name.includes('_') || name.length < 2) return false;
  if (text === '=') return true;
  const isMixed = /[a-z]/.test(name) && /[A-Z\d]/.test(name);
  return text === '' && isMixed && (before?.kind === 'broken' || (before?.kind === 'entry' && isLongRun(before)));
}

/** Tells whether a value ends as a wrapped line of base64 does. */
function isLongRun({ value }: EnvEntry): boolean {
  const last = value.at(-1);
  return last?.kind === 'text' && /[A-Za-z0-9+/]{40}$/.test(last.text);
}

/** A name, a value without any sign that means something to some reader, and the line's end. */
const plainLine = /([A-Za-z_][A-Za-z0-9_]*)=([A-Za-z0-9_./:@%+,-]*)\r?\n/y;

function match(pattern: RegExp, text: string, at: number): RegExpExecArray | null {
  pattern.lastIndex = at;
  return pattern.exec(text);
}
