import { type Command, describeOption } from '../src/cli/command.js';
import { commands, usageOf } from '../src/cli/commands.js';

import { options } from '../src/cli/options.js';
import { codes } from '../src/core/findings/codes.js';
import { encodings } from '../src/core/needles/index.js';

const made = '<!-- Made by `npm run docs` from the tables in src; change those. -->\n';

/** The reference pages, by path. */
export async function pages(): Promise<Record<string, string>> {
  return { 'docs/commands.md': await commandsPage(), 'docs/findings.md': findingsPage() };
}

async function commandsPage(): Promise<string> {
  const sections = await Promise.all(Object.values(commands).map(async ({ load }) => commandSection(await load())));
  const exits = `## Exit codes

| code | meaning |
| --- | --- |
| 0 | nothing at or above \`--fail-on\` |
| 1 | findings; a refused build |
| 2 | the call, the contract or a layer could not be understood |
| 3 | something that had to be read could not be |
| 70 | a defect of Adder; \`--debug\` shows where |

\`adder with\` gives back the exit code of its command: 128 and the signal's number where a signal ended it, 127 where it was
not found, 126 where it is not executable.
`;
  return `${made}\n# Commands\n\n${sections.join('\n')}\n${exits}`;
}

function commandSection(command: Command): string {
  const { name, about, kinds = [], options: names, examples } = command;
  const rows = names.map((one) => {
    const entry = options[one];
    const value = 'value' in entry ? ` ${entry.value}` : '';
    return `| \`--${one}${value}\` | ${describeOption(command, one)} |`;
  });
  const calls = examples.map(([call, meaning]) => `${call.padEnd(56)}  # ${meaning}`);
  return `## adder ${name}

\`${usageOf(name)}\`

${about}
${kinds.map(([word, meaning]) => `\n- \`${word}\`: ${meaning}`).join('')}${kinds.length > 0 ? '\n' : ''}
\`\`\`sh
${calls.join('\n')}
\`\`\`

| option | meaning |
| --- | --- |
${rows.join('\n')}
`;
}

function findingsPage(): string {
  const rows = Object.entries(codes).map(
    ([code, { level, meaning }]) => `| [\`${code}\`](#${code.replace('/', '')}) | ${level} | ${meaning} |`,
  );
  const sections = Object.entries(codes).map(
    ([code, { level, meaning, help }]) => `### ${code}\n\n*${level}*: ${meaning}.\n\n${help}\n`,
  );
  const forms = [...encodings, { name: 'base64-lines', example: 'w6Qi\\nLw==' }].map(
    ({ name, example }) => `| \`${name}\` | \`${example}\` |`,
  );
  return `${made}
# Findings

Every code with its level. The contract's \`levels\` gives a code another one.

| code | level | meaning |
| --- | --- | --- |
${rows.join('\n')}

## Encodings

The forms in which \`adder inspect\` looks for a value, with \`ä"/\` as an example. A finding's \`encoding\` names them,
from the outside inwards: \`base64, js-string\` is base64 of a JSON text. \`nfc\` and \`nfd\` are the normal forms of Unicode, and
\`joined\` is a text that a script puts together from pieces.

| encoding | example |
| --- | --- |
${forms.join('\n')}

## Codes

${sections.join('\n')}`;
}
