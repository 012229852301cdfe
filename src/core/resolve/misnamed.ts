import { parentOf } from '../files/directories.js';
import { finding, type RawFinding } from '../findings/finding.js';
import { editDistance } from '../text/nearest.js';

/**
 * Finds a file whose name is nearly that of an absent layer.
 * @param layer the layer's name, with its directory
 * @param names the files in the layer's directory
 * @param listed the names of all layers, which are no mistakes
 */
export function misnamedFinding(
  layer: string,
  names: readonly string[],
  listed: readonly string[],
): RawFinding | undefined {
  const folder = parentOf(layer);
  const expected = layer.slice(folder.length);
  const found = names.find((name) => !listed.includes(folder + name) && isNearly(name, expected));
  if (found === undefined) return undefined;
  const path = folder + found;
  const facts = { layer, found: path, name: expected };
  return finding('repo/misnamed', 'file', facts, { place: { path, inside: [] } });
}

/** An ending that an editor added, a missing dot, white space, or a slip of one or two letters. */
function isNearly(name: string, expected: string): boolean {
  const plain = (text: string) => text.replace(/\s+/g, '').toLowerCase();
  if (plain(name) === plain(expected)) return true;
  if (/\.(txt|rtf|js|ts|bak)$/.test(name) && name.slice(0, name.lastIndexOf('.')) === expected) return true;
  if (`.${name}` === expected) return true;
  const isEnvFile = /^\.?[env]{3}(\.|$)/i.test(name) && name !== '.env';
  return isEnvFile && Math.abs(name.length - expected.length) <= 1 && editDistance(name, expected) === 1;
}
