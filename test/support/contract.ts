import type { Contract } from '../../src/core/contract/contract.js';
import { parseContract } from '../../src/core/contract/parse.js';
import { renderFrame } from '../../src/core/text/frame.js';

/** A contract from its text. @throws where it has a problem */
export function contractOf(text: string): Contract {
  const { contract, findings } = parseContract(text, 'adder.yaml');
  if (!contract) throw new Error(findings.map(({ message }) => message).join('\n'));
  return contract;
}

/** The findings of a contract as golden text: place, message, line, caret, remedy. */
export function diagnose(text: string): string[] {
  return parseContract(text, 'adder.yaml').findings.map(({ code, place, message, remedy, excerpt }) => {
    const frame = excerpt ? renderFrame(excerpt, ({ length }) => length).map((line) => `  ${line}\n`) : [];
    return `${place?.path}:${place?.line}:${place?.column} ${code}: ${message}\n${frame.join('')}  → ${remedy}`;
  });
}
