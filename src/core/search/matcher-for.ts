import { wasmGrams } from './kernel/wasm.js';
import type { Matcher } from './matcher.js';
import type { Runs } from './runs.js';
import { sampledGrams } from './sampled-grams.js';

/**
 * The fastest matcher that runs here: the kernel in WebAssembly, or its twin where a host forbids that.
 * @param runs runs of token characters to report as hits too, under the number after the last needle
 */
export function matcherFor(needles: readonly Uint8Array[], chunkSize?: number, runs?: Runs): Matcher {
  return isForbidden() ? sampledGrams(needles, chunkSize, runs) : wasmGrams(needles, chunkSize, runs);
}

/** Some hosts run Node.js without WebAssembly. */
function isForbidden(): boolean {
  return !('WebAssembly' in globalThis);
}
