import { Failure } from '../core/findings/failure.js';
import { suggest } from '../core/text/nearest.js';
import { defineCommand } from './command.js';

/** Asks the program itself, so that stages, bundles and variables are those of the project. One entry per shell. */
const scripts: Readonly<Record<string, string>> = {
  bash: `_adder_complete() {
  local IFS=$'\\n'
  COMPREPLY=($(compgen -W "$(adder __complete "\${COMP_WORDS[@]:1:COMP_CWORD}" 2>/dev/null)" -- "\${COMP_WORDS[COMP_CWORD]}"))
}
complete -o default -F _adder_complete adder
`,
  zsh: `#compdef adder
_adder() {
  local -a found
  found=("\${(@f)$(adder __complete "\${words[@]:1:$((CURRENT-1))}" 2>/dev/null)}")
  compadd -a found || _files
}
compdef _adder adder
`,
  fish: `complete -c adder -f -a '(adder __complete (commandline -opc)[2..] (commandline -ct) 2>/dev/null)'
`,
};

/** The shells that have a script. */
export const shells: readonly string[] = Object.keys(scripts);

const install: Readonly<Record<string, string>> = {
  bash: 'adder completion bash >> ~/.bashrc',
  zsh: 'adder completion zsh >> ~/.zshrc',
  fish: 'adder completion fish > ~/.config/fish/completions/adder.fish',
};

export const completion = defineCommand({
  name: 'completion',
  positionals: [{ name: 'SHELL', help: 'bash, zsh or fish', completes: 'shell' }],
  needs: { count: 1, what: 'a shell: bash, zsh or fish' },
  about: 'Prints a script that completes commands, options, stages, bundles, variables and codes in a shell.',
  options: ['debug'],
  examples: Object.entries(install).map(([shell, call]) => [call, `for ${shell}`] as const),
  async run({ words: [shell = ''], world }) {
    const script = scripts[shell];
    if (script === undefined) throw new Failure('unknown shell', suggest(shell, shells));
    world.stdout.pass(script);
    return 0;
  },
});
