import type { Code } from '../../src/core/words/catalogue.js';
import { describe as inWords } from '../../src/core/words/describe.js';
import { commandText } from '../../src/core/words/remedy.js';
import type { Facts } from '../../src/core/words/words.js';

/** A finding of a JSON report. */
export interface Found {
  code: Code;
  variant: string;
  level: string;
  facts: Facts;
  place?: { path: string; line?: number; column?: number };
  variable?: string;
  fingerprint: string;
  message: string;
  remedy: string;
}

/** The commands of a remedy, as they can be pasted. @throws Error if the text of the remedy does not have them */
export function commandsOf({ code, variant, facts, remedy }: Found): string[] {
  const steps = inWords({ code, variant, facts }).remedy;
  const commands = steps.flatMap((step) => ('run' in step ? commandText(step.run) : []));
  const absent = commands.find((command) => !remedy.includes(command));
  if (absent !== undefined) throw new Error(`the remedy "${remedy}" does not have ${absent}`);
  // At a terminal it asks, and somebody says yes.
  return commands.map((command) => command.replace(/--apply$/, '--apply --yes'));
}
