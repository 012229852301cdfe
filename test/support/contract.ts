import type { Contract } from '../../src/core/contract/contract.js';
import { parseContract } from '../../src/core/contract/parse.js';
import { noFacts } from '../../src/core/resolve/env-findings.js';
import { readEnvFileLayer } from '../../src/core/resolve/layers.js';
import { type Resolution, resolveStage } from '../../src/core/resolve/resolve.js';
import { renderFrame } from '../../src/core/text/frame.js';
import { inWords } from './words.js';

/** A contract from its text. @throws if it has a problem */
export function contractOf(text: string): Contract {
  const { contract, findings } = parseContract(text, 'adder.yaml');
  if (!contract)
    throw new Error(
      findings
        .map(inWords)
        .map(({ message }) => message)
        .join('\n'),
    );
  return contract;
}

/** A stage of a contract with the values of one env file. */
export function resolutionOf(contract: Contract, stage: string, env: string): Resolution {
  const found = contract.stages.get(stage);
  if (!found) throw new Error(`no stage ${stage}`);
  return resolveStage(contract, found, [readEnvFileLayer('.env', '.env', Buffer.from(env), noFacts)]);
}

/** The findings of a contract as golden text: place, message, line, caret, remedy. */
export function diagnose(text: string): string[] {
  return parseContract(text, 'adder.yaml')
    .findings.map(inWords)
    .map(({ code, place, message, remedy, excerpt }) => {
      const frame = excerpt ? renderFrame(excerpt, ({ length }) => length).map((line) => `  ${line}\n`) : [];
      return `${place?.path}:${place?.line}:${place?.column} ${code}: ${message}\n${frame.join('')}  → ${remedy}`;
    });
}
