import type { Stats } from 'node:fs';
import { posix, win32 } from 'node:path';
import { type FileSystem, Files } from '../../src/host/files.js';

type Node = { kind: 'file'; bytes: Buffer } | { kind: 'directory' };

const fail = (code: string, path: string) => Object.assign(new Error(`${code}: ${path}`), { code, path });

/** A file system in memory, with the path rules of Windows or of other systems. */
export class MemoryFiles extends Files {
  readonly nodes: Map<string, Node>;

  /** @param content path to text or bytes; directories follow from the paths */
  constructor(content: Readonly<Record<string, string | Uint8Array>>, system: 'windows' | 'posix' = 'posix') {
    const path = system === 'windows' ? win32 : posix;
    const nodes = new Map<string, Node>();
    super(memoryFileSystem(nodes, path), path);
    this.nodes = nodes;
    for (const [name, data] of Object.entries(content)) this.write(name, data);
  }

  override write(path: string, data: string | Uint8Array): void {
    const { dirname, normalize } = this.path;
    const name = normalize(path);
    for (let at = dirname(name); !this.nodes.has(at); at = dirname(at)) this.nodes.set(at, { kind: 'directory' });
    this.nodes.set(name, { kind: 'file', bytes: Buffer.from(data) });
  }

  override remove(path: string): void {
    this.nodes.delete(this.path.normalize(path));
  }
}

function memoryFileSystem(nodes: ReadonlyMap<string, Node>, path: typeof posix): FileSystem {
  const find = (name: string) => nodes.get(path.normalize(name).replace(/(?<=.)[\\/]$/, ''));
  const get = (name: string): Node => {
    const node = find(name);
    if (!node) throw fail('ENOENT', name);
    return node;
  };
  const statsOf = (node: Node) =>
    ({
      size: node.kind === 'file' ? node.bytes.length : 0,
      mtimeMs: 1,
      ctimeMs: 1,
      blocks: 8,
      isFile: () => node.kind === 'file',
      isDirectory: () => node.kind === 'directory',
      isSymbolicLink: () => false,
      isFIFO: () => false,
      isSocket: () => false,
    }) as Stats;
  const stat = (name: string, options?: { throwIfNoEntry?: boolean }) => {
    const node = options?.throwIfNoEntry === false ? find(name) : get(name);
    return node && statsOf(node);
  };
  const bytesOf = (name: string): Buffer => {
    const node = get(name);
    if (node.kind === 'directory') throw fail('EISDIR', name);
    return node.bytes;
  };
  const open: Buffer[] = [];
  return {
    statSync: stat,
    lstatSync: stat,
    realpathSync: path.normalize,
    readFileSync: bytesOf,
    readdirSync: (name: string, options?: { withFileTypes?: boolean }) => {
      if (get(name).kind !== 'directory') throw fail('ENOTDIR', name);
      const directory = path.normalize(name);
      const names = [...nodes.keys()].filter((one) => one !== directory && path.dirname(one) === directory);
      const entry = (one: string) => ({ name: path.basename(one), ...statsOf(get(one)) });
      return names.map((one) => (options?.withFileTypes ? entry(one) : path.basename(one)));
    },
    openSync: (name: string) => open.push(bytesOf(name)) - 1,
    fstatSync: (file: number) => statsOf({ kind: 'file', bytes: open[file] as Buffer }),
    readSync: (file: number, buffer: Uint8Array, offset: number, length: number, position: number | null) => {
      const from = position ?? 0;
      const piece = (open[file] as Buffer).subarray(from, from + length);
      buffer.set(piece, offset);
      return piece.length;
    },
    closeSync: () => undefined,
  } as unknown as FileSystem;
}
