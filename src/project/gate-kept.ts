import { type KeptGate, keptGate } from '../core/overview/kept-gate.js';
import type { FindingsReport } from '../core/report/findings-report.js';
import { type Rooted, readState } from '../host/state.js';
import { keptGatePath } from './kept-paths.js';

/**
 * Keeps what a gate said, for `adder` alone: its answers and the numbers of its findings. On a disk that
 * is read-only, nothing is kept.
 */
export function keepGate(at: Rooted, report: FindingsReport, exitCode: number, now: Date): void {
  const { stage = '', answers, summary } = report;
  const kept: KeptGate = {
    gate: 1,
    stage,
    at: now.toISOString(),
    ...(answers && {
      answers: {
        nothingLeaked: answers.nothingLeaked.answer,
        allThere: answers.allThere.answer,
        current: answers.current.answer,
      },
    }),
    errors: summary.error,
    warnings: summary.warning,
    exitCode,
  };
  try {
    at.files.write(keptGatePath(at, stage), `${JSON.stringify(kept)}\n`, { root: at.root });
  } catch {
    // The report is what counts.
  }
}

/** The last gate of a stage; undefined if none is kept, or it cannot be read. */
export function readGate(at: Rooted, stage: string): KeptGate | undefined {
  try {
    const parsed = keptGate.safeParse(JSON.parse(readState(at, keptGatePath(at, stage)) ?? ''));
    return parsed.success ? parsed.data : undefined;
  } catch {
    return undefined;
  }
}
