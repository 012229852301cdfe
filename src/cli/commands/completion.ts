import { type Call, defineCommand } from '../command.js';

const options = ['debug'] as const;

/** The call of this command. */
export type CompletionCall = Call<(typeof options)[number]>;

export const completion = defineCommand({
  name: 'completion',
  positionals: [{ name: 'SHELL', help: 'bash, zsh or fish', completes: 'shell' }],
  needs: { count: 1, what: 'a shell: bash, zsh or fish' },
  about: 'Prints a script that completes commands, options, stages, bundles, variables and codes in a shell.',
  options,
  examples: [
    ['adder completion bash >> ~/.bashrc', 'for bash'],
    ['adder completion zsh >> ~/.zshrc', 'for zsh'],
    ['adder completion fish > ~/.config/fish/completions/adder.fish', 'for fish'],
  ],
  load: async () => (await import('../run/completion.js')).run,
});
