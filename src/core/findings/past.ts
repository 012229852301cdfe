import type { PastCoverage } from './check.js';

/** Describes the search for values of the history, in a line without a full stop. */
export function pastText(past: PastCoverage): string {
  if ('because' in past) return `past values: not checked, ${past.because}`;
  const { values, until } = past;
  return `past values: ${values === 0 ? 'none' : `checked ${values}`}, recorded up to ${until}`;
}

/** The values that an answer rests on, if the history has some that this machine does not. */
export function restText(past: PastCoverage | undefined): string | undefined {
  if (!past || 'because' in past || past.instead.length === 0) return undefined;
  const names = past.instead.map(
    ({ variable, values }) => `${variable} by history, ${values} value${values === 1 ? '' : 's'}`,
  );
  return `of the values recorded up to ${past.until} (${names.join('; ')})`;
}
