import { rulesOf } from '../../core/contract/rules.js';
import { Failure } from '../../core/findings/failure.js';
import type { HostPlan } from '../../core/handoff/plan.js';
import { handoffReport, type ReportedHost } from '../../core/report/handoff.js';
import { count, displayText } from '../../core/text/display.js';
import { joinWords } from '../../core/text/nearest.js';
import { today, type World } from '../../host/world.js';
import { type ComparedHost, Handoff, hostsOf } from '../../project/handoff.js';
import { openProject, stageOf, variableOf } from '../../project/open.js';
import type { HandoffCall } from '../commands/handoff.js';
import { printReport } from '../print.js';

/** Runs the command. @returns the exit code */
export async function run({ words: [name = '', ...named], options, world }: HandoffCall): Promise<number> {
  const project = openProject(world, options.contract);
  const stage = stageOf(project, name);
  for (const one of named) variableOf(project, one);
  const hosts = hostsOf(project, stage.name, options.host);
  assertCanApply(
    options,
    hosts.some(({ set }) => set !== undefined),
    world,
  );
  const handoff = new Handoff(project, stage.name, world);
  const compared: ComparedHost[] = [];
  for (const host of hosts) compared.push(await handoff.compare(host));
  const reported = options.apply
    ? await applyAll(handoff, compared, named, options, world)
    : compared.map(reportedHost);
  const findings = reported.flatMap(({ findings: own }) => own);
  const shown = reported.map(({ findings: _, ...host }) => host);
  const report = handoffReport(stage.name, shown, findings, rulesOf(project.contract), today(world));
  return printReport(report, options, world, { project });
}

type Reported = ReportedHost & Pick<ComparedHost, 'findings'>;

interface ApplyOptions {
  apply: boolean;
  yes: boolean;
  'dry-run': boolean;
}

function assertCanApply({ apply, yes, 'dry-run': isDry }: ApplyOptions, canSet: boolean, { stdin }: World): void {
  if (!apply) return;
  if (!canSet)
    throw new Failure(
      'no host of the contract describes how to set a value',
      'add `set` to the host: a `command` that gets the value on its standard input, or `url` and `body` of a request',
    );
  if (!yes && !isDry && !stdin.isTerminal)
    throw new Failure('--apply asks before it sets values, and standard input is not a terminal', 'pass --yes as well');
}

function reportedHost({ host, ids: _, wrong: __, ...rest }: ComparedHost): Reported {
  return { host: host.name, ...rest };
}

/** Shows the plan, asks, sets, and compares again. */
async function applyAll(
  handoff: Handoff,
  compared: readonly ComparedHost[],
  named: readonly string[],
  { yes, 'dry-run': isDry }: ApplyOptions,
  world: World,
): Promise<Reported[]> {
  const plans = compared.map((one) => ({ ...one, plan: planOf(handoff, one, named) }));
  for (const { host, plan } of plans) world.stderr.write(planText(host.name, plan));
  const steps = plans.reduce((sum, { plan }) => sum + plan.steps.length, 0);
  const isWanted = steps > 0 && !isDry && (yes || (await isConfirmed(steps)));
  const reported: Reported[] = [];
  for (const { plan, ...one } of plans) {
    const without = plan.without.length > 0 && { without: plan.without };
    if (!isWanted || plan.steps.length === 0) {
      reported.push({ ...reportedHost(one), ...without });
      continue;
    }
    const applied = await handoff.apply(
      one.host,
      plan.steps,
      (step, because) =>
        world.stderr.write(
          because === undefined
            ? `adder: set ${step} on ${one.host.name}\n`
            : `adder: could not set ${step}: ${one.host.name} ${because}\n`,
        ),
      (text) => world.stderr.write(`adder: ${text}\n`),
    );
    reported.push({ ...reportedHost(await handoff.compare(one.host)), applied, ...without });
  }
  return reported;
}

/** A host without `set` in the contract is compared only. */
function planOf(handoff: Handoff, compared: ComparedHost, named: readonly string[]): HostPlan {
  const isKnown = compared.host.set !== undefined && compared.because === undefined;
  return isKnown ? handoff.plan(compared, named) : { steps: [], without: [] };
}

function planText(host: string, { steps, without }: HostPlan): string {
  const lines = steps.map(
    ({ name, replaces, scopes }) =>
      `  ${replaces ? 'change' : 'set   '}  ${displayText(name)}  for ${joinWords(scopes)}`,
  );
  const cannot = without.map(({ name, because }) => `  skip    ${displayText(name)}  ${because}`);
  if (lines.length + cannot.length === 0) return `adder: nothing to set on ${host}\n`;
  return `${[`adder: ${host}`, ...lines, ...cannot].join('\n')}\n`;
}

async function isConfirmed(steps: number): Promise<boolean> {
  const { default: ask } = await import('@inquirer/input');
  try {
    const answer = await ask({ message: `Set ${count(steps, 'value')}? Type yes:` });
    return answer.trim().toLowerCase() === 'yes';
  } catch (error) {
    if (error instanceof Error && error.name === 'ExitPromptError') return false;
    throw error;
  }
}
