import type { RawFinding } from './finding.js';

/** Exit codes of the process. `with` exits with its child's own code. */
export const EXIT = { fine: 0, findings: 1, call: 2, unread: 3, defect: 70, interrupted: 130 } as const;

/**
 * An error that the user can fix. Any other error is a bug in Adder.
 * Neither text may hold a value.
 */
export class Failure extends Error {
  /**
   * @param message what is wrong, and where, as one sentence without a full stop
   * @param remedy what to do about it
   */
  constructor(
    message: string,
    readonly remedy?: string,
    readonly exitCode: number = EXIT.call,
  ) {
    super(message);
    this.name = 'Failure';
  }
}

/** Something that was found and not understood, the contract above all: printed as findings, in the format that was asked for. */
export class FindingsFailure extends Failure {
  constructor(
    message: string,
    readonly findings: readonly RawFinding[],
  ) {
    super(message);
    this.name = 'FindingsFailure';
  }
}
