import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { nameOf } from '../core/draft/file-names.js';
import { literalText, readEnvFileLayer } from '../core/resolve/layers.js';
import type { NamedValue } from '../core/resolve/resolve.js';
import { filesNamed } from '../host/walk.js';
import type { Project } from './open.js';
import { within } from './within.js';

/**
 * The values of env files below the contract's folder that no stage has as a layer: a tool that reads such a file by itself
 * takes them into the bundle all the same. Values with references in them are passed over, as nobody says who expands them.
 */
export function looseValues({ contract, root }: Project): NamedValue[] {
  const isOutput = within([...contract.bundles.values()].flatMap(({ output }) => output));
  const listed = new Set(
    [...contract.stages.values()].flatMap(({ layers }) => layers.map(({ name }) => name.replace(/^\.\//, ''))),
  );
  const paths = filesNamed(root, (name) => name.startsWith('.env') || name.endsWith('.env'), isOutput);
  return paths.filter((path) => !listed.has(path) && isEnvFile(path)).flatMap((path) => valuesIn(root, path));
}

function isEnvFile(path: string): boolean {
  return /^(env|leftover)$/.test(nameOf(path)?.kind ?? '');
}

function valuesIn(root: string, path: string): NamedValue[] {
  let bytes: Uint8Array;
  try {
    bytes = readFileSync(join(root, path));
  } catch {
    // Whoever built with it could read it; on this machine nobody can.
    return [];
  }
  return readEnvFileLayer(path, path, bytes, () => false).offers.flatMap((offer) => {
    const value = literalText(offer);
    return value ? [{ name: offer.name, value, from: offer.source }] : [];
  });
}
