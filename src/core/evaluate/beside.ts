import { posix } from 'node:path';

const endings = [
  '',
  '.js',
  '.ts',
  '.mjs',
  '.cjs',
  '.mts',
  '.cts',
  '.json',
  '/index.js',
  '/index.ts',
  '/index.mjs',
  '/index.cjs',
];

/** The file that a configuration imports by a relative specifier, with or without its ending, among those that were read. */
export function beside<File>(
  files: { get(path: string): File | undefined },
  from: string,
  specifier: string,
): (File & { path: string }) | undefined {
  const path = posix.join(posix.dirname(from), specifier);
  // TypeScript names the file that a compiler would write.
  for (const plain of [path, path.replace(/\.([cm]?)js$/, '.$1ts')])
    for (const ending of endings) {
      const file = files.get(plain + ending);
      if (file) return { ...file, path: plain + ending };
    }
  return undefined;
}
