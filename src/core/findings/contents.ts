import type { Origin } from './finding.js';
import type { Reach } from './reach.js';

/** A file that was checked. */
export interface CheckedFile {
  /** The path as places have it. */
  path: string;
  bytes: number;
  /** Number of embedded files. */
  members: number;
  bundle?: string;
  /** Who gets it: everybody, those with the server's files, or those with the build tool's cache. */
  for: 'browser' | 'server' | 'cache';
}

/** A public value of the stage in a file. */
export interface ContainedValue {
  variable: string;
  bundle?: string;
  path: string;
  inside: string[];
  /** How often, as far as places are listed. */
  places: number;
  /** The source that brought the first of them, by the source map. */
  origin?: Origin;
}

/** Contents of files: the variables of the contract, the checked files, and the public values in them. */
export interface Contents {
  variables: { name: string; reach: Reach }[];
  /** The largest first. */
  files: CheckedFile[];
  values: ContainedValue[];
}

/** Several contents as one. */
export function joinContents(all: readonly Contents[]): Contents | undefined {
  if (all.length === 0) return undefined;
  const variables = new Map(all.flatMap((one) => one.variables).map((one) => [one.name, one]));
  const files = new Map(all.flatMap((one) => one.files).map((one) => [one.path, one]));
  const values = new Map(all.flatMap((one) => one.values).map((one) => [valueKey(one), one]));
  return {
    variables: [...variables.values()],
    files: [...files.values()].sort((a, b) => b.bytes - a.bytes || (a.path < b.path ? -1 : 1)),
    values: [...values.values()],
  };
}

function valueKey({ variable, bundle, path, inside }: ContainedValue): string {
  return JSON.stringify([variable, bundle, path, inside]);
}
