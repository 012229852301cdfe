import { EXIT, Failure, FindingsFailure } from '../core/findings/failure.js';
import { displayText } from '../core/text/display.js';
import { echoed, suggest } from '../core/text/nearest.js';
import type { World } from '../host/world.js';
import { VERSION } from '../version.js';
import type { Call, Command } from './command.js';
import { commands } from './commands.js';

/** The whole program: words in, exit code out. */
export async function main(argv: readonly string[], world: World): Promise<number> {
  const debug = argv.includes('--debug');
  try {
    return await run(argv, world);
  } catch (error) {
    return await fail(error, debug, world);
  }
}

async function run(argv: readonly string[], world: World): Promise<number> {
  const [first, ...others] = argv;
  if (first === '--version') {
    world.stdout.write(`${VERSION}\n`);
    return EXIT.fine;
  }
  if (first === undefined || first === '--help' || first === 'help') {
    const asked = first === 'help' ? others[0] : undefined;
    world.stdout.write(asked === undefined ? overview() : await helpOf(asked));
    return first === undefined ? EXIT.call : EXIT.fine;
  }
  if (first.startsWith('-'))
    throw new Failure('the command comes first, then its options', 'adder --help lists the commands');
  const command = await loadCommand(first);
  const end = others.indexOf('--');
  const own = end < 0 ? others : others.slice(0, end);
  if (own.includes('--help')) {
    world.stdout.write(await helpOf(first));
    return EXIT.fine;
  }
  const { parseCall } = await import('./parse.js');
  const call = parseCall(command, own, end < 0 ? undefined : others.slice(end + 1));
  try {
    return await command.run({ ...call, world });
  } catch (error) {
    if (error instanceof FindingsFailure) return await printFailure(error, first, call, world);
    throw error;
  }
}

/** A contract that could not be understood is a report as any other, but for its exit code. */
async function printFailure(
  failure: FindingsFailure,
  command: string,
  { options }: Omit<Call, 'world'>,
  world: World,
): Promise<number> {
  const { failureReport } = await import('../core/report/findings.js');
  const { printReport } = await import('./print.js');
  const { defaultsOf, reportOptions } = await import('./options.js');
  // Commands that print no reports have none of their options.
  const usual = defaultsOf([...reportOptions, 'color']);
  await printReport(failureReport(command, failure), { ...usual, ...options }, world);
  return failure.exitCode;
}

async function loadCommand(name: string): Promise<Command> {
  const entry = commands[name];
  if (!entry) {
    const names = Object.keys(commands);
    throw new Failure(`there is no command ${echoed(name, names) ?? 'of that name'}`, suggest(name, names));
  }
  return (await entry.load()) as Command;
}

async function helpOf(name: string): Promise<string> {
  const command = await loadCommand(name);
  return (await import('./help.js')).commandHelp(command);
}

/** The list of commands, printed without loading any of them. */
function overview(): string {
  const width = Math.max(...Object.keys(commands).map(({ length }) => length)) + 3;
  const list = Object.entries(commands).map(([name, { summary }]) => `  ${name.padEnd(width)}${summary}`);
  return [
    'adder: know what your build adds',
    '',
    ...list,
    '',
    'adder COMMAND --help shows its words, options and examples; adder --version the version.',
    'Exit codes: 0 in order, 1 findings, 2 the call or the contract could not be understood, 3 something could not be read.',
    '',
  ].join('\n');
}

async function fail(error: unknown, debug: boolean, world: World): Promise<number> {
  const failure = error instanceof Failure ? error : await fileFailure(error);
  if (failure) {
    const { message, remedy, exitCode } = failure;
    const lines = message.split('\n').map(displayText).join('\n');
    world.stderr.write(`adder: ${lines}\n${remedy ? `  → ${displayText(remedy)}\n` : ''}`);
    return exitCode;
  }
  world.stderr.write(`adder: ${describeDefect(error, debug)}\n`);
  return EXIT.defect;
}

/** What a file system refused is no defect: the path is what the user can do something about. */
async function fileFailure(error: unknown): Promise<Failure | undefined> {
  const { code, path, syscall } = (error ?? {}) as NodeJS.ErrnoException;
  if (!(error instanceof Error) || !code || !/^E[A-Z]+$/.test(code) || syscall?.startsWith('spawn')) return undefined;
  if (path === undefined && code !== 'ENOSPC') return undefined;
  const { describeFileError } = await import('../host/files.js');
  return new Failure(
    `${path ?? 'a file'} ${describeFileError(error)}`,
    'check the path and its permissions',
    EXIT.unread,
  );
}

/** A defect's message may hold anything, values too, so only its kind and the places in Adder's own code are shown. */
function describeDefect(error: unknown, debug: boolean): string {
  const name = error instanceof Error ? error.name : typeof error;
  const code = (error as NodeJS.ErrnoException | undefined)?.code;
  const line = `unexpected failure (${[name, code].filter(Boolean).join(' ')}); this is a defect of Adder`;
  if (!debug) return `${line}; --debug shows where`;
  const stack = error instanceof Error ? (error.stack ?? '') : '';
  return [line, ...stack.split('\n').filter((one) => /^\s+at /.test(one))].join('\n');
}
