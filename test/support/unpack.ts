import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import * as zlib from 'node:zlib';
import { createPackage, getRawHeader } from '@electron/asar';
import { pack } from 'tar-stream';
import { expect } from 'vitest';
import { glimpseOf, type Member, memorySource } from '../../src/core/unpack/format.js';
import { formatOf } from '../../src/core/unpack/index.js';
import { Budget, type Limits, usualLimits } from '../../src/core/unpack/limits.js';
import { type Interest, type Visitor, walkInside } from '../../src/core/unpack/walk.js';

export interface Walked {
  /** Each member's bytes, by the names that lead to it. */
  members: Record<string, string>;
  unread: Record<string, string>;
}

/** A scan result with a hit, so that source maps are unpacked too. */
export const interest: Interest = { isEmpty: false, dataUris: [] };

export async function collect(chunks: AsyncIterable<Uint8Array>): Promise<Buffer> {
  const pieces: Buffer[] = [];
  try {
    for await (const chunk of chunks) pieces.push(Buffer.from(chunk));
  } catch {
    // The chunks until the failure count.
  }
  return Buffer.concat(pieces);
}

/** Where the content of an SVG's data: URI begins. */
export function marksIn(bytes: Buffer): number[] {
  const at = bytes.indexOf('xml;base64,');
  return at < 0 ? [] : [at + 11];
}

/** Everything that is in a container. */
export async function walk(bytes: Uint8Array, name: string, limits: Partial<Limits> = {}): Promise<Walked | undefined> {
  const result: Walked = { members: {}, unread: {} };
  const budget = new Budget({ ...usualLimits, ...limits }, bytes.length, () => 0);
  await walkInside(memorySource(bytes), name, [], interest, budget, {
    scan: async (_, chunks) => {
      const bytes = await collect(chunks);
      return { isEmpty: false, dataUris: marksIn(bytes), bytes };
    },
    done: async (inside, member: Member, found) => {
      // A second read gives the same bytes.
      const again = await collect(member.chunks());
      expect(again.subarray(0, found.bytes.length).equals(found.bytes)).toBe(true);
      result.members[inside.join(' » ')] = found.bytes.toString('latin1');
    },
    unread: (inside, because) => {
      result.unread[inside.join(' » ')] = because;
    },
  } satisfies Visitor<Interest & { bytes: Buffer }>);
  return formatOf(glimpseOf(memorySource(bytes)), name) && result;
}

/** Files in the archives of the tests. */
export const files = { 'a.txt': 'made-up key', 'deep/er/b.js': 'x'.repeat(70_000), empty: '' };

/** A directory with the files, for programs that pack one. */
export function folderOf(contents: Record<string, string | Uint8Array>): string {
  const folder = mkdtempSync(join(tmpdir(), 'adder-pack-'));
  for (const [path, content] of Object.entries(contents)) {
    mkdirSync(dirname(join(folder, path)), { recursive: true });
    writeFileSync(join(folder, path), content);
  }
  return folder;
}

const python = `import sys, zipfile
with zipfile.ZipFile(sys.argv[1], 'w') as archive:
    for name in sys.argv[4:]:
        archive.write(sys.argv[3] + '/' + name, name, zipfile.ZIP_STORED if sys.argv[2] == 'stored' else zipfile.ZIP_DEFLATED)
`;

/** An archive made by another program than the one that reads it. */
export function zipOf(contents: Record<string, string | Uint8Array>, how: 'stored' | 'deflated' = 'deflated'): Buffer {
  const folder = folderOf(contents);
  const path = join(folder, 'made.zip');
  const { status, stderr } = spawnSync('python3', ['-c', python, path, how, folder, ...Object.keys(contents)]);
  if (status !== 0) throw new Error(String(stderr));
  return readFileSync(path);
}

export async function tarOf(contents: Record<string, string | Uint8Array>): Promise<Buffer> {
  const archive = pack();
  for (const [name, content] of Object.entries(contents)) archive.entry({ name }, Buffer.from(content));
  archive.finalize();
  const pieces: Uint8Array[] = [];
  for await (const piece of archive) pieces.push(piece as Uint8Array);
  return Buffer.concat(pieces);
}

export async function asarOf(contents: Record<string, string | Uint8Array>): Promise<Buffer> {
  const path = join(mkdtempSync(join(tmpdir(), 'adder-asar-')), 'made.asar');
  await packAsar(folderOf(contents), path);
  return readFileSync(path);
}

/** Packs a directory. The packer returns before it has written all, so this waits for the file's end. */
export async function packAsar(folder: string, path: string): Promise<void> {
  await createPackage(folder, path);
  const { header, headerSize } = getRawHeader(path);
  const whole = 8 + headerSize + sizeOf(header as Packed);
  while (statSync(path).size < whole) await new Promise((resolve) => setTimeout(resolve, 5));
}

/** A file or directory in the header of an archive. */
interface Packed {
  files?: Record<string, Packed>;
  size?: number;
  unpacked?: boolean;
}

function sizeOf({ files = {}, size = 0, unpacked }: Packed): number {
  return Object.values(files).reduce((sum, one) => sum + sizeOf(one), unpacked ? 0 : size);
}

/** Newer versions of Node.js have it. */
export const { zstdCompressSync: compressZstd } = zlib as typeof zlib & {
  zstdCompressSync?: (bytes: Buffer) => Buffer;
};

export const hasPython = spawnSync('python3', ['--version']).status === 0;
if (!hasPython) console.warn('no python3 on this machine: zip archives are not looked into');
