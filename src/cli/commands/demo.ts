import { type Call, defineCommand } from '../command.js';

const options = ['story', 'install', 'color', 'debug'] as const;

/** The call of this command. */
export type DemoCall = Call<(typeof options)[number]>;

export const demo = defineCommand({
  name: 'demo',
  positionals: [{ name: 'DIR', help: 'An empty or new directory (default: a temporary one)' }],
  about: 'Creates the demo project, the web shop and crew app of an island ferry line, and runs a story on it:',
  kinds: [
    ['build', 'a missing value, a refused build, a leak and its fix, and a stale bundle'],
    ['adopt', 'a project full of env files gets its contract'],
    ['lint', 'each mistake once, in code and repository'],
    ['promote', 'one build for staging and production'],
    ['mobile', 'an app whose compiler takes values from a file'],
    ['ship', 'each mistake once in built files, and reports of it'],
    ['serve', 'a hosting platform, a served site, and the gate'],
    ['trial', 'where each value goes, by a build with made-up ones'],
  ],
  options,
  examples: [
    ['adder demo', 'in a temporary directory'],
    ['adder demo --story adopt', 'from a mess of files to a contract'],
    ['adder demo ferries --install', 'in a directory of your own, with packages from npm'],
  ],
  load: async () => (await import('../run/demo.js')).run,
});
