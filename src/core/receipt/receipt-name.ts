const NAME = /(\d{4}-\d\d-\d\d)T(\d\d-\d\d-\d\d\.\d{3}Z)/;
/** Builds at the same time are no contradiction. */
const TOLERANCE_MS = 1000;

/**
 * The file name of a receipt: its time and stage. Names tell the order of builds, so one that is made after another gets a later name,
 * whatever the clock says.
 * @param builtAt ISO 8601, UTC @param last the name of the last receipt
 */
export function receiptName(builtAt: string, stage: string, last = ''): string {
  const before = timeOf(last);
  const later = before >= Date.parse(builtAt) ? new Date(before + 1).toISOString() : builtAt;
  return `${later.replaceAll(':', '-')}.${stage}.json`;
}

/** Tells whether the clock of a build was behind that of the build before it: then the name of its receipt has another time. */
export function isBehindItsName(path: string, builtAt: string): boolean {
  return timeOf(path) - Date.parse(builtAt) > TOLERANCE_MS;
}

/** The time in a name, in milliseconds; NaN if it has none. */
function timeOf(name: string): number {
  const [, day, time = ''] = NAME.exec(name) ?? [];
  return day === undefined ? Number.NaN : Date.parse(`${day}T${time.replaceAll('-', ':')}`);
}
