import { parse as parseYaml } from 'yaml';
import type { ConfigFile, Material, Package, SourceFile, ValueFile } from '../core/draft/material.js';
import { parseEnvFile } from '../core/envfile/parse.js';
import { isSkippedDirectory, isUsualOutput, parentOf } from '../core/files/directories.js';
import { valueFileOf } from '../core/files/value-files.js';
import { limits } from '../core/limits/index.js';
import { isSource, readsIn } from '../core/reads/index.js';
import { noFacts } from '../core/resolve/env-findings.js';
import { readFileLayer } from '../core/resolve/file-layer.js';
import type { ReadLayer } from '../core/resolve/layer.js';
import { textPlaces } from '../core/text/positions.js';
import { shapeOf } from '../core/tokens/shapes.js';
import type { Files } from '../host/files.js';
import type { Rooted } from '../host/state.js';
import { filesNamed } from '../host/walk.js';

function bytesOf({ files, root }: Rooted, path: string): Buffer | undefined {
  return files.readIfPossible(files.path.join(root, path));
}

/** Everything below a folder that a draft can be made from. What cannot be read counts as absent. */
export async function gatherMaterial(files: Files, root: string): Promise<Material> {
  const isSkipped = (path: string) =>
    isSkippedDirectory(path) || isUsualOutput(path) || path.split('/').length > limits.draftDepth.value;
  const at: Rooted = { files, root };
  const paths = filesNamed(files, root, () => true, isSkipped).sort();
  const valueFiles = paths.flatMap((path) => valueFile(at, path) ?? []);
  const valuePaths = new Set(valueFiles.map(({ path }) => path));
  return {
    files: valueFiles,
    sources: paths
      .filter((path) => isSource(path) && !valuePaths.has(path))
      .flatMap((path) => sourceFile(at, path) ?? []),
    packages: paths.flatMap((path) => packageFrom(at, path) ?? []),
    configs: paths.filter(isConfig).flatMap((path) => configFile(at, path) ?? []),
    exists: (path) => files.exists(files.path.join(root, path)),
  };
}

function valueFile(at: Rooted, path: string): ValueFile | undefined {
  const named = valueFileOf(path);
  if (!named) return undefined;
  const isRead = named.kind !== 'leftover' && named.kind !== 'misnamed';
  const bytes = isRead ? bytesOf(at, path) : undefined;
  if (isRead && !bytes) return undefined;
  const layer: ReadLayer = bytes
    ? readFileLayer(path, bytes, noFacts)
    : { name: path, state: 'read', path, offers: [], findings: [] };
  const isOther = named.kind === 'structured' || named.kind === 'module';
  // A file that only has a stage in its name, and no values, is something else.
  if (isOther && layer.offers.length === 0) return undefined;
  return { ...named, path, layer, about: named.kind === 'example' && bytes ? commentsIn(bytes) : new Map() };
}

/** The comment lines right above a name. Lines that hold an assignment or a token are no prose, and stay where they are. */
function commentsIn(bytes: Uint8Array): Map<string, string> {
  const { nodes } = parseEnvFile(bytes);
  const about = new Map<string, string>();
  let lines: string[] = [];
  for (const node of nodes) {
    if (node.kind === 'comment')
      lines.push(
        textBetween(bytes, node.start, node.end)
          .replace(/^\s*#+\s?/, '')
          .trim(),
      );
    else {
      if (node.kind === 'entry' && lines.length > 0 && lines.every(isProse))
        about.set(node.name, lines.join(' ').slice(0, 200));
      lines = [];
    }
  }
  return about;
}

function isProse(line: string): boolean {
  return (
    line !== '' &&
    /[A-Za-z]{2}/.test(line) &&
    line.split(/\s+/).every((word) => word.length < 24 && !word.includes('=') && !shapeOf(word))
  );
}

function textBetween(bytes: Uint8Array, start: number, end: number): string {
  return Buffer.from(bytes.buffer, bytes.byteOffset + start, end - start).toString();
}

function sourceFile(at: Rooted, path: string): SourceFile | undefined {
  const bytes = bytesOf(at, path);
  if (!bytes || bytes.length > limits.draftSourceBytes.value) return undefined;
  const text = bytes.toString();
  const { reads } = readsIn(path, text);
  if (reads.length === 0) return undefined;
  const placeOf = textPlaces(text);
  return { path, reads: reads.map((one) => ({ ...one, ...placeOf(one.nameStart) })) };
}

function packageFrom(at: Rooted, path: string): Package | undefined {
  const folder = parentOf(path);
  const name = path.slice(folder.length);
  if (name !== 'package.json' && name !== 'pubspec.yaml') return undefined;
  const isDart = name === 'pubspec.yaml';
  try {
    const text = bytesOf(at, path)?.toString() ?? '';
    const manifest: unknown = isDart ? parseYaml(text) : JSON.parse(text);
    const {
      name: label,
      dependencies,
      devDependencies,
    } = manifest as Record<string, Record<string, string> | undefined> & { name?: string };
    return {
      folder,
      name: typeof label === 'string' ? label : '',
      isDart,
      dependencies: Object.keys({ ...dependencies, ...devDependencies }),
    };
  } catch {
    return undefined;
  }
}

function isConfig(path: string): boolean {
  return /(^|\/)([\w-]+\.config\.[cm]?[jt]s|webpack\.[\w.]+\.[cm]?[jt]s|gatsby-config\.[cm]?[jt]s|angular\.json)$/.test(
    path,
  );
}

function configFile(at: Rooted, path: string): ConfigFile | undefined {
  const text = bytesOf(at, path)?.toString();
  return text === undefined ? undefined : { path, text };
}
