import { closeSync, fstatSync, openSync, readdirSync, readFileSync, readSync, type Stats, statSync } from 'node:fs';
import { Failure } from '../core/findings/failure.js';
import type { ArtifactSource } from '../core/inspect/artifact.js';
import { limits } from '../core/limits/index.js';
import { byteSize } from '../core/text/display.js';
import { piecesOf } from '../core/unpack/format.js';

/** Why a file could not be read, as a phrase that follows its name: our own reason, or the file system's. */
export function describeFileError(error: unknown): string {
  if (error instanceof Failure) return error.message;
  const code = (error as NodeJS.ErrnoException | undefined)?.code;
  if (code === 'ENOENT' || code === 'ENOTDIR') return 'does not exist';
  if (code === 'EACCES' || code === 'EPERM') return 'may not be read by this user';
  if (code === 'EISDIR') return 'is a folder';
  if (code === 'ELOOP') return 'is a link that leads back to itself';
  if (code === 'ENOSPC') return 'cannot be written: no space is left on the device';
  if (code === 'EROFS') return 'is on a read-only file system';
  if (code === 'ENAMETOOLONG') return 'has too long a name';
  return `cannot be read (${code ?? 'unknown reason'})`;
}

/** What a path is, or undefined where there is nothing. @throws other errors of the file system */
export function statOf(path: string): Stats | undefined {
  return statSync(path, { throwIfNoEntry: false });
}

/** The names in a folder; none where it cannot be read. */
export function namesIn(folder: string): string[] {
  try {
    return readdirSync(folder).sort();
  } catch {
    return [];
  }
}

/** What a thing is that is not a regular file, as a phrase behind its name. Such a thing is never opened: a pipe would wait forever. */
export function kindOf(stats: Stats): string {
  if (stats.isDirectory()) return 'is a folder';
  if (stats.isFIFO()) return 'is a pipe';
  if (stats.isSocket()) return 'is a socket';
  return 'is a device';
}

/** Streams a file through one buffer. @param onChunk gets the filled part, valid until it returns; true stops the reading */
export function streamFile(
  path: string,
  buffer: Uint8Array,
  onChunk: (chunk: Uint8Array) => boolean | undefined,
): void {
  const file = openSync(path, 'r');
  try {
    for (;;) {
      const length = readSync(file, buffer, 0, buffer.length, null);
      if (length === 0 || onChunk(buffer.subarray(0, length))) return;
    }
  } finally {
    closeSync(file);
  }
}

/** A stretch of a file, shorter where the file ends. */
export function readRange(path: string, start: number, end: number): Uint8Array {
  const file = openSync(path, 'r');
  try {
    return readAt(file, start, end - start);
  } finally {
    closeSync(file);
  }
}

/** Reads may give less than was asked for, long before the end. */
function readAt(file: number, offset: number, length: number): Uint8Array {
  const bytes = Buffer.allocUnsafeSlow(length);
  let filled = 0;
  while (filled < length) {
    const count = readSync(file, bytes, filled, length - filled, offset + filled);
    if (count === 0) break;
    filled += count;
  }
  return bytes.subarray(0, filled);
}

const LARGEST_INLINE = 2 ** 20;
const [SAMPLES, SAMPLE_BYTES] = [64, 16 * 1024];

/** A file's bytes at any place, of the file as it was when it was opened. */
export class FileSource implements ArtifactSource {
  readonly size: number;
  readonly #file: number;
  /** When its entry changed last, in milliseconds: unlike the time of the last write, no program sets it at will. */
  readonly version: number;
  readonly #hasNoBlocks: boolean;

  /** @throws the file system's error */
  constructor(path: string) {
    this.#file = openSync(path, 'r');
    const { size, ctimeMs, blocks } = fstatSync(this.#file);
    this.#hasNoBlocks = blocks === 0 && size > LARGEST_INLINE;
    this.size = size;
    this.version = ctimeMs;
  }

  read(offset: number, length: number): Uint8Array {
    return readAt(this.#file, offset, Math.max(0, Math.min(length, this.size - offset)));
  }

  /**
   * Whether no block of the disk is the file's own, so that all of it is zeros. Small files may stand in their entries,
   * and some network file systems tell no blocks of any file: there the samples have something in them.
   */
  get isHole(): boolean {
    if (!this.#hasNoBlocks) return false;
    const step = Math.floor((this.size - SAMPLE_BYTES) / (SAMPLES - 1));
    return Array.from({ length: SAMPLES }, (_, index) => this.read(index * step, SAMPLE_BYTES)).every((bytes) =>
      bytes.every((byte) => byte === 0),
    );
  }

  /** Reads as much as fits, or less. @returns how much */
  readInto(buffer: Uint8Array, offset: number): number {
    return readSync(this.#file, buffer, 0, buffer.length, offset);
  }

  chunks(): Iterable<Uint8Array> {
    return piecesOf(this, 0, this.size);
  }

  /** Whether somebody wrote to it since it was opened. */
  get hasChanged(): boolean {
    const { size, ctimeMs } = fstatSync(this.#file);
    return size !== this.size || ctimeMs !== this.version;
  }

  close(): void {
    closeSync(this.#file);
  }
}

/** SHA-256 in hexadecimal. */
export function digestFile(path: string): string {
  const hash = process.getBuiltinModule('node:crypto').createHash('sha256');
  streamFile(path, new Uint8Array(256 * 1024), (chunk) => {
    hash.update(chunk);
    return false;
  });
  return hash.digest('hex');
}

/**
 * A regular file's bytes. Anything else is not opened: a pipe would wait forever, a device may never end.
 * @throws Failure with a phrase that goes behind the name where it is no regular file or too large; the file system's
 *   error where it cannot be read
 */
export function readRegular(path: string, mostBytes: number): Buffer {
  const stats = statSync(path);
  if (!stats.isFile()) throw new Failure(kindOf(stats));
  if (stats.size > mostBytes) throw new Failure(`is larger than ${byteSize(mostBytes)}`);
  return readFileSync(path);
}

/** A regular file's bytes; undefined if it is not a regular file or cannot be read. */
export function readIfPossible(path: string): Buffer | undefined {
  try {
    return readRegular(path, limits.optionalFileBytes.value);
  } catch {
    return undefined;
  }
}

/** A text file, or undefined where it is too large or cannot be read; for files that help but need not be there. */
export function readHelpfulText(
  path: string,
  mostBytes: number,
  encoding: 'utf8' | 'latin1' = 'utf8',
): string | undefined {
  try {
    const stats = statOf(path);
    return stats?.isFile() && stats.size <= mostBytes ? readFileSync(path, encoding) : undefined;
  } catch {
    return undefined;
  }
}
