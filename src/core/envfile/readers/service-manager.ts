import { withoutEndBlanks } from '../../text/trim.js';
import { partsOf, type Reader } from './reader.js';

/**
 * The environment files of a system service manager: quotes and backslashes nearly as a shell has them, but no references,
 * no `export`, and no comment after a value. Its manual gives the rules (systemd.exec, "EnvironmentFile").
 */
export const serviceManager: Reader = {
  name: "a service manager's environment file",
  isExpected: false,
  read(line, { value }) {
    const { exported, value: rest } = partsOf(line);
    if (exported) return { differences: ['skips a line that starts with export'] };
    const { text, ...seen } = scan(rest);
    const differences = [
      value.some(({ kind }) => kind === 'reference') && 'does not expand references',
      seen.comment && 'reads the comment as part of the value',
      seen.droppedBackslash && 'drops a backslash outside quotes',
      seen.keptEscape && 'does not know \\n, \\r or \\t and keeps both characters',
      seen.continued && 'joins a line that ends with a backslash with the next one',
    ].filter((phrase) => phrase !== false);
    return { text, differences };
  },
};

interface Scanned {
  text: string;
  comment: boolean;
  droppedBackslash: boolean;
  keptEscape: boolean;
  continued: boolean;
}

function scan(rest: string): Scanned {
  const seen: Scanned = { text: '', comment: false, droppedBackslash: false, keptEscape: false, continued: false };
  let at = 0;
  // Quoted pieces may follow one another; the first sign outside of quotes begins a piece that runs to the line's end.
  for (;;) {
    while (/[ \t]/.test(rest[at] ?? '')) at++;
    const quote = rest[at];
    if (quote !== "'" && quote !== '"') break;
    at = quote === "'" ? single(rest, at, seen) : double(rest, at, seen);
  }
  if (rest[at] === '#' || /^[^\r\n'"]*[ \t]#/.test(rest.slice(at))) seen.comment = true;
  bare(rest, at, seen);
  return seen;
}

function single(rest: string, at: number, seen: Scanned): number {
  const close = rest.indexOf("'", at + 1);
  const end = close < 0 ? rest.length : close;
  seen.text += rest.slice(at + 1, end).replaceAll('\r\n', '\n');
  return end + 1;
}

function double(rest: string, start: number, seen: Scanned): number {
  let at = start + 1;
  for (; at < rest.length && rest[at] !== '"'; at++) {
    const next = rest[at + 1] ?? '';
    if (rest[at] !== '\\') seen.text += rest[at] === '\r' && next === '\n' ? '' : rest[at];
    else if (next === '\n') {
      seen.continued = true;
      at++;
    } else if (/["\\`$]/.test(next)) {
      seen.text += next;
      at++;
    } else {
      seen.text += '\\';
      if (/[nrt]/.test(next)) seen.keptEscape = true;
    }
  }
  return at + 1;
}

function bare(rest: string, start: number, seen: Scanned): void {
  let text = '';
  for (let at = start; at < rest.length && rest[at] !== '\r' && rest[at] !== '\n'; at++) {
    if (rest[at] !== '\\') text += rest[at];
    else if (rest[at + 1] === '\n' || rest[at + 1] === undefined) seen.continued = true;
    else {
      seen.droppedBackslash = true;
      text += rest[++at];
    }
  }
  seen.text += withoutEndBlanks(text);
}
