import { EXIT, Failure, FindingsFailure } from '../core/findings/failure.js';
import { BinaryMissing } from '../core/syntax/binary-missing.js';
import { displayText } from '../core/text/display.js';
import { describeFileError } from '../host/files.js';
import type { World } from '../host/world.js';
import type { Call } from './command.js';

/** Runs a command line. @returns the exit code */
export async function main(argv: readonly string[], world: World): Promise<number> {
  const debug = argv.includes('--debug');
  try {
    return await run(argv, world);
  } catch (error) {
    return await fail(error, debug, world);
  }
}

async function run(argv: readonly string[], world: World): Promise<number> {
  if (argv[0] === '__complete') {
    const { completionsFor } = await import('./complete.js');
    world.stdout.pass((await completionsFor(argv.slice(1), world)).map((name) => `${name}\n`).join(''));
    return EXIT.fine;
  }
  if (argv.length === 0) return await runOverview(world);
  const [{ parseCall }, { positionalsIn }] = await Promise.all([import('./parse.js'), import('./options.js')]);
  const parsed = await parseCall(withCommand(argv, positionalsIn(argv).length > 0), world);
  if (parsed.kind === 'output') {
    world.stdout.write(parsed.text);
    return EXIT.fine;
  }
  const { command, call } = parsed;
  try {
    const run = await command.load();
    return await run({ ...call, world });
  } catch (error) {
    if (error instanceof FindingsFailure) return await printFailure(error, command.name, call, world);
    throw error;
  }
}

/** The usual call of people who want to know where they are. It parses no command line, which would take half of its time. */
async function runOverview(world: World): Promise<number> {
  const { run } = await import('./run/overview.js');
  return run({
    words: [],
    rest: [],
    options: { contract: undefined, format: 'text', color: 'auto', debug: false },
    world,
  });
}

/** `adder help lint` is `adder lint --help`, and options of the overview alone are a call of it. */
function withCommand(argv: readonly string[], hasWords: boolean): readonly string[] {
  if (argv[0] === 'help') return [...argv.slice(1), '--help'];
  const isOverview = argv.every((word) => !word.startsWith('-') || /^--(contract|format|color|debug)(=|$)/.test(word));
  return isOverview && !hasWords ? ['overview', ...argv] : argv;
}

/** An invalid contract is reported like findings, with another exit code. */
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
  // A summary alone would not say what is wrong with the contract.
  await printReport(failureReport(command, failure), { ...usual, ...options, quiet: false }, world);
  return failure.exitCode;
}

async function fail(error: unknown, debug: boolean, world: World): Promise<number> {
  const failure = error instanceof Failure ? error : (binaryFailure(error) ?? fileFailure(error));
  if (failure) {
    const { message, remedy, exitCode } = failure;
    const lines = message.split('\n').map(displayText).join('\n');
    world.stderr.write(`adder: ${lines}\n${remedy ? `  → ${displayText(remedy)}\n` : ''}`);
    return exitCode;
  }
  world.stderr.write(`adder: ${describeDefect(error, debug)}\n`);
  return EXIT.defect;
}

function binaryFailure(error: unknown): Failure | undefined {
  return error instanceof BinaryMissing
    ? new Failure(`source code ${error.message}`, error.remedy, EXIT.unread)
    : undefined;
}

/** An error of the file system is a failure that names the path, not a defect. */
function fileFailure(error: unknown): Failure | undefined {
  const { code, path, syscall } = (error ?? {}) as NodeJS.ErrnoException;
  if (!(error instanceof Error) || !code || !/^E[A-Z]+$/.test(code) || syscall?.startsWith('spawn')) return undefined;
  if (path === undefined && code !== 'ENOSPC') return undefined;
  return new Failure(
    `${path ?? 'a file'} ${describeFileError(error)}`,
    'check the path and its permissions',
    EXIT.unread,
  );
}

/** The message of a defect may contain values, so only the error's name and Adder's own stack frames are shown. */
function describeDefect(error: unknown, debug: boolean): string {
  const name = error instanceof Error ? error.name : typeof error;
  const code = (error as NodeJS.ErrnoException | undefined)?.code;
  const line = `unexpected failure (${[name, code].filter(Boolean).join(' ')}); this is a bug in Adder`;
  if (!debug) return `${line}; run with --debug to see where`;
  const stack = error instanceof Error ? (error.stack ?? '') : '';
  return [line, ...stack.split('\n').filter((one) => /^\s+at /.test(one))].join('\n');
}
