import { table } from '../text/table.js';

/** What a command does, as far as its words say: it builds, or runs a server until it is stopped. */
export type CommandKind = 'build' | 'dev server' | 'server';

const runners = /^(npm|pnpm|yarn|bun|npx|bunx|pnpx|deno)$/;
const fillers = /^(run|run-script|exec|dlx|x|--|task)$/;

/** Programs to the words that make them serve; an empty string stands for no word. */
const servers: Readonly<Record<string, { dev: readonly string[]; serve: readonly string[] }>> = table({
  vite: { dev: ['', 'dev', 'serve'], serve: ['preview'] },
  next: { dev: ['dev'], serve: ['start'] },
  nuxt: { dev: ['dev'], serve: ['preview', 'start'] },
  nuxi: { dev: ['dev'], serve: ['preview', 'start'] },
  astro: { dev: ['dev'], serve: ['preview'] },
  gatsby: { dev: ['develop'], serve: ['serve'] },
  ng: { dev: ['serve'], serve: [] },
  webpack: { dev: ['serve', '--watch'], serve: [] },
  rsbuild: { dev: ['', 'dev'], serve: ['preview'] },
  vitepress: { dev: ['', 'dev'], serve: ['preview', 'serve'] },
  wxt: { dev: [''], serve: [] },
  'electron-vite': { dev: ['', 'dev', 'serve'], serve: ['preview'] },
  rspack: { dev: ['serve', 'dev'], serve: ['preview'] },
  'react-scripts': { dev: ['start'], serve: [] },
  'vue-cli-service': { dev: ['serve'], serve: [] },
  'react-router': { dev: ['dev'], serve: [] },
  'react-router-serve': { dev: [], serve: ['*'] },
  parcel: { dev: ['', 'serve', 'watch'], serve: [] },
  expo: { dev: ['start'], serve: [] },
  metro: { dev: ['serve'], serve: [] },
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
