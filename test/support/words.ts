import type { RawFinding } from '../../src/core/findings/finding.js';
import { describe } from '../../src/core/words/describe.js';
import { remedyText } from '../../src/core/words/remedy.js';

/** A finding with its message and remedy, as reports have them. */
export function inWords<Of extends RawFinding>(finding: Of): Of & { message: string; remedy: string } {
  const { message, remedy } = describe(finding);
  return { ...finding, message, remedy: remedyText(remedy) };
}
