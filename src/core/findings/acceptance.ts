import type { Position } from '../text/positions.js';

/** A finding that the team decided to live with. */
export interface Acceptance {
  /** A code, perhaps one of a later version. */
  finding: string;
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
