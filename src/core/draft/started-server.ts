import type { Package } from './material.js';

/** Names of scripts that start something, for development or after a build. */
const starts = /^(start|dev|serve|server|preview|prod)\b/;

/** A program that Node.js runs, in a line of a script. */
const ofNode = /\bnode\s+(?:--?[\w=:./-]+\s+)*(?!-)(?:\.\/)?([\w@./-]+)/g;

const endings = ['', '.js', '.mjs', '.cjs', '.ts', '.mts', '/index.js', '/index.mjs', '/index.ts'];

/**
 * The server that a package starts itself, beside what its tool builds: the first program of its scripts that listens.
 * @param text of a file by its path; undefined if there is none
 * @returns its path
 */
export function startedServer(
  { folder, scripts }: Package,
  text: (path: string) => string | undefined,
): string | undefined {
  const lines = Object.entries(scripts).flatMap(([name, line]) => (starts.test(name) ? [line] : []));
  const programs = lines.flatMap((line) => [...line.matchAll(ofNode)].map(([, path = '']) => path));
  return programs
    .flatMap((path) => endings.map((ending) => folder + path + ending))
    .find((path) => /\.listen\s*\(|\bcreateServer\s*\(/.test(text(path) ?? ''));
}
