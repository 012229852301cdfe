import { DART_READS } from './read-from.js';
import type { Toolchain } from './toolchain.js';

/** Detected by a `pubspec.yaml` with a `lib` beside it, not by a package of npm. */
export const dart: Toolchain = {
  name: 'dart',
  detect: { packages: [] },
  runs: 'mobile',
  code: ['lib'],
  entries: 'usual names',
  reads: [{ from: DART_READS, prefix: '', side: 'any', time: 'build' }],
  output: ['build'],
  caches: ['.dart_tool'],
  launches: 'dart',
};
