/** A calendar date such as 2027-03-01. Zod's own check builds large expressions, which costs start-up time. */
export function isDay(text: string): boolean {
  const time = Date.parse(`${text}T00:00:00Z`);
  return /^\d{4}-\d\d-\d\d$/.test(text) && !Number.isNaN(time) && new Date(time).toISOString().startsWith(text);
}
