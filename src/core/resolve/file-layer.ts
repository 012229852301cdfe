import type { NameFacts } from './env-findings.js';
import type { ReadLayer } from './layer.js';
import { readEnvFileLayer } from './layers.js';
import { readModuleLayer } from './module.js';
import { readStructuredLayer } from './structured.js';

/**
 * A layer that is a file, read by what its name says: JSON and YAML, a module of constants, or else an env file.
 * @param path relative to the contract's directory; it is the layer's name too
 */
export function readFileLayer(path: string, bytes: Uint8Array, facts: NameFacts): ReadLayer {
  const text = () => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString();
  if (isStructured(path)) return readStructuredLayer(path, path, text());
  if (isModule(path)) return readModuleLayer(path, path, text());
  return readEnvFileLayer(path, path, bytes, facts);
}

/** Whether a layer of this name is read as an env file. */
export function isEnvFileName(path: string): boolean {
  return !isStructured(path) && !isModule(path);
}

function isStructured(path: string): boolean {
  return /\.(json|ya?ml)$/.test(path);
}

function isModule(path: string): boolean {
  return /\.[cm]?[jt]s$/.test(path) && !/(^|\/)\.env\./.test(path);
}
