import yargs, { type Argv } from 'yargs';
import { Failure } from '../core/findings/failure.js';
import { count } from '../core/text/display.js';
import { echoed, joinWords, nearest, suggest } from '../core/text/nearest.js';
import type { World } from '../host/world.js';
import { VERSION } from '../version.js';
import { type Call, type Command, describeOption } from './command.js';
import { commandList, commands, usageOf } from './commands/index.js';
import { type OptionEntry, type OptionName, optionGroups, options, positionalsIn, wordsOf } from './options.js';

/** Result of parsing a command line. */
export type Parsed = { kind: 'output'; text: string } | { kind: 'call'; command: Command; call: Omit<Call, 'world'> };

/** yargs' own arguments, as far as they are used. */
type Argument = string | boolean | readonly string[] | undefined;
type Arguments = Readonly<Record<string, Argument>>;

/** The help is easier to read if it is not wider. */
const WIDEST_HELP = 100;

/**
 * Parses a command line with yargs, and checks the options with Zod.
 * @returns the call, or text to print: help, completions
 * @throws Failure that names what is known, for an unknown command, option, value or number of arguments
 */
export async function parseCall(argv: readonly string[], world: World): Promise<Parsed> {
  let command: Command | undefined;
  let call: Parsed | undefined;
  let output = '';
  const words = commandFirst(argv);
  const program = withoutSpareHelp(newProgram(words, world));
  const isHelp = ownWords(words).some((word) => word === '--help' || word === '-h');
  // One command is parsed, and all are listed in the help.
  const own = commands[words[0] ?? ''];
  for (const { usage, load } of own ? [own] : Object.values(commands)) {
    const describe = async (builder: Argv) => {
      command = await load();
      return isHelp ? describeCommand(builder, command) : declareCommand(builder, command);
    };
    // The list of commands is Adder's own: yargs puts arguments into brackets that a call must have.
    program.command(usage, false, describe, (parsed) => {
      if (command) call = { kind: 'call', command, call: checkCall(command, parsed as never) };
    });
  }
  try {
    await program.parseAsync([...words], {}, (error, _, text) => {
      if (error) throw error;
      // yargs would take the indentation of the list away.
      output = text.replace(LIST, () => commandList(helpWidth(world)));
    });
  } catch (error) {
    throw isRefusal(error) ? explain(ownWords(words), command) : error;
  }
  if (call) return call;
  return { kind: 'output', text: output === '' ? output : `${output}\n` };
}

/** Where the list of commands is in the help. */
const LIST = 'COMMAND-LIST';

function helpWidth({ stdout: { isTerminal, columns = WIDEST_HELP } }: World): number {
  return isTerminal ? Math.min(WIDEST_HELP, columns) : WIDEST_HELP;
}

/** Name of the errors that yargs throws itself. */
const REFUSAL = 'YError';

function isRefusal(error: unknown): boolean {
  return error instanceof Error && error.name === REFUSAL;
}

function newProgram(argv: readonly string[], world: World): Argv {
  return yargs([...argv], world.cwd)
    .scriptName('adder')
    .usage(`adder: know what your build adds\n\nUsage: $0 COMMAND [OPTIONS]\n\nCommands:\n${LIST}`)
    .epilogue(
      'adder COMMAND --help shows arguments, options and examples.\n\nExit codes: 0 no findings, 1 findings, 2 the command line, contract or a layer is wrong,\n3 something could not be checked.',
    )
    .parserConfiguration({
      'parse-positional-numbers': false,
      'parse-numbers': false,
      'camel-case-expansion': false,
      'dot-notation': false,
      'greedy-arrays': false,
      'boolean-negation': false,
      'populate--': true,
    })
    .help('help', 'Show help')
    .alias('h', 'help')
    .version('version', 'Show version', VERSION)
    .wrap(helpWidth(world))
    .strict()
    .exitProcess(false)
    .demandCommand(1)
    .fail((message, error) => {
      throw error ?? Object.assign(new Error(message), { name: REFUSAL });
    });
}

/**
 * yargs renders the help before every command, in case the command fails later and wants to show it. Adder's commands do
 * not, and rendering takes longer than parsing.
 */
function withoutSpareHelp(program: Argv): Argv {
  const usage = (program as unknown as YargsInternals).getInternalMethods().getUsageInstance();
  usage.cacheHelpMessage = () => undefined;
  return program;
}

interface YargsInternals {
  getInternalMethods(): { getUsageInstance(): { cacheHelpMessage(): void } };
}

/** Options may come before the command. */
function commandFirst(argv: readonly string[]): readonly string[] {
  const name = positionalsIn(ownWords(argv))[0];
  if (name === undefined || argv[0] === name) return argv;
  const at = argv.indexOf(name);
  return [name, ...argv.slice(0, at), ...argv.slice(at + 1)];
}

/** The words before `--`. */
function ownWords(argv: readonly string[]): readonly string[] {
  const end = argv.indexOf('--');
  return end < 0 ? argv : argv.slice(0, end);
}

/** Tells yargs about a command's options and arguments, for its strict mode. */
function declareCommand(program: Argv, { positionals, options: names }: Command): Argv {
  for (const { name } of positionals) program.positional(name.toLowerCase(), { type: 'string' });
  return program.options(Object.fromEntries(names.map((name) => [name, typeSettingsOf(name)])));
}

