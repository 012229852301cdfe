import type { Form } from './form.js';

/** A calendar date, or a moment with its offset (RFC 3339, section 5.6, `full-date` and `date-time`). */
const shape = /^(\d{4})-(\d\d)-(\d\d)(T\d\d:\d\d:\d\d(\.\d+)?(Z|[+-]\d\d:\d\d))?$/;

export const date: Form = {
  name: 'date',
  problem(text) {
    const match = shape.exec(text);
    if (!match) return 'is not a date such as 2026-11-24 or 2026-11-24T04:10:00Z';
    const [, year, month, day, time] = match;
    const start = new Date(`${year}-${month}-${day}T00:00:00Z`);
    const exists = start.getUTCDate() === Number(day) && start.getUTCMonth() + 1 === Number(month);
    return exists && (time === undefined || !Number.isNaN(Date.parse(text)))
      ? undefined
      : 'is a date that does not exist';
  },
  valid: `${shape}.test(text) && !Number.isNaN(Date.parse(text)) && new Date(text.slice(0, 10) + 'T00:00:00Z').getUTCDate() === Number(text.slice(8, 10))`,
  measure: 'length',
  type: { typescript: 'string', dart: 'String' },
  example: '2026-11-24',
  foldable: false,
};
