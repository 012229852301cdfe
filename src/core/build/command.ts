import { table } from '../text/table.js';
import { toolchains } from '../toolchains/index.js';
import type { ServerCommands } from '../toolchains/toolchain.js';

/** Purpose of a command, as far as its words say: it builds, or runs a server until it is stopped. */
export type CommandKind = 'build' | 'dev server' | 'server';

const runners = /^(npm|pnpm|yarn|bun|npx|bunx|pnpx|deno)$/;
const fillers = /^(run|run-script|exec|dlx|x|--|task)$/;

/** Programs to the words that make them serve; an empty string stands for no word. */
const servers: Readonly<Record<string, ServerCommands>> = table({
  ...(Object.assign({}, ...Object.values(toolchains).map(({ programs }) => programs)) as Record<
    string,
    ServerCommands
  >),
  serve: { dev: [], serve: ['*'] },
  nodemon: { dev: ['*'], serve: [] },
});

/**
 * Recognises commands that start a server, also as package scripts by their usual names.
 * @param words the command and its arguments
 */
export function kindOfCommand(words: readonly string[]): CommandKind {
  const [program = '', ...rest] = words.map((word) => word.replace(/^.*[\\/]/, '').replace(/\.(cmd|exe|js)$/, ''));
  if (runners.test(program))
    return ofScript(
      program,
      rest.filter((word) => !fillers.test(word) && !/^-/.test(word)),
    );
  const known = servers[program];
  if (!known) return 'build';
  const word = rest.find((one) => !/^-/.test(one) || one === '--watch') ?? '';
  if (known.dev.includes('*') || known.dev.includes(word)) return 'dev server';
  return known.serve.includes('*') || known.serve.includes(word) ? 'server' : 'build';
}

function ofScript(runner: string, [script = '', ...rest]: readonly string[]): CommandKind {
  if (servers[script]) return kindOfCommand([script, ...rest]);
  if (/^(npx|bunx|pnpx)$/.test(runner)) return 'build';
  if (/^(dev|develop|watch)(:|$)/.test(script)) return 'dev server';
  return /^(start|serve|preview)(:|$)/.test(script) ? 'server' : 'build';
}
