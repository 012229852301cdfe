import type { EnvEntry, EnvFile, Template, TemplatePart } from '../ast.js';
import { container } from './container.js';
import { posixShell } from './posix-shell.js';
import { REFERENCE, type Reader, type Reading } from './reader.js';
import { serviceManager } from './service-manager.js';

/** Every other reader of env files that Adder can answer for. */
export const readers: readonly Reader[] = [posixShell, container, serviceManager];

/** A reader that makes something else of a line than Adder does. */
export interface OtherReading extends Reading {
  reader: Reader;
}

/** Differences between other readers' values of an entry and Adder's. */
export function otherReadings(file: EnvFile, entry: EnvEntry): OtherReading[] {
  if (hasOnlyReferences(entry)) {
    const { buffer, byteOffset } = file.bytes;
    const text = Buffer.from(buffer, byteOffset + entry.valueStart, entry.valueEnd - entry.valueStart).toString();
    return expandNothing.map((reading) => ({ ...reading, text }));
  }
  const line = Buffer.from(file.bytes.buffer, file.bytes.byteOffset + entry.start, entry.end - entry.start).toString();
  const own = flatten(entry.value);
  return readers.flatMap((reader) => {
    const reading = reader.read(line, entry);
    if (reading.text === own) return [];
    const differences = reading.differences.length > 0 ? reading.differences : ['reads another value'];
    return [{ reader, ...reading, differences }];
  });
}

/** Value of an entry without other syntax, for readers that do not expand references. */
const expandNothing: OtherReading[] = readers
  .filter((reader) => reader !== posixShell)
  .map((reader) => ({ reader, differences: ['does not expand references'] }));

/** The usual line with references, recognised without running every reader: `NAME=https://${HOST}/path`. */
function hasOnlyReferences({
  start,
  end,
  name,
  nameStart,
  exported,
  quote,
  value,
  valueStart,
  valueEnd,
}: EnvEntry): boolean {
  const isTight = start === nameStart && valueStart === nameStart + name.length + 1 && end - valueEnd <= 1;
  if (!isTight || exported || quote !== 'none' || value.length < 2) return false;
  const isPlain = (part: TemplatePart): boolean =>
    part.kind === 'text' ? /^[\w./:@%+,-]*$/.test(part.text) : (part.word ?? []).every(isPlain);
  return value.every(isPlain);
}

/** A value in which each reference is one character, as in readings. */
function flatten(template: Template): string {
  return template.map((part) => (part.kind === 'text' ? part.text : REFERENCE)).join('');
}
