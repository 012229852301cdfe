import * as z from 'zod/mini';

/** A name that the project chooses: of a stage, a bundle or a host. */
export const label = z.string().check(z.regex(/^[A-Za-z0-9][A-Za-z0-9._-]*$/, 'use letters, digits, dots, - and _'));

/** A text that is not empty. @param message what to do instead */
export const text = (message: string) => z.string().check(z.minLength(1, message));

/** The words of a command that runs without a shell. */
export const words = z.array(text('remove the empty word')).check(z.minLength(1, 'name a program'));

/** A command with the longest time that it may take. */
export const timedCommand = z.strictObject({
  command: words,
  seconds: z._default(z.number().check(z.positive()), 30),
});
