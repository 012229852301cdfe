import type { IsPublic } from './env-findings.js';
import { type ReadLayer, readEnvFileLayer } from './layers.js';
import { readModuleLayer } from './module.js';
import { readStructuredLayer } from './structured.js';

/**
 * A layer that is a file, read by what its name says: JSON and YAML, a module of constants, or else an env file.
 * @param path relative to the contract's folder; it is the layer's name too
 */
export function readFileLayer(path: string, bytes: Uint8Array, isPublic: IsPublic): ReadLayer {
  const isEnvFile = /(^|\/)\.env(\.|$)/.test(path);
  const text = () => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString();
  if (/\.(json|ya?ml)$/.test(path)) return readStructuredLayer(path, path, text());
  if (!isEnvFile && /\.[cm]?[jt]s$/.test(path)) return readModuleLayer(path, path, text());
  return readEnvFileLayer(path, path, bytes, isPublic);
}
