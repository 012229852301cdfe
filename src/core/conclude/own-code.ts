import { finding, type RawFinding } from '../findings/finding.js';
import type { ForeignValue } from '../words/leak.js';
import type { Conclusion } from './conclusion.js';
import type { OutputFacts } from './facts.js';

/**
 * A value in the source code itself is a matter of lint, not another stage's value, unless this stage's own value is
 * missing. Lint checks the files that entries import; in another one the value is reported here, with its line.
 */
export const ownCode: Conclusion = {
  explains: (one, output) => ownLiteral(one, output) !== undefined,
  findings: (output) =>
    output.found.flatMap((one) => {
      const { source } = ownLiteral(one, output) ?? {};
      if (source === undefined) return [];
      const { code: _, variant: __, facts, ...context } = one;
      return [finding('stage/foreign-value', 'hard-coded', { ...(facts as unknown as ForeignValue), source }, context)];
    }),
};

function ownLiteral(
  { code, variable, bundle }: RawFinding,
  output: OutputFacts,
): OutputFacts['inCode'][number] | undefined {
  if (code !== 'stage/foreign-value' || bundle !== output.bundle) return undefined;
  const own = output.inCode.find((one) => one.variable === variable);
  return own && (!own.hasValue || output.present.includes(own.variable)) ? own : undefined;
}
