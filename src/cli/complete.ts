import { emitKinds } from '../core/emit/index.js';
import { codes } from '../core/findings/codes.js';
import type { World } from '../host/world.js';
import { openProject, type Project } from '../project/open.js';
import type { Positional } from './command.js';
import { commands } from './commands/index.js';
import { type OptionEntry, type OptionName, options, positionalsIn, wordsOf } from './options.js';
import { shells } from './run/completion.js';

/** Lists the words that can be at the cursor. @param words after `adder`, the last one possibly empty or incomplete */
export async function completionsFor(words: readonly string[], world: World): Promise<string[]> {
  const [before = '', current = ''] = [words.at(-2), words.at(-1)];
  const isCommand = words.length <= 1 && !current.startsWith('-');
  const found = isCommand ? Object.keys(commands) : await inCommand(words, before, current, world);
  return found.filter((name) => name.startsWith(current));
}

async function inCommand(words: readonly string[], before: string, current: string, world: World): Promise<string[]> {
  const command = await commands[words[0] ?? '']?.load();
  if (!command || words.slice(0, -1).includes('--')) return [];
  const option = command.options.find((name) => before === `--${name}`);
  if (option !== undefined && options[option].type !== 'boolean') return valuesOf(option, world);
  if (current.startsWith('-')) return [...command.options, 'help'].map((name) => `--${name}`);
  const { positionals } = command;
  const given = positionalsIn(words.slice(1, -1)).length;
  const positional = positionals[Math.min(given, positionals.length - 1)];
  return positional?.completes ? namesOf(positional.completes, world) : [];
}

function valuesOf(name: OptionName, world: World): string[] {
  const { completes }: OptionEntry = options[name];
  return completes ? namesOf(completes, world) : [...wordsOf(name)];
}

function namesOf(kind: NonNullable<Positional['completes'] | OptionEntry['completes']>, world: World): string[] {
  if (kind === 'code') return Object.keys(codes);
  if (kind === 'kind') return emitKinds.map(({ name }) => name);
  if (kind === 'shell') return [...shells];
  const contract = contractOf(world);
  if (!contract) return [];
  const { stages, bundles, variables, hosts } = contract;
  return [...{ stage: stages, bundle: bundles, variable: variables, host: hosts }[kind].keys()];
}

/** Without a readable contract there is nothing to complete, and no place for an error. */
function contractOf(world: World): Project['contract'] | undefined {
  try {
    return openProject(world).contract;
  } catch {
    return undefined;
  }
}
