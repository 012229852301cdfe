import { Failure } from '../../core/findings/failure.js';
import { suggest } from '../../core/text/nearest.js';
import type { CompletionCall } from '../commands/completion.js';

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

/** Runs the command. @returns the exit code */
export async function run({ words: [shell = ''], world }: CompletionCall): Promise<number> {
  const script = scripts[shell];
  if (script === undefined) throw new Failure('unknown shell', suggest(shell, shells));
  world.stdout.pass(script);
  return 0;
}
