/** A value that is known from the history alone. Days are YYYY-MM-DD, UTC. */
export interface Recorded {
  /** Day when it was first recorded. */
  from: string;
  /** Day when it was replaced, if that is known. */
  to?: string | undefined;
  because?: string | undefined;
}

/** `recorded on 2026-08-01, replaced on 2026-09-03: rotated`. */
export function recordedText({ from, to, because }: Recorded): string {
  const reason = because === undefined ? '' : `: ${because}`;
  return `recorded on ${from}${to === undefined ? '' : `, replaced on ${to}${reason}`}`;
}
