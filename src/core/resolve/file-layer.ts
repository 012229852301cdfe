import { isModule, isStructured } from '../files/file-kinds.js';
import type { NameFacts } from './env-findings.js';
import type { ReadLayer } from './layer.js';
import { readEnvFileLayer } from './layers.js';
import { readModuleLayer } from './module.js';
import { readStructuredLayer } from './structured.js';

/**
 * A layer that is a file, read by what its name says: JSON and YAML, a module of constants, or else an env file.
 * @param path relative to the contract's directory; it is the layer's name too
 * @param key of a file with keys: only the values under it
 */
export function readFileLayer(path: string, bytes: Uint8Array, facts: NameFacts, key?: string): ReadLayer {
  const text = () => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString();
  if (isStructured(path)) return readStructuredLayer(path, path, text(), key);
  if (isModule(path)) return readModuleLayer(path, path, text(), key);
  return readEnvFileLayer(path, path, bytes, facts);
}
