import yargs from 'yargs';
import { padEnd, wrap } from '../core/report/layout.js';
import { joinWords } from '../core/text/nearest.js';
import type { Command } from './command.js';
import { type OptionName, options } from './options.js';
import { valuesOf } from './parse.js';

const WIDTH = 100;

/** The help of one command, from its own entry and the table of options. */
export async function commandHelp(command: Command): Promise<string> {
  const help = yargs([])
    .scriptName('adder')
    .usage(`adder ${command.name} ${command.words}\n\n${command.about}`)
    .version(false)
    .help(false)
    .wrap(WIDTH);
  for (const name of command.options)
    help.option(name, { type: options[name].type, describe: describeOption(command, name) });
  const examples = command.examples.map(([call, about]) => `  ${call}\n      ${about}`);
  // Lines of a usage would lose the spaces that they begin with.
  const text = (await help.getHelp()).replace('\n\nOptions:', `${kindsOf(command)}\n\nOptions:`);
  return `${text}\n\nExamples:\n${examples.join('\n')}\n`;
}

function kindsOf({ kinds = [] }: Command): string {
  if (kinds.length === 0) return '';
  const width = Math.max(...kinds.map(([word]) => word.length)) + 2;
  const lines = kinds.flatMap(([word, meaning]) =>
    wrap(meaning, WIDTH - width - 2).map((line, index) => `  ${padEnd(index === 0 ? word : '', width)}${line}`),
  );
  return `\n\n${lines.join('\n')}`;
}

/** The help of an option, with the words that it takes where they are few, and the one that it has by default. */
export function describeOption({ meanings }: Command, name: OptionName): string {
  const { help: usual, schema } = options[name];
  const help = meanings?.[name] ?? usual;
  const known = valuesOf(schema);
  return known.length === 0 ? help : `${help}: ${joinWords(known, 'or')} (default: ${schema.parse(undefined)})`;
}
