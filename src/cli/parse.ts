import yargs, { type Argv } from 'yargs';
import * as z from 'zod';
import { Failure } from '../core/failure.js';
import { joinWords, nearest, suggest } from '../core/text/nearest.js';
import type { Call, Command } from './command.js';
import { type OptionName, options } from './options.js';

const HELP_WIDTH = 100;

/** yargs, set up for one command from the table of options. Values stay the text that was typed. */
function parserFor(command: Command, argv: readonly string[]): Argv {
  const parser = yargs([...argv])
    .scriptName('adder')
    .usage(`adder ${command.name} ${command.words}\n\n${command.about}`)
    .exitProcess(false)
    .version(false)
    .help(false)
    .wrap(HELP_WIDTH)
    .parserConfiguration({
      'parse-positional-numbers': false,
      'parse-numbers': false,
      'camel-case-expansion': false,
      'dot-notation': false,
      'duplicate-arguments-array': true,
      'greedy-arrays': false,
      'boolean-negation': false,
    });
  for (const name of command.options) {
    const { type } = options[name];
    parser.option(name, { type, describe: describeOption(name), requiresArg: type !== 'boolean' });
  }
  return parser;
}

/** The help of an option, with the words that it takes where they are few, and the one that it has by default. */
export function describeOption(name: OptionName): string {
  const { help, schema } = options[name];
  const known = valuesOf(schema);
  return known.length === 0 ? help : `${help}: ${joinWords(known, 'or')} (default: ${schema.parse(undefined)})`;
}

export async function commandHelp(command: Command): Promise<string> {
  const examples = command.examples.map(([call, about]) => `  ${call}\n      ${about}`);
  return `${await parserFor(command, []).getHelp()}\n\nExamples:\n${examples.join('\n')}\n`;
}

/**
 * The words and options of a call, checked.
 * @throws Failure that names what is known, for an option, value or number of words that the command does not take
 */
export function parseCall(
  command: Command,
  argv: readonly string[],
  rest: readonly string[] | undefined,
): Omit<Call, 'world'> {
  const parsed = parse(command, argv);
  const { _: words, $0: _script, ...given } = parsed;
  const unknown = Object.keys(given).find((name) => !(command.options as readonly string[]).includes(name));
  if (unknown !== undefined) throw unknownOption(command, unknown);
  const checked = Object.fromEntries(command.options.map((name) => [name, checkOption(name, given[name])]));
  checkWords(command, words.map(String), rest);
  return { words: words.map(String), rest: rest ?? [], options: checked as Call['options'] };
}

function parse(command: Command, argv: readonly string[]) {
  let problem: string | undefined;
  const parser = parserFor(command, argv).fail((message) => {
    problem ??= message;
  });
  const parsed = parser.parseSync();
  if (problem !== undefined)
    throw new Failure(
      problem.replace(/^Not enough arguments following: /, 'a value is missing behind --'),
      `adder ${command.name} --help`,
    );
  return parsed;
}

function unknownOption(command: Command, name: string): Failure {
  const dashes = name.length === 1 ? '-' : '--';
  const near = nearest(name, [...command.options, 'help']);
  const remedy =
    near.length > 0
      ? `did you mean ${joinWords(
          near.map((one) => `--${one}`),
          'or',
        )}?`
      : `adder ${command.name} --help lists its options`;
  return new Failure(`adder ${command.name} has no option ${dashes}${name}`, remedy);
}

function checkOption(name: OptionName, given: unknown): unknown {
  const { schema, type } = options[name];
  const value = type !== 'array' && Array.isArray(given) ? given.at(-1) : given;
  const checked = schema.safeParse(value);
  if (checked.success) return checked.data;
  const known = valuesOf(schema);
  const remedy =
    known.length > 0
      ? typeof value === 'string' && nearest(value, known).length > 0
        ? suggest(value, known)
        : `known: ${known.join(', ')}`
      : 'give it a value';
  throw new Failure(`--${name} cannot be "${String(value ?? '')}"`, remedy);
}

function valuesOf(schema: z.ZodType): string[] {
  const inner = schema instanceof z.ZodDefault ? schema.unwrap() : schema;
  return inner instanceof z.ZodEnum ? inner.options.map(String) : [];
}

function checkWords(command: Command, words: readonly string[], rest: readonly string[] | undefined): void {
  const [fewest, most] = command.arity;
  if (rest !== undefined && !command.takesRest)
    throw new Failure(`adder ${command.name} takes nothing behind --`, usage(command));
  if (words.length < fewest) throw new Failure(`adder ${command.name} needs more words`, usage(command));
  if (words.length > most) throw new Failure(`adder ${command.name} does not take "${words[most]}"`, usage(command));
}

function usage(command: Command): string {
  return `adder ${command.name} ${command.words}`;
}
