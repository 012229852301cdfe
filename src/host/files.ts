import nodeFs, { type Stats } from 'node:fs';
import nodePath, { type PlatformPath } from 'node:path';
import { Failure } from '../core/findings/failure.js';
import type { ArtifactSource } from '../core/inspect/artifact.js';
import { limits } from '../core/limits/index.js';
import { BinaryMissing } from '../core/syntax/binary-missing.js';
import { byteSize } from '../core/text/display.js';
import { piecesOf } from '../core/unpack/format.js';
import { whileLocked } from './lock.js';
import { type WriteHow, writeWhole } from './write.js';

/** The reading calls of `node:fs` that Adder uses. Tests pass a file system in memory. */
export type FileSystem = Pick<
  typeof nodeFs,
  | 'statSync'
  | 'lstatSync'
  | 'readdirSync'
  | 'realpathSync'
  | 'readFileSync'
  | 'openSync'
  | 'fstatSync'
  | 'readSync'
  | 'closeSync'
>;

/** Files, with their system's rules for paths. All paths are absolute unless a method says otherwise. */
export class Files {
  constructor(
    readonly fs: FileSystem = nodeFs,
    readonly path: PlatformPath = nodePath,
  ) {}

  /** Status of a path, through symlinks; undefined if nothing exists. @throws other errors of the file system */
  stat(path: string): Stats | undefined {
    return this.fs.statSync(path, { throwIfNoEntry: false });
  }

  /** As {@link stat}, of a symlink itself. */
  entry(path: string): Stats | undefined {
    return this.fs.lstatSync(path, { throwIfNoEntry: false });
  }

  /** Tells whether there is something at a path that can be looked up. */
  exists(path: string): boolean {
    try {
      return this.stat(path) !== undefined;
    } catch {
      return false;
    }
  }

  /** Sorted names in a directory; none if it cannot be read. */
  namesIn(directory: string): string[] {
    try {
      return this.fs.readdirSync(directory).sort();
    } catch {
      return [];
    }
  }

  /** @throws the file system's error */
  read(path: string): Buffer {
    return this.fs.readFileSync(path);
  }

  /**
   * A regular file's bytes. Anything else is not opened: a pipe would block, and a device may never end.
   * @throws Failure with a phrase that follows the name if it is no regular file or too large; the file system's error
   *   if it cannot be read
   */
  readRegular(path: string, mostBytes: number): Buffer {
    const stats = this.fs.statSync(path);
    if (!stats.isFile()) throw new Failure(kindOf(stats));
    if (stats.size > mostBytes) throw new Failure(`is larger than ${byteSize(mostBytes)}`);
    return this.read(path);
  }

  /** A regular file's bytes; undefined if it is no regular file, too large or cannot be read. */
  readIfPossible(path: string, mostBytes: number = limits.optionalFileBytes.value): Buffer | undefined {
    try {
      return this.readRegular(path, mostBytes);
    } catch {
      return undefined;
    }
  }

  /** @throws the file system's error */
  open(path: string, known?: FileState): FileSource {
    return new FileSource(this.fs, path, known);
  }

  /** SHA-256 in hexadecimal. @throws the file system's error */
  digest(path: string): string {
    const hash = process.getBuiltinModule('node:crypto').createHash('sha256');
    const source = this.open(path);
    try {
      for (const chunk of source.chunks()) hash.update(chunk);
    } finally {
      source.close();
    }
    return hash.digest('hex');
  }

  /**
   * Reads, changes and writes a file while no other process of Adder does; see {@link whileLocked}.
   * @param content reads the file and returns its new content; undefined leaves it as it is
   */
  change(path: string, how: WriteHow, content: () => string | Uint8Array | undefined): void {
    whileLocked(how.root, path, () => {
      const changed = content();
      if (changed !== undefined) this.write(path, changed, how);
    });
  }

  /** Replaces a file in one step; see {@link writeWhole}. */
  write(path: string, data: string | Uint8Array, how: WriteHow): void {
    writeWhole(path, data, how);
  }

  /** Removes a file, if it exists. */
  remove(path: string): void {
    nodeFs.rmSync(path, { force: true });
  }

