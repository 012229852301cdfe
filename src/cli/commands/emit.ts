import { emitKinds } from '../../core/emit/index.js';
import { type Call, defineCommand } from '../command.js';

const options = [
  'contract',
  'stage',
  'bundle',
  'side',
  'with-values',
  'with-build',
  'as',
  'into',
  'save',
  'replace',
  'check',
  'color',
  'debug',
] as const;

/** The call of this command. */
export type EmitCall = Call<(typeof options)[number]>;

export const emit = defineCommand({
  name: 'emit',
  positionals: [{ name: 'KIND', help: 'What to generate', completes: 'kind' }],
  about: 'Generates a file for another tool, of one of these kinds:',
  kinds: emitKinds.map(({ name, summary }) => [name, summary] as const),
  meanings: {
    stage: 'The stage that the values are from',
    bundle: 'The bundle that the file is for (default: the only one)',
    save: 'Write the output to this file and print nothing',
  },
  options,
  examples: [
    ['adder emit types --save web/src/env.d.ts', 'names for the editor'],
    ['adder emit types --save web/src/env.d.ts --check', 'exit code 1 if the file is out of date'],
    ['adder emit module --side server --save server/values.ts', 'typed accessors for the server'],
    [
      'adder emit module --with-values --stage staging --save src/values.staging.ts',
      'for a build that replaces files per stage',
    ],
    ['adder emit runtime --stage production --into web/dist', 'put the values of a stage into a finished build'],
    ['adder emit launch --into .vscode', 'run configurations per stage in the editor'],
    ['adder emit needs --stage production --as env', 'what pipeline and host provide'],
  ],
  load: async () => (await import('../run/emit.js')).run,
});
