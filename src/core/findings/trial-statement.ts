/** Conclusions of a trial build about the build and server values of a bundle. Each name is in one list. */
export interface TrialStatement {
  bundle: string;
  /** ISO 8601, UTC. */
  builtAt: string;
  /** The commit, if no file differed from it. */
  commit?: string;
  /** Their made-up values arrived in nothing that ships. */
  keptIn: string[];
  /** Their made-up values arrived in what ships. */
  letOut: string[];
  /** Nothing is known of them, each with the reason as a clause. */
  unsure: { name: string; because: string }[];
  /** Variables that no search of the built files speaks of, each with the reason: no value here, say. */
  notSearched: { name: string; because: string }[];
}
