import * as z from 'zod/mini';
import { reaches } from '../findings/reach.js';

const texts = z.array(z.string());

/** A row of a trial's table, as reports and kept trials have it. */
export const trialRow = z.strictObject({
  name: z.string(),
  variable: z.exactOptional(z.string()),
  reach: z.exactOptional(z.enum(reaches)),
  setIn: texts,
  readBy: texts,
  arrivesIn: z.array(
    z.strictObject({
      path: z.string(),
      from: z.string(),
      encoding: texts,
      audience: z.enum(['browser', 'server', 'cache', 'elsewhere']),
      source: z.exactOptional(z.string()),
    }),
  ),
  isUnmarked: z.boolean(),
});

/** A name that a build asked its environment for, with the places that did. */
export const askedName = z.strictObject({ name: z.string(), at: texts });
