import type { World } from '../host/world.js';
import type { OptionName, OptionValues } from './options.js';

/** What a command gets: its words, its options as they were checked, and the world. */
export interface Call<Name extends OptionName = OptionName> {
  words: readonly string[];
  /** What stands behind `--`, untouched. */
  rest: readonly string[];
  options: OptionValues<Name>;
  world: World;
}

/** One command. Everything about its call is here; `run` calls core and prints, and computes nothing itself. */
export interface Command<Name extends OptionName = OptionName> {
  name: string;
  /** The words behind the name, as the help shows them. */
  words: string;
  /** Fewest and most words. */
  arity: readonly [number, number];
  /** Whether a command of its own follows behind `--`. */
  takesRest?: boolean;
  /** The question that it answers. */
  about: string;
  /** What its first word may be, and what each of them means. */
  kinds?: readonly (readonly [word: string, meaning: string])[];
  /** Where an option means something of its own here. */
  meanings?: Readonly<Partial<Record<Name, string>>>;
  options: readonly Name[];
  examples: readonly (readonly [call: string, about: string])[];
  /** @returns the exit code */
  run(call: Call<Name>): Promise<number>;
}

export function defineCommand<const Name extends OptionName>(command: Command<Name>): Command<Name> {
  return command;
}