  /** A path as reports show it: relative to the root, with `/`; unchanged if it is outside. */
  shown(path: string, root: string): string {
    if (this.#isPlainlyBelow(path, root)) return withSlashes(path.slice(root.length + 1), this.path);
    const inside = this.path.relative(root, path);
    if (inside === '') return this.path.basename(path);
    return withSlashes(this.isBelow(path, root) ? inside : path, this.path);
  }

  /** Tells whether a path is in a directory, by name alone. */
  isBelow(path: string, directory: string): boolean {
    if (this.#isPlainlyBelow(path, directory)) return true;
    const inside = this.path.relative(directory, path);
    return inside !== '..' && !inside.startsWith(`..${this.path.sep}`) && !this.path.isAbsolute(inside);
  }

  /** The usual case, which is asked for every file: two paths as the file system lists them. */
  #isPlainlyBelow(path: string, directory: string): boolean {
    const { sep } = this.path;
    if (!path.startsWith(directory) || path[directory.length] !== sep || directory.endsWith(sep)) return false;
    return (
      !path.includes(`${sep}.`, directory.length) && !path.includes(sep + sep, directory.length) && !path.endsWith(sep)
    );
  }

  /** Tells whether a path is in a directory after all symlinks are followed. */
  isReallyBelow(path: string, directory: string): boolean {
    try {
      return this.isBelow(this.fs.realpathSync(path), this.fs.realpathSync(directory));
    } catch {
      return false;
    }
  }
}

/** A path with `/` between its parts. */
export function withSlashes(path: string, { sep }: Pick<PlatformPath, 'sep'>): string {
  return sep === '/' ? path : path.split(sep).join('/');
}

/** Tells whether nothing is at the path that the file system was asked for. */
export function isMissing(error: unknown): boolean {
  const code = (error as NodeJS.ErrnoException | undefined)?.code;
  return code === 'ENOENT' || code === 'ENOTDIR';
}

/** As {@link describeFileError}, of something that was listed before: if it is missing now, another process removed it. */
export function describeListedError(error: unknown): string {
  if (!isMissing(error)) return describeFileError(error);
  const { path = '' } = error as NodeJS.ErrnoException;
  // Node.js puts this sign in place of bytes that are no text, and then cannot open the file.
  if (path.includes('\ufffd')) return 'has a name that is not UTF-8, so it cannot be opened: rename it';
  return 'was removed during the inspection';
}

/** Why a file could not be read, as a phrase that follows its name: Adder's own reason, or the file system's. */
export function describeFileError(error: unknown): string {
  if (error instanceof Failure || error instanceof BinaryMissing) return error.message;
  const code = (error as NodeJS.ErrnoException | undefined)?.code;
  if (isMissing(error)) return 'does not exist';
  if (code === 'EACCES' || code === 'EPERM') return 'cannot be read: permission denied';
  if (code === 'EBUSY') return 'cannot be read: another program uses it';
  if (code === 'EISDIR') return 'is a directory';
  if (code === 'ELOOP') return 'is a symlink that leads back to itself';
  if (code === 'ENOSPC') return 'cannot be written: no space left on the device';
  if (code === 'EROFS') return 'is on a read-only file system';
  if (code === 'ENAMETOOLONG') return 'has too long a name';
  return `cannot be read (${code ?? 'unknown reason'})`;
}

/** Describes the kind of a path that is no regular file, as a phrase that follows its name. */
export function kindOf(stats: Stats): string {
  if (stats.isDirectory()) return 'is a directory';
  if (stats.isFIFO()) return 'is a pipe';
  if (stats.isSocket()) return 'is a socket';
  return 'is a device';
}

/** Smaller files may be stored in their directory entry, without blocks. */
const LARGEST_INLINE = 2 ** 20;
const [SAMPLES, SAMPLE_BYTES] = [64, 16 * 1024];

/** State of a file that changes with its content. */
export interface FileState {
  /** Its size. */
  bytes: number;
  /** When its entry changed last, in milliseconds: unlike the modification time, no program sets it at will. */
  version: number;
}

/** An open file. {@link hasChanged} tells whether its bytes differ from those at the time of opening. */
export class FileSource implements ArtifactSource {
  readonly size: number;
  readonly version: number;
  readonly #file: number;
  readonly #hasNoBlocks: boolean;

  /**
   * @param known what the file was like before, which {@link hasChanged} compares it with; what it is like when it is opened, if absent
   * @throws the file system's error
   */
  constructor(
    readonly fs: FileSystem,
    path: string,
    known?: FileState,
  ) {
    this.#file = fs.openSync(path, 'r');
    if (known) {
      this.#hasNoBlocks = false;
      this.size = known.bytes;
      this.version = known.version;
      return;
    }
    const { size, ctimeMs, blocks } = fs.fstatSync(this.#file);
    this.#hasNoBlocks = blocks === 0 && size > LARGEST_INLINE;
    this.size = size;
    this.version = ctimeMs;
  }

  /** Reads may return less than was asked for, long before the end. */
  read(offset: number, length: number): Uint8Array {
    const bytes = Buffer.allocUnsafeSlow(Math.max(0, Math.min(length, this.size - offset)));
    let filled = 0;
    while (filled < bytes.length) {
      const count = this.fs.readSync(this.#file, bytes, filled, bytes.length - filled, offset + filled);
      if (count === 0) break;
      filled += count;
    }
    return bytes.subarray(0, filled);
  }

  /** Tells whether the file occupies no disk blocks, so that all of it is zeros. Some network file systems report no blocks
   * for any file, so samples are read. */
  get isHole(): boolean {
    if (!this.#hasNoBlocks) return false;
    const step = Math.floor((this.size - SAMPLE_BYTES) / (SAMPLES - 1));
    return Array.from({ length: SAMPLES }, (_, index) => this.read(index * step, SAMPLE_BYTES)).every((bytes) =>
      bytes.every((byte) => byte === 0),
    );
  }

  readInto(buffer: Uint8Array, offset: number): number {
    return this.fs.readSync(this.#file, buffer, 0, buffer.length, offset);
  }

  chunks(): Iterable<Uint8Array> {
    return piecesOf(this, 0, this.size);
  }

  get hasChanged(): boolean {
    const { size, ctimeMs } = this.fs.fstatSync(this.#file);
    return size !== this.size || ctimeMs !== this.version;
  }

  close(): void {
    this.fs.closeSync(this.#file);
  }
}
