// Counts the steps of each rule on a text and on twice as much of it, in a process of its own: blocks of code that V8 executes
// (block coverage), which are the same on any machine.
import { Session } from 'node:inspector/promises';
import { works } from './works.js';

/** Repetitions of a text. */
const [FEW, TIMES] = [3, 150];

interface Steps {
  once: number;
  twice: number;
  findings: number;
  /** True if the text only looks like what a rule looks for. */
  isVain: boolean;
}

async function stepsOf(session: Session, work: () => Promise<unknown>): Promise<number> {
  await session.post('Profiler.takePreciseCoverage');
  await work();
  const { result } = await session.post('Profiler.takePreciseCoverage');
  const own = result.filter(({ url }) => url.endsWith('count.mjs'));
  return own
    .flatMap(({ functions }) => functions)
    .reduce((sum, { ranges }) => sum + ranges.reduce((all, { count }) => all + count, 0), 0);
}

export async function count(): Promise<void> {
  const session = new Session();
  session.connect();
  await session.post('Profiler.enable');
  await session.post('Profiler.startPreciseCoverage', { callCount: true, detailed: true });
  const steps: Record<string, Steps> = {};
  for (const { name, isVain, run } of works()) {
    // Tables that are made once do not count.
    const findings = await run(FEW);
    const once = await stepsOf(session, () => run(TIMES));
    steps[name] = { findings, isVain, once, twice: await stepsOf(session, () => run(2 * TIMES)) };
  }
  console.log(JSON.stringify(steps));
}
