import { padEnd, wrap } from '../../core/report/layout.js';
import { table } from '../../core/text/table.js';
import type { Command } from '../command.js';

export interface CommandEntry {
  /** The command with its positional arguments, in the notation of yargs. */
  usage: string;
  /** The same in the notation of the help, if it says more. */
  shown?: string;
  /** One line for the list of commands. */
  summary: string;
  load(): Promise<Command>;
}

/** Every command, one entry each. Its code is loaded when it is called. */
export const commands: Readonly<Record<string, CommandEntry>> = table({
  overview: {
    usage: 'overview',
    summary: 'Show where the project stands; the command for no command',
    load: async () => (await import('./overview.js')).showOverview,
  },
  draft: {
    usage: 'draft',
    summary: 'Write a first contract from the files of a project',
    load: async () => (await import('./draft.js')).draftContract,
  },
  values: {
    usage: 'values [stage] [names..]',
    shown: 'values (STAGE [NAME...] | --all)',
    summary: 'Show the value of each variable, and where it comes from',
    load: async () => (await import('./values.js')).values,
  },
  why: {
    usage: 'why [name]',
    shown: 'why NAME',
    summary: 'Follow one variable through layers, stages, bundles and code',
    load: async () => (await import('./why.js')).whyValue,
  },
  compare: {
    usage: 'compare [first] [second]',
    shown: 'compare (STAGE | RECEIPT) (STAGE | RECEIPT)',
    summary: 'Compare two stages, two builds, or a build and a stage',
    load: async () => (await import('./compare.js')).compareStages,
  },
  fill: {
    usage: 'fill [stage]',
    shown: 'fill STAGE',
    summary: 'Ask for missing values and write them to a local env file',
    load: async () => (await import('./fill.js')).fill,
  },
  lint: {
    usage: 'lint',
    summary: 'Check code and repository against the contract',
    load: async () => (await import('./lint.js')).lint,
  },
  emit: {
    usage: 'emit [kind]',
    shown: 'emit KIND',
    summary: 'Generate types, accessors, defines and other files',
    load: async () => (await import('./emit.js')).emit,
  },
  trial: {
    usage: 'trial [stage]',
    shown: 'trial STAGE [-- COMMAND...]',
    summary: 'Build a copy with made-up values, and see where each arrives',
    load: async () => (await import('./trial.js')).trialBuild,
  },
  with: {
    usage: 'with [stage]',
    shown: 'with STAGE [-- COMMAND...]',
    summary: 'Run a build with exactly the values that it may have',
    load: async () => (await import('./with.js')).withValues,
  },
  inspect: {
    usage: 'inspect [paths..]',
    shown: 'inspect [PATH...]',
    summary: 'Search built files for secrets, wrong values and old values',
    load: async () => (await import('./inspect.js')).inspectArtifacts,
  },
  probe: {
    usage: 'probe [url]',
    shown: 'probe [URL]',
    summary: 'Check a served site, and which build it serves',
    load: async () => (await import('./probe.js')).probeSite,
  },
  gate: {
    usage: 'gate [stage]',
    shown: 'gate STAGE',
    summary: 'Run all checks for a stage in one call, for a pipeline',
    load: async () => (await import('./gate.js')).gate,
  },
  handoff: {
    usage: 'handoff [stage] [names..]',
    shown: 'handoff STAGE [NAME...]',
    summary: 'Compare the values on hosts with what a stage needs',
    load: async () => (await import('./handoff.js')).handOff,
  },
  retire: {
    usage: 'retire [name]',
    shown: 'retire NAME',
    summary: 'Mark a present value as replaced, before you change it',
    load: async () => (await import('./retire.js')).retire,
  },
  history: {
    usage: 'history [name]',
    shown: 'history [NAME]',
    summary: 'List the values that variables had, without the values',
    load: async () => (await import('./history.js')).history,
  },
  key: {
    usage: 'key',
    summary: "Show, create or replace the project's key",
    load: async () => (await import('./key.js')).projectKey,
  },
  accept: {
    usage: 'accept [fingerprints..]',
    shown: 'accept (FINGERPRINT... | --all) --because TEXT',
    summary: 'Accept findings, with a reason and an end date',
    load: async () => (await import('./accept.js')).accept,
  },
  show: {
    usage: 'show [reports..]',
    shown: 'show REPORT...',
    summary: 'Print saved reports again, in any format, merged',
    load: async () => (await import('./show.js')).show,
  },
  completion: {
    usage: 'completion [shell]',
    shown: 'completion SHELL',
    summary: 'Print a completion script for bash, zsh or fish',
    load: async () => (await import('./completion.js')).completion,
  },
  demo: {
    usage: 'demo [dir]',
    shown: 'demo [DIR]',
    summary: 'Create the demo project and run a story on it',
    load: async () => (await import('./demo.js')).demo,
  },
});

/** The command line of a command, as help and errors show it. */
export function usageOf(name: string): string {
  const { shown, usage } = commands[name] as CommandEntry;
  return `adder ${shown ?? usage}`;
}

/** The commands with their arguments, for the help. Only the first of several ways to call a command is listed. */
export function commandList(width: number): string {
  const rows = Object.values(commands).map(({ shown, usage, summary }) => {
    const call = (shown ?? usage).replace(/\(([^|()]*?) \| [^()]*\)/g, '$1');
    return { call, summary };
  });
  const widest = Math.max(...rows.map(({ call }) => call.length)) + 4;
  return rows
    .flatMap(({ call, summary }) =>
      wrap(summary, width - widest).map((line, index) => padEnd(index === 0 ? `  ${call}` : '', widest) + line),
    )
    .join('\n');
}
