import type { World } from '../host/world.js';
import { type OptionName, type OptionValues, options } from './options.js';

/** Input of a command: its arguments, its checked options, and the world. */
export interface Call<Name extends OptionName = OptionName> {
  /** Positional arguments. */
  words: readonly string[];
  /** Everything after `--`, unchanged. */
  rest: readonly string[];
  options: OptionValues<Name>;
  world: World;
}

/** A positional argument, in its order. */
export interface Positional {
  /** The name in the help, in upper case. */
  name: string;
  help: string;
  completes?: 'stage' | 'variable' | 'kind' | 'shell';
}

/** A command as help, completion and parsing need it. Its code is a module of its own, which only a call loads. */
export interface Command<Name extends OptionName = OptionName> {
  name: string;
  positionals: readonly Positional[];
  /** Positional arguments that a call must have, in words: "two stages". Fewer is an error. */
  needs?: { count: number; what: string };
  /** True if another program's command follows after `--`. */
  takesRest?: boolean;
  /** Description of the command, in sentences. */
  about: string;
  /** Words for the first argument, with their meanings. */
  kinds?: readonly (readonly [word: string, meaning: string])[];
  /** Help for options that mean something special here. */
  meanings?: Readonly<Partial<Record<Name, string>>>;
  options: readonly Name[];
  examples: readonly (readonly [call: string, about: string])[];
  /** Loads what it does: a function that calls core and prints, computes nothing, and returns the exit code. */
  load(): Promise<(call: Call<Name>) => Promise<number>>;
}

export function defineCommand<const Name extends OptionName>(command: Command<Name>): Command<Name> {
  return command;
}

/** The help of an option of a command. */
export function describeOption({ meanings }: Command, name: OptionName): string {
  return meanings?.[name] ?? options[name].help;
}
