/** A value that is known from the history alone. Days are YYYY-MM-DD, UTC. */
export interface Recorded {
  /** Day when it was first recorded. */
  from: string;
  /** Day when it was replaced, if that is known. */
  to?: string | undefined;
  because?: string | undefined;
}

/** `the value of KEY`, `a past value of KEY (recorded on 2026-08-01, replaced on 2026-09-03)`. */
export function wholeValueText(variable: string, recorded: Recorded | undefined): string {
  if (!recorded) return `the value of ${variable}`;
  // A value that nobody replaced may be the present one, on a machine without it.
  return `a ${recorded.to === undefined ? '' : 'past '}value of ${variable} (${recordedText(recorded)})`;
}

/** `recorded on 2026-08-01, replaced on 2026-09-03: rotated`. */
export function recordedText({ from, to, because }: Recorded): string {
  const reason = because === undefined ? '' : `: ${because}`;
  return `recorded on ${from}${to === undefined ? '' : `, replaced on ${to}${reason}`}`;
}
