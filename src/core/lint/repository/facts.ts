import type { Contract } from '../../contract/contract.js';
import type { Resolution } from '../../resolve/resolve.js';
import type { Recorded } from '../../words/recorded.js';
import type { PastNames } from './past-files.js';

/** A commit, as messages name it. */
export interface Commit {
  /** Shortened. */
  id: string;
  /** As 2026-11-24. */
  day: string;
}

/** A file of the past, or a value in one. */
export interface Past {
  path: string;
  first: Commit;
  last: Commit;
}

/** A secret in a file: a variable's value, or a string with a secret's shape. Line and column are from 1. */
export interface SecretInFile {
  path: string;
  variable?: string;
  shape?: string;
  /** For a value that only the history has. */
  recorded?: Recorded;
  line: number;
  column: number;
}

/** Facts about the repository: from version control itself, and from the files as they are. */
export interface RepositoryFacts {
  contract: Contract;
  /** The contract's directory: absolute, with `/`. */
  directory: string;
  /** Every stage from its own files. */
  stages: readonly Resolution[];
  /** Files of the project, relative to the contract's directory, without ignored files and packages, but with all env files. */
  paths: readonly string[];
  /** True if there is version control at all. */
  isVersioned: boolean;
  tracked: ReadonlySet<string>;
  /** Tells whether version control would pass a path over, be it there or not. */
  isIgnored(path: string): boolean;
  /** Files that were env files or keys in some commit, with their names if all versions could be read. */
  past: readonly (Past & { names?: PastNames | undefined })[];
  /** Values in blobs of the past: those of today, and recorded ones that were not replaced. */
  pastValues: readonly (Past & { variable: string; stages: readonly string[]; recorded?: Recorded })[];
  /** Secrets in tracked text files that are neither code nor env files. */
  inFiles: readonly SecretInFile[];
  text(path: string): string | undefined;
  /** Tells whether there is a file or directory. */
  exists(path: string): boolean;
}

/** Names of a file of values that hold something secret, by the contract. */
export function narrowNames({ contract }: Pick<RepositoryFacts, 'contract'>, names: readonly string[]): string[] {
  return names.filter((name) => (contract.variables.get(name)?.reach ?? 'server') !== 'public');
}
