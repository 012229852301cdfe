import type { Contract, Variable } from '../contract/contract.js';
import { parseEnvFile } from '../envfile/parse.js';
import { quoteEnvValue } from '../envfile/write.js';
import { oneLine } from '../text/display.js';
import { emitKind, madeBy } from './kind.js';

/** The env file to commit: every name with what is known of it, and no value but the examples of public variables. */
export const example = emitKind({
  name: 'example',
  summary: 'the env file to commit: names and comments, no values',
  takes: [],
  emit({ contract, call }) {
    const entries = [...contract.variables.values()].map((variable) => entry(contract, variable));
    return `# ${madeBy(call, contract)}\n\n${entries.join('\n')}`;
  },
  addTo(text, { contract }) {
    const names = new Set(parseEnvFile(Buffer.from(text)).entries.map(({ name }) => name));
    const lacking = [...contract.variables.values()].filter(({ name }) => !names.has(name));
    const entries = lacking.map((variable) => `\n${entry(contract, variable)}`);
    return `${text}${text === '' || text.endsWith('\n') ? '' : '\n'}${entries.join('')}`;
  },
});

function entry(
  contract: Contract,
  { name, reach, form, about, example: value, required, default: fallback }: Variable,
): string {
  const needed = requiredIn(contract, required);
  const facts = [reach, form.name, fallback ? 'has a default' : needed].join(', ');
  const lines = [...(about ? about.split(/[\r\n\u2028\u2029\x85]+/) : []), facts].map((line) => `# ${oneLine(line)}\n`);
  const shown = reach === 'public' && value !== undefined ? quoteEnvValue(value) : '';
  return `${lines.join('')}${name}=${shown}\n`;
}

function requiredIn(contract: Contract, required: Variable['required']): string {
  if (typeof required === 'boolean') return required ? 'required' : 'optional';
  return required.length === contract.stages.size ? 'required' : `required in ${required.join(', ')}`;
}
