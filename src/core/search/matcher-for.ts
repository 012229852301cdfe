import { wasmGrams } from './kernel/wasm.js';
import type { Matcher, NeedleBytes } from './matcher.js';
import type { Runs } from './runs.js';
import { sampledGrams } from './sampled-grams.js';
import type { ByteWindows } from './windows/byte-windows.js';

/**
 * The fastest matcher that runs here: the kernel in WebAssembly, or its twin where a host forbids that.
 * @param runs runs of token characters to report as hits too, under the number after the last needle
 * @param inputBytes approximate size of the input; a small one gets tables that are faster to build and slower to search
 * @param windows values that are known by hashes: stretches with windows of them are hits too, under the numbers after that
 */
export function matcherFor(
  needles: NeedleBytes,
  chunkSize?: number,
  runs?: Runs,
  inputBytes?: number,
  windows?: ByteWindows,
): Matcher {
  return isForbidden()
    ? sampledGrams(needles, chunkSize, runs, windows)
    : wasmGrams(needles, chunkSize, runs, inputBytes, windows);
}

/** Some hosts run Node.js without WebAssembly. */
function isForbidden(): boolean {
  return !('WebAssembly' in globalThis);
}
