import { Writable } from 'node:stream';
import type { Bundle } from '../../core/contract/contract.js';
import { EXIT, Failure } from '../../core/findings/failure.js';
import type { Style } from '../../core/report/style.js';
import { type Task, taskLines } from '../../core/report/text-tasks.js';
import { count } from '../../core/text/display.js';
import { type LiveLines, liveLines } from '../../host/live-lines.js';
import type { World } from '../../host/world.js';
import { type BuildOutcome, runBuild } from '../../project/build.js';
import type { Project } from '../../project/open.js';
import { type PreparedBuild, prepareBuild } from '../../project/preflight.js';
import { shownCommand } from '../../project/record.js';
import { printOptions } from '../print-options.js';
import { ending, inspectBuild, receiptCopy, refuse, reportPreflight, type WithOptions } from './with-steps.js';

interface Job {
  prepared: PreparedBuild;
  command: readonly string[];
  task: Task;
  code: number;
}

/** Every bundle that the contract can build. @returns the first exit code that is not 0, in the order of the contract */
export async function buildAll(
  project: Project,
  stage: string,
  rest: readonly string[],
  options: WithOptions,
  world: World,
): Promise<number> {
  if (rest.length > 0 || options.bundle !== undefined)
    throw new Failure('--all builds every bundle with its own command', 'remove --all, or the command and --bundle');
  const bundles = [...project.contract.bundles.values()].filter(
    (one): one is Bundle & { build: readonly string[] } => one.build !== undefined,
  );
  if (bundles.length === 0)
    throw new Failure('no bundle in the contract has a build command', 'add one, such as `build: npm run build`');
  if (options.receipt !== undefined && bundles.length > 1 && !options.receipt.includes('{bundle}'))
    throw new Failure(
      '--receipt names one file, and --all builds several bundles',
      'add {bundle} to the name: --receipt receipts/{bundle}.json',
    );
  const jobs = bundles.map(({ name, build }): Job => {
    const prepared = prepareBuild(project, { stage, bundle: name }, world);
    return { prepared, command: build, task: { name, state: 'waiting' }, code: EXIT.fine };
  });
  const building = new Building(project, jobs, options, world);
  if (options.parallel > 1) await building.besideOneAnother(options.parallel);
  else await building.oneAfterTheOther();
  building.printOutcome();
  return jobs.find(({ code }) => code !== EXIT.fine)?.code ?? EXIT.fine;
}

class Building {
  readonly #style: Style;
  /** Set after Ctrl-C: no further build starts. */
  #interrupted = false;

  constructor(
    readonly project: Project,
    readonly jobs: readonly Job[],
    readonly options: WithOptions,
    readonly world: World,
  ) {
    this.#style = printOptions(options, world.stderr, world.env).style;
  }

