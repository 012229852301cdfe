import yargs from 'yargs';
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
  for (const name of command.options) help.option(name, { type: options[name].type, describe: describeOption(name) });
  const examples = command.examples.map(([call, about]) => `  ${call}\n      ${about}`);
  return `${await help.getHelp()}\n\nExamples:\n${examples.join('\n')}\n`;
}

/** The help of an option, with the words that it takes where they are few, and the one that it has by default. */
export function describeOption(name: OptionName): string {
  const { help, schema } = options[name];
  const known = valuesOf(schema);
  return known.length === 0 ? help : `${help}: ${joinWords(known, 'or')} (default: ${schema.parse(undefined)})`;
}
