// Makes entries of a history for bench/history.mjs: one module, because secrets open in the module that made them.
export { entryName, makeEntry, sealEntry } from '../src/core/history/entry.js';
export { sectionKeys } from '../src/core/history/keys.js';
export { Secret } from '../src/core/secrets/secret.js';
