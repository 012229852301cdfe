import type { Position } from '../text/positions.js';

/** A finding, or a file that cannot be read, that the team decided to live with. */
export interface Acceptance {
  /** A code, perhaps one of a later version. */
  finding?: string;
  /** Instead of a code: a glob over the paths of files that cannot be read. */
  unread?: string;
  /** A glob over the finding's path. */
  where?: string;
  variable?: string;
  fingerprint?: string;
  because: string;
  /** The last day on which it holds, as 2027-03-01. */
  until: string;
  /** Its place in the contract. */
  at: Position;
}
