import type { EnvEntry, EnvFile } from '../envfile/ast.js';
import { type OtherReading, otherReadings } from '../envfile/readers/index.js';
import { REFERENCE } from '../envfile/readers/reader.js';
import type { RawFinding } from '../findings/finding.js';
import { joinWords } from '../text/nearest.js';
import { envExcerpt, isShownName, type NameFacts } from './env-findings.js';

/** A value that every reader understands in the same way; most values are like this. */
const plainValue = /^[\w./:@%+,-]*$/;

/**
 * Lines that other programs read differently. Each line that the shell reads differently is a warning, because people
 * expect the shell's rules. How simple readers treat quotes, comments and references is one note for all such lines.
 */
export function ambiguousFindings(file: EnvFile, path: string, facts: NameFacts): RawFinding[] {
  const found = file.entries.flatMap((entry) => {
    if (isPlain(entry)) return [];
    return otherReadings(file, entry).flatMap((reading) => describeReading(file, path, entry, reading, facts));
  });
  return [...carriageReturns(file, path), ...found];
}

/** Whether the entry is its name, `=` and a plain value, and nothing else but the line's end. */
function isPlain({ start, end, name, nameStart, exported, quote, value, valueStart, valueEnd }: EnvEntry): boolean {
  const isTight = start === nameStart && valueStart === nameStart + name.length + 1 && end - valueEnd <= 2;
  if (!isTight || exported || quote !== 'none' || value.length > 1) return false;
  const [part] = value;
  return !part || (part.kind === 'text' && plainValue.test(part.text));
}

function describeReading(
  file: EnvFile,
  path: string,
  entry: EnvEntry,
  reading: OtherReading,
  facts: NameFacts,
): RawFinding[] {
  const { reader, differences, text } = reading;
  const shown = isShownName(facts, entry.name);
  const place = { path, inside: [], ...file.at(entry.nameStart), length: entry.valueEnd - entry.nameStart };
  const base = {
    code: 'value/ambiguous',
    place,
    excerpt: envExcerpt(file, place, entry.name.length, facts, entry.name),
  } as const;
  if (!reader.isExpected) {
    return differences.map((difference) => ({
      ...base,
      level: 'note',
      message: `${reader.name} ${difference}`,
      remedy: plainly,
    }));
  }
  const gets =
    text === undefined ? 'and does not get it' : shown ? `and gets ${asRead(text)}` : 'and gets another value';
  const message = `programs disagree about ${entry.name}: ${reader.name} ${joinWords(differences)}, ${gets}`;
  return [{ ...base, variable: entry.name, message, remedy: remedyFor(differences) }];
}

const plainly =
  'ignore this if no such program reads the file; all agree on NAME=value without quotes, comments, references and export';

function remedyFor(differences: readonly string[]): string {
  const isEscape = differences.some((difference) => difference.includes('\\n'));
  return isEscape
    ? 'write a real line break inside the quotes, so that a shell agrees'
    : 'put the whole value in single quotes, or in double quotes if it has references, so that a shell agrees';
}

/** How a reader understands a public value; what it expands is shown as `…`. */
function asRead(text: string): string {
  return `\`${text.replaceAll(REFERENCE, '…')}\``;
}

/** Reported once, because it applies to every line of the file. */
function carriageReturns(file: EnvFile, path: string): RawFinding[] {
  const [first] = file.entries;
  if (!first || file.bytes[first.end - 2] !== 0x0d) return [];
  const message =
    'the lines end with CRLF: a POSIX shell reads the carriage return as the last character of each value';
  const remedy = 'save the file with LF line endings if another program reads it';
  return [{ code: 'value/ambiguous', message, remedy, place: { path, inside: [], ...file.at(first.start) } }];
}
