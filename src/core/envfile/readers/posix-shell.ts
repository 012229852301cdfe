import { table } from '../../text/table.js';
import { partsOf, REFERENCE, type Reader, type Reading } from './reader.js';

/**
 * A POSIX shell that takes the file in (`. ./file`): token recognition, quoting and expansion as the Shell Command Language
 * has them (sections 2.2, 2.3, 2.5.2 and 2.6.1).
 */
export const posixShell: Reader = {
  name: 'a POSIX shell',
  isExpected: true,
  read(line) {
    const { exported, gap, value } = partsOf(line);
    if (gap !== '' && /^[#\r\n]|^$/.test(value)) return { text: '', differences: [] };
    if (gap !== '') return { differences: ['runs the text after = as a command'] };
    return new Word(value, exported).read();
  },
};

/** Characters that end a word, by their effect on the line. */
const operators: Readonly<Record<string, string>> = table({
  ';': 'stops at ;',
  '&': 'stops at & and sets the value in the background',
  '|': 'stops at | and pipes the value',
  '<': 'reads < as a redirection',
  '>': 'reads > as a redirection and writes a file',
  '(': 'refuses the line at (',
  ')': 'refuses the line at )',
});

class Word {
  #at = 0;
  #text = '';
  readonly #differences = new Set<string>();

  constructor(
    readonly value: string,
    readonly exported: boolean,
  ) {}

  read(): Reading {
    const isSet = this.#word();
    const differences = [...this.#differences];
    return isSet ? { text: this.#text, differences } : { differences };
  }

  /** @returns whether the name is set at all */
  #word(): boolean {
    if (/^~([/:]|\s|$)/.test(this.value)) this.#note('replaces ~ with the home directory');
    if (this.value.startsWith('~')) this.#text += REFERENCE;
    if (this.value.startsWith('~')) this.#at++;
    for (;;) {
      const sign = this.value[this.#at];
      if (sign === undefined || sign === '\n' || (sign === '\r' && this.value[this.#at + 1] === '\n')) return true;
      if (sign === ' ' || sign === '\t') return this.#behindWord();
      const operator = operators[sign];
      if (operator) {
        this.#note(operator);
        return !operator.startsWith('refuses') && sign !== '|' && sign !== '&';
      }
      if (sign === "'") {
        if (!this.#single()) return false;
      } else if (sign === '"') {
        if (!this.#double()) return false;
      } else if (sign === '\\') this.#escape();
      else if (sign === '$') this.#dollar();
      else {
        this.#text += sign;
        this.#at++;
      }
    }
  }

  #behindWord(): boolean {
    const rest = this.value.slice(this.#at).trimStart();
    if (rest === '' || rest.startsWith('#')) return true;
    if (this.exported) {
      this.#note('stops at the space and exports the rest as names');
      return true;
    }
    this.#note('stops at the space and runs the rest as a command');
    return false;
  }

  #single(): boolean {
    const close = this.value.indexOf("'", this.#at + 1);
    if (close < 0) return this.#neverClosed("'");
    if (this.#at > 0) this.#note("takes ' in the value as a quote");
    this.#text += withoutReturns(this.value.slice(this.#at + 1, close));
    this.#at = close + 1;
    return true;
  }

  #double(): boolean {
    if (this.#at > 0) this.#note('reads " in the value as a quote');
    this.#at++;
    for (;;) {
      const sign = this.value[this.#at];
      const next = this.value[this.#at + 1] ?? '';
      if (sign === undefined) return this.#neverClosed('"');
      if (sign === '"') break;
      if (sign === '$') this.#dollar();
      else if (sign === '\\' && /[$`"\\]/.test(next)) {
        this.#text += next;
        this.#at += 2;
      } else if (sign === '\\' && next === '\n') {
        this.#note('joins a line that ends with a backslash with the next one');
        this.#at += 2;
      } else {
        if (sign === '\\' && /[nrt]/.test(next))
          this.#note('does not know \\n, \\r or \\t in quotes and keeps both characters');
        if (sign !== '\r' || next !== '\n') this.#text += sign;
        this.#at++;
      }
    }
    this.#at++;
    return true;
  }

  #neverClosed(quote: string): boolean {
    this.#note(`reads ${quote} as the start of a quote that continues on the next lines`);
    return false;
  }

  #escape(): void {
    const next = this.value[this.#at + 1] ?? '';
    if (next !== '$') this.#note('drops a backslash outside quotes');
    this.#text += next === '\n' ? '' : next;
    this.#at += 2;
  }

  #dollar(): void {
    const rest = this.value.slice(this.#at);
    const name = /^\$[A-Za-z_][A-Za-z0-9_]*/.exec(rest)?.[0];
    const special = /^\$[0-9@*#?$!-]/.exec(rest)?.[0];
    const length = rest.startsWith('${') ? bracedLength(rest) : (name ?? special ?? '$').length;
    if (special) this.#note('expands $ before a digit or punctuation');
    this.#text += length === 1 ? '$' : REFERENCE + (special ?? '');
    this.#at += length;
  }

  #note(difference: string): void {
    this.#differences.add(difference);
  }
}

/** How long `${...}` is, with others inside it. */
function bracedLength(text: string): number {
  let depth = 0;
  for (let at = 0; at < text.length; at++) {
    if (text[at] === '\\') at++;
    else if (text.startsWith('${', at)) depth++;
    else if (text[at] === '}' && --depth === 0) return at + 1;
  }
  return text.length;
}

function withoutReturns(text: string): string {
  return text.replaceAll('\r\n', '\n');
}
