import type { RawFinding } from './finding.js';
import type { CodeGroups } from './judge.js';

/** Something that was not read. `path` is relative to the contract's directory; `inside` names embedded files. */
export interface Unread {
  path: string;
  inside: string[];
  /** A phrase that follows the path, such as `is encrypted`. */
  because: string;
}

/** A value that is not searched for, and why. */
export interface Unsought {
  variable: string;
  stage: string;
  because: string;
}

/** What a check covered. A clean report means that `unread` is empty. */
export interface Coverage {
  files: number;
  /** Embedded files, of archives and maps. */
  members: number;
  bytes: number;
  unread: Unread[];
  /** What is never opened: pipes, sockets, devices, caches, packages. */
  passedOver?: Unread[];
  notSearched?: Unsought[];
}

/** What one check returns, before anything is judged. */
export interface CheckResult {
  findings: readonly RawFinding[];
  coverage?: Coverage;
  /** The groups of codes that it checks completely. */
  groups: CodeGroups;
}
