/** Where a report comes from. */
export interface Made {
  /** When it was made: ISO 8601, UTC. */
  at: string;
  /** The version of Adder. */
  adder: string;
  /** The name of the project's directory. */
  project?: string;
  /** The commit that was checked out, and whether files differed from it. */
  revision?: { id: string; dirty: boolean };
}

/** `made 2026-12-01 08:00 UTC by Adder 0.1.0, ferries at 1a2b3c4d5e6f with changes`. */
export function madeText({ at, adder, project, revision }: Made): string {
  const commit = revision && ` at ${revision.id.slice(0, 12)}${revision.dirty ? ' with changes' : ''}`;
  const of = project === undefined ? '' : `, ${project}${commit ?? ''}`;
  return `made ${utcMinute(at)} by Adder ${adder}${of}`;
}

/** `2026-12-01 08:00 UTC`: readers of a saved report are not where it was made. */
function utcMinute(at: string): string {
  return `${at.slice(0, 16).replace('T', ' ')} UTC`;
}
