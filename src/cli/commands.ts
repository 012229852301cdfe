import { table } from '../core/text/table.js';
import type { Command } from './command.js';

interface CommandEntry {
  /** One line for the list of commands. */
  summary: string;
  load(): Promise<Command>;
}

/** Every command. Each one's code is loaded when it is called. */
export const commands: Readonly<Record<string, CommandEntry>> = table({
  draft: {
    summary: 'What do I have? Writes a first contract from the project as it is',
    load: async () => (await import('./draft.js')).draftContract,
  },
  values: {
    summary: 'What will each variable be, and where does it come from?',
    load: async () => (await import('./values.js')).values,
  },
  why: {
    summary: 'One variable: where its value comes from, and where it goes',
    load: async () => (await import('./why.js')).whyValue,
  },
  compare: {
    summary: 'Two stages side by side: what only one has, and what differs',
    load: async () => (await import('./compare.js')).compareStages,
  },
  fill: {
    summary: 'What is still missing on this machine? Asks for it, and writes it down',
    load: async () => (await import('./fill.js')).fill,
  },
  lint: {
    summary: 'Is the code and the repository in order with the contract?',
    load: async () => (await import('./lint.js')).lint,
  },
  emit: {
    summary: 'Files for others: types, accessors, defines, what a host must provide',
    load: async () => (await import('./emit.js')).emit,
  },
  with: {
    summary: 'Run a build with exactly the values that it may have',
    load: async () => (await import('./with.js')).withValues,
  },
  inspect: {
    summary: 'What is in the artifacts that must not be, or is out of date?',
    load: async () => (await import('./inspect.js')).inspectArtifacts,
  },
  demo: {
    summary: 'Lay out the demo project, and run the whole story on it',
    load: async () => (await import('./demo.js')).demo,
  },
});
