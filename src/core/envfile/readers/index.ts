import type { EnvEntry, EnvFile } from '../ast.js';
import { container } from './container.js';
import { posixShell } from './posix-shell.js';
import { flatten, type Reader, type Reading } from './reader.js';
import { serviceManager } from './service-manager.js';
import { vite } from './vite.js';

/** Every other reader of env files that Adder can answer for. */
export const readers: readonly Reader[] = [posixShell, vite, container, serviceManager];

/** A reader that makes something else of a line than Adder does. */
export interface OtherReading extends Reading {
  reader: Reader;
}

/** Differences between other readers' values of an entry and Adder's. */
export function otherReadings(file: EnvFile, entry: EnvEntry): OtherReading[] {
  const line = Buffer.from(file.bytes.buffer, file.bytes.byteOffset + entry.start, entry.end - entry.start).toString();
  const own = flatten(entry.value);
  return readers.flatMap((reader) => {
    const reading = reader.read(line, entry);
    if (reading.text === own) return [];
    const differences = reading.differences.length > 0 ? reading.differences : ['reads another value'];
    return [{ reader, ...reading, differences }];
  });
}
