import * as z from 'zod/mini';

const answer = z.enum(['yes', 'no', 'not known', 'not asked']);

/** The last gate of a stage, as it is kept. */
export const keptGate = z.object({
  gate: z.literal(1),
  stage: z.string(),
  at: z.iso.datetime(),
  answers: z.exactOptional(z.object({ nothingLeaked: answer, allThere: answer, current: answer })),
  errors: z.number(),
  warnings: z.number(),
  exitCode: z.number(),
});

export type KeptGate = z.infer<typeof keptGate>;
