import * as z from 'zod/mini';
import type { Coverage } from '../findings/check.js';
import { codes } from '../findings/codes.js';
import type { RawFinding } from '../findings/finding.js';
import type { TrialRow } from './conclude.js';
import { askedName, trialRow } from './row-schema.js';

/** Result of a trial. No value is in it, and no marker. */
export interface TrialResult {
  stage: string;
  bundle: string;
  rows: TrialRow[];
  /** Names that the project's own files asked for while it built, with their places. */
  asked: { name: string; at: string[] }[];
  findings: RawFinding[];
  coverage: Coverage;
}

/** A trial's result, with what it was made from. */
export interface KeptTrial extends TrialResult {
  /** Equal for two trials of the same files, stage, bundle and command. */
  of: string;
  command: string[];
  /** True if values without room for a marker were followed as well. */
  isTwice: boolean;
  /** ISO 8601, UTC. */
  madeAt: string;
  /** The commit of the project's repository, if it has one. */
  commit?: string;
  /** Tells whether files differed from that commit. */
  isChanged?: boolean;
}

const texts = z.array(z.string());

const schema = z.object({
  trial: z.literal(1),
  of: z.string(),
  stage: z.string(),
  bundle: z.string(),
  command: texts,
  isTwice: z.boolean(),
  madeAt: z.string(),
  commit: z.exactOptional(z.string()),
  isChanged: z.exactOptional(z.boolean()),
  rows: z.array(trialRow),
  asked: z.array(askedName),
  findings: z.array(z.looseObject({ code: z.string(), variant: z.string(), facts: z.record(z.string(), z.unknown()) })),
  coverage: z.object({
    files: z.number(),
    members: z.number(),
    bytes: z.number(),
    unread: z.array(z.object({ path: z.string(), inside: texts, because: z.string() })),
  }),
});

/** The text of a kept trial, as JSON. */
export function keptText(trial: KeptTrial): string {
  return `${JSON.stringify({ trial: 1, ...trial })}\n`;
}

/** Reads a kept trial. @returns undefined for what no trial of this version wrote */
export function parseKept(text: string): KeptTrial | undefined {
  try {
    const parsed = z.safeParse(schema, JSON.parse(text));
    if (!parsed.success || !parsed.data.findings.every(({ code }) => Object.hasOwn(codes, code))) return undefined;
    const { trial: _, ...kept } = parsed.data;
    return kept as unknown as KeptTrial;
  } catch {
    return undefined;
  }
}
