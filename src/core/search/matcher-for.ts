import { wasmGrams } from './kernel/wasm.js';
import type { Matcher } from './matcher.js';
import { sampledGrams } from './sampled-grams.js';

/** The fastest matcher that runs here: the kernel in WebAssembly, or its twin where a host forbids that. */
export function matcherFor(needles: readonly Uint8Array[], chunkSize?: number): Matcher {
  return isForbidden() ? sampledGrams(needles, chunkSize) : wasmGrams(needles, chunkSize);
}

/** Some hosts run Node.js without WebAssembly. */
function isForbidden(): boolean {
  return !('WebAssembly' in globalThis);
}
