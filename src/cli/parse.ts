import parser, { type Arguments } from 'yargs-parser';
import * as z from 'zod';
import { Failure } from '../core/findings/failure.js';
import { count, grouped } from '../core/text/display.js';
import { echoed, joinWords, nearest, suggest } from '../core/text/nearest.js';
import type { Call, Command } from './command.js';
import { type OptionEntry, type OptionName, options } from './options.js';

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
  const { _: words, ...given } = parsed;
  const unknown = Object.keys(given).find((name) => !(command.options as readonly string[]).includes(name));
  if (unknown !== undefined) throw unknownOption(command, unknown);
  const checked = Object.fromEntries(command.options.map((name) => [name, checkOption(name, given[name])]));
  checkWords(command, words.map(String), rest);
  return { words: words.map(String), rest: rest ?? [], options: checked as Call['options'] };
}

/** yargs' own parser, without the rest of yargs, which only the help needs. Values stay the text that was typed. */
function parse(command: Command, argv: readonly string[]): Arguments {
  const ofType = (type: string) => command.options.filter((name) => options[name].type === type);
  const parsed = parser([...argv], {
    string: [...ofType('string'), ...ofType('array')],
    array: ofType('array'),
    boolean: ofType('boolean'),
    configuration: {
      'parse-positional-numbers': false,
      'parse-numbers': false,
      'camel-case-expansion': false,
      'dot-notation': false,
      'greedy-arrays': false,
      'boolean-negation': false,
    },
  });
  const empty = command.options.find((name) => options[name].type !== 'boolean' && isEmpty(parsed[name]));
  if (empty !== undefined) throw new Failure(`a value is missing behind --${empty}`, `adder ${command.name} --help`);
  return parsed;
}

function isEmpty(given: unknown): boolean {
  return Array.isArray(given) ? given.length === 0 || given.includes('') : given === '';
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
  const shown = echoed(name, command.options);
  return new Failure(
    shown ? `adder ${command.name} has no option ${dashes}${name}` : `adder ${command.name} has no option of that name`,
    remedy,
  );
}

function checkOption(name: OptionName, given: unknown): unknown {
  const { schema, type, range = 'a value' }: OptionEntry = options[name];
  const value = type !== 'array' && Array.isArray(given) ? given.at(-1) : given;
  const checked = schema.safeParse(value);
  if (checked.success) return checked.data;
  const known = valuesOf(schema);
  const remedy =
    known.length > 0
      ? typeof value === 'string' && nearest(value, known).length > 0
        ? suggest(value, known)
        : `known: ${known.join(', ')}`
      : `give it ${range}`;
  const shown = echoed(String(value ?? ''), known);
  throw new Failure(shown ? `--${name} cannot be ${shown}` : `--${name} has a value that it cannot have`, remedy);
}

/** The words that an option takes, where they are few. */
export function valuesOf(schema: z.ZodType): string[] {
  const inner = schema instanceof z.ZodDefault ? schema.unwrap() : schema;
  return inner instanceof z.ZodEnum ? inner.options.map(String) : [];
}

function checkWords(command: Command, words: readonly string[], rest: readonly string[] | undefined): void {
  const [fewest, most] = command.arity;
  if (rest !== undefined && !command.takesRest)
    throw new Failure(`adder ${command.name} takes nothing behind --`, usage(command));
  if (words.length < fewest) throw new Failure(`adder ${command.name} needs more words`, usage(command));
  if (words.length > most)
    throw new Failure(
      `adder ${command.name} takes ${count(most, 'argument')}, and ${grouped(words.length)} were given`,
      command.takesRest ? `put the command behind --: ${usage(command)}` : usage(command),
    );
}

function usage(command: Command): string {
  return `adder ${command.name} ${command.words}`;
}