/** Tells yargs about a command's options, arguments and examples, for its help. */
function describeCommand(program: Argv, command: Command): Argv {
  const { name, about, positionals, examples, kinds = [] } = command;
  const listed = kinds.length === 0 ? '' : `\n\n${kinds.map(([word, meaning]) => `- ${word}: ${meaning}`).join('\n')}`;
  // In yargs' own columns a long command line would be broken.
  const lines = examples.map(([call, meaning]) => `  # ${meaning}\n  ${call}`);
  program.usage(`${usageOf(name)}\n\n${about}${listed}`).epilogue(`Examples:\n${lines.join('\n')}`);
  for (const { name: positional, help } of positionals)
    program.positional(positional.toLowerCase(), { type: 'string', describe: help });
  for (const group of optionGroups) {
    const inGroup = command.options.filter((option) => options[option].group === group);
    program.group([...inGroup, ...(group === 'General' ? ['help', 'version'] : [])], `${group}:`);
  }
  for (const option of command.options) program.option(option, settingsOf(command, option));
  return program;
}

function settingsOf(command: Command, name: OptionName) {
  const { schema }: OptionEntry = options[name];
  const words = wordsOf(name);
  const describe = describeOption(command, name);
  const usual = words.length === 0 ? '' : `: ${joinWords(words, 'or')} (default: ${schema().parse(undefined)})`;
  return { ...typeSettingsOf(name), describe: describe + usual };
}

/** An option with a list of words accepts an empty value here, so that the error message can list the words. */
function typeSettingsOf(name: OptionName) {
  const { type }: OptionEntry = options[name];
  return { type, ...(type !== 'boolean' && wordsOf(name).length === 0 && { requiresArg: true }) };
}

/** Checks what yargs parsed. @throws Failure with the known names or values */
function checkCall(command: Command, parsed: Arguments & { '--'?: string[] }): Omit<Call, 'world'> {
  const words = command.positionals.flatMap(({ name }) => parsed[name.toLowerCase()] ?? []) as string[];
  const rest = parsed['--'];
  const { needs } = command;
  if (rest !== undefined && !command.takesRest)
    throw new Failure(`adder ${command.name} takes no command after --`, `usage: ${usageOf(command.name)}`);
  if (needs && words.length < needs.count)
    throw new Failure(`adder ${command.name} needs ${needs.what}`, `usage: ${usageOf(command.name)}`);
  const checked = command.options.map((name) => [name, checkOption(name, parsed[name])]);
  return { words: words.map(String), rest: rest ?? [], options: Object.fromEntries(checked) };
}

function checkOption(name: OptionName, given: Argument): unknown {
  const { schema, type, range = 'a value' }: OptionEntry = options[name];
  // The last one wins, as in most programs.
  const value = type !== 'array' && Array.isArray(given) ? given.at(-1) : given;
  if (isEmpty(value)) throw missingValue(name);
  const checked = schema().safeParse(value);
  if (checked.success) return checked.data;
  const known = wordsOf(name);
  const text = String(value ?? '');
  const shown = echoed(text, known);
  const remedy = known.length === 0 ? `use ${range}` : suggest(text, known);
  throw new Failure(shown ? `--${name} cannot be ${shown}` : `--${name} has an invalid value`, remedy);
}

function isEmpty(value: Argument): boolean {
  return Array.isArray(value) ? value.includes('') : value === '';
}

function missingValue(name: string): Failure {
  const { value = 'VALUE' }: OptionEntry = options[name as OptionName];
  return new Failure(`--${name} needs a value`, `write --${name} ${value}`);
}

/**
 * Why yargs refused a command line, in Adder's words: its own messages repeat what was typed, which may be a secret in the
 * wrong place.
 * @param words before `--` @param command absent if there is none of the name
 */
function explain(words: readonly string[], command: Command | undefined): Failure {
  const [name = '', ...extra] = positionalsIn(words);
  const given = words.flatMap((word, index) => {
    const [, dashes = '', name = ''] = /^(--?)([^=]+)/.exec(word) ?? [];
    return dashes === '' ? [] : [{ dashes, name, next: word.includes('=') ? '' : (words[index + 1] ?? '-') }];
  });
  const known: readonly string[] = [...(command?.options ?? Object.keys(options)), 'help', 'h', 'version'];
  const unknown = given.find(({ name }) => !known.includes(name));
  if (unknown) return unknownOption(command?.name, known, unknown);
  if (!command) return unknownCommand(name);
  const empty = given.find(({ name, next }) => options[name as OptionName]?.type !== 'boolean' && next.startsWith('-'));
  return empty ? missingValue(empty.name) : tooManyArguments(command, extra.length);
}

function unknownCommand(name: string): Failure {
  const names = Object.keys(commands);
  if (name === '') return new Failure('no command given', '`adder --help` lists the commands');
  return new Failure(`unknown command ${echoed(name, names) ?? ''}`.trim(), suggest(name, names));
}

function unknownOption(
  command: string | undefined,
  known: readonly string[],
  { dashes, name }: { dashes: string; name: string },
): Failure {
  const program = command === undefined ? 'adder' : `adder ${command}`;
  const near = nearest(name, known).map((one) => `--${one}`);
  const shown = echoed(name, known) && `${dashes}${name}`;
  const remedy = near.length > 0 ? `did you mean ${joinWords(near, 'or')}?` : `\`${program} --help\` lists its options`;
  return new Failure(`${program} has no ${shown ? `option ${shown}` : 'such option'}`, remedy);
}

/** `adder with production npm run build` lacks the `--`. */
function tooManyArguments({ name, positionals }: Command, number: number): Failure {
  const usage = usageOf(name);
  const most = positionals.length === 0 ? 'no arguments' : `at most ${count(positionals.length, 'argument')}`;
  if (name === 'with')
    return new Failure('adder with takes one argument, the stage', `put -- before the command: ${usage}`);
  return new Failure(`adder ${name} takes ${most}, not ${number}`, `usage: ${usage}`);
}