  /** Each has the terminal to itself. */
  async oneAfterTheOther(): Promise<void> {
    for (const [index, job] of this.jobs.entries()) {
      const head = this.#style.strong(`${index + 1}/${this.jobs.length} ${job.task.name}`);
      this.world.stderr.write(`${head}  ${shownCommand(job.prepared, job.command).join(' ')}\n`);
      await this.#start(job);
      if (job.prepared.refused) continue;
      if (this.#interrupted) break;
      const outcome = await this.#run(job);
      if (!this.options.quiet && outcome) this.world.stderr.write(`${this.#style.dim(ending(outcome))}\n`);
      await this.#inspect(job);
    }
  }

  /** Each line starts with the name of its bundle. On a terminal, a list below shows the state of each build. */
  async besideOneAnother(most: number): Promise<void> {
    for (const job of this.jobs) await this.#start(job);
    const live = await liveLines(this.world.stderr, () => this.#lines());
    const waiting = this.jobs.filter(({ prepared }) => !prepared.refused);
    const worker = async () => {
      for (let job = waiting.shift(); job && !this.#interrupted; job = waiting.shift()) await this.#run(job, live);
    };
    await Promise.all(Array.from({ length: most }, worker));
    live.end();
    for (const job of this.jobs) await this.#inspect(job);
  }

  /** Result of each build. */
  printOutcome(): void {
    for (const job of this.jobs) if (job.task.state === 'waiting') job.code = EXIT.interrupted;
    const failed = this.jobs.filter(({ code }) => code !== EXIT.fine).map(({ task }) => task.name);
    const built = count(this.jobs.length - failed.length, 'bundle');
    const rest = failed.length > 0 ? `; failed: ${failed.join(', ')}` : '';
    for (const line of this.#lines()) this.world.stderr.write(`${line}\n`);
    this.world.stderr.write(`adder: ${built} of ${this.jobs.length} built${rest}\n`);
  }

  #lines(): string[] {
    const tasks = this.jobs.map(({ task }) => task);
    return ['', ...taskLines(tasks, this.world.now().getTime(), this.#style)];
  }

  async #start(job: Job): Promise<void> {
    if (!job.prepared.refused) return reportPreflight(job.prepared, this.options, this.world);
    job.code = await refuse(this.project, job.prepared, job.command, this.options, this.world);
    Object.assign(job.task, { state: 'refused', note: 'its values have errors' });
  }

  async #run(job: Job, live?: LiveLines): Promise<BuildOutcome | undefined> {
    const { prepared, command, task } = job;
    Object.assign(task, { state: 'building', began: this.world.now().getTime() });
    const output = live && this.#named(task.name, live);
    try {
      const receipt = receiptCopy(prepared, this.options, this.project, this.world);
      const outcome = await runBuild(this.project, prepared, command, this.world, {
        receipt,
        ...(output && { output }),
      });
      job.code = outcome.code;
      this.#interrupted ||= outcome.interrupted === true;
      Object.assign(task, { state: outcome.code === EXIT.fine ? 'built' : 'failed', note: noteOf(outcome) });
      return outcome;
    } catch (error) {
      if (!(error instanceof Failure)) throw error;
      // Another bundle may still be built.
      job.code = error.exitCode;
      Object.assign(task, { state: 'failed', note: error.message });
      return undefined;
    } finally {
      task.ended = this.world.now().getTime();
    }
  }

  async #inspect(job: Job): Promise<void> {
    if (job.code !== EXIT.fine || !this.options.inspect) return;
    job.code = await inspectBuild(this.project, job.prepared, this.options, this.world);
    if (job.code !== EXIT.fine) job.task.note = 'inspect has findings';
  }

  #named(name: string, live: LiveLines) {
    const widest = Math.max(...this.jobs.map(({ task }) => task.name.length));
    const head = `${this.#style.dim(`${name.padEnd(widest)} │`)} `;
    const to = (stream: World['stdout']) =>
      new LineWriter((lines) => live.above(() => stream.pass(lines.map((line) => `${head}${line}\n`).join(''))));
    return { stdout: to(this.world.stdout), stderr: to(this.world.stderr) };
  }
}

function noteOf({ files = 0, receiptPath, withoutReceipt, code, signal }: BuildOutcome): string {
  if (receiptPath) return count(files, 'file');
  if (code !== EXIT.fine) return signal ? `ended by ${signal}` : `exited with code ${code}`;
  return `no receipt: ${withoutReceipt}`;
}

/** Passes on whole lines, so that lines of several programs do not mix. */
class LineWriter extends Writable {
  #rest = '';
  readonly #decoder = new TextDecoder();

  constructor(readonly hand: (lines: readonly string[]) => void) {
    super();
  }

  override _write(chunk: Buffer, _encoding: BufferEncoding, done: () => void): void {
    const lines = (this.#rest + this.#decoder.decode(chunk, { stream: true })).split('\n');
    this.#rest = lines.pop() ?? '';
    // A bar of progress is drawn over itself: its last state is the line.
    if (lines.length > 0) this.hand(lines.map((line) => line.replace(/\r$/, '').replace(/^.*\r/, '')));
    done();
  }

  override _final(done: () => void): void {
    if (this.#rest !== '') this.hand([this.#rest]);
    done();
  }
}
