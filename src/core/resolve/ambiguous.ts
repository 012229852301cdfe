import type { EnvEntry, EnvFile } from '../envfile/ast.js';
import { type OtherReading, otherReadings } from '../envfile/readers/index.js';
import { REFERENCE } from '../envfile/readers/reader.js';
import { finding, type RawFinding } from '../findings/finding.js';
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

/** Tells whether the entry is its name, `=` and a plain value, and nothing else but the line's end. */
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
  const at = { place, excerpt: envExcerpt(file, place, entry.name.length, facts, entry.name) };
  if (!reader.isExpected)
    return differences.map((difference) =>
      finding('value/ambiguous', 'plain', { reader: reader.name, difference }, { ...at, level: 'note' }),
    );
  const gets = { isRead: text !== undefined, ...(text !== undefined && shown && { text: asRead(text) }) };
  const about = { variable: entry.name, reader: reader.name, differences, ...gets };
  return [finding('value/ambiguous', 'shell', about, at)];
}

/** How a reader understands a public value; what it expands is shown as `…`. */
function asRead(text: string): string {
  return text.replaceAll(REFERENCE, '…');
}

/** Reported once, because it applies to every line of the file. */
function carriageReturns(file: EnvFile, path: string): RawFinding[] {
  const [first] = file.entries;
  if (!first || file.bytes[first.end - 2] !== 0x0d) return [];
  return [finding('value/ambiguous', 'crlf', {}, { place: { path, inside: [], ...file.at(first.start) } })];
}
