import type { ServedSite } from '../core/contract/contract.js';
import { hasStage } from '../core/contract/hosts.js';
import { type CheckResult, type Coverage, questions, type Unread } from '../core/findings/check.js';
import { Failure } from '../core/findings/failure.js';
import type { RawFinding } from '../core/findings/finding.js';
import type { GatePart } from '../core/report/gate.js';
import { reachOf } from '../core/resolve/resolve.js';
import { joinWords } from '../core/text/nearest.js';
import type { KeptTrial } from '../core/trial/kept.js';
import type { World } from '../host/world.js';
import { type ArtifactGroup, bytesIn, findArtifacts } from './artifacts.js';
import { type InspectRequest, inspect } from './inspect.js';
import { type LintThread, lintChecks, lintInThread } from './lint-thread.js';
import type { Project } from './open.js';
import { recordValues } from './recording.js';
import { stageInAllScopes } from './resolve.js';
import { checkValues } from './values.js';

export interface GateRequest extends Pick<InspectRequest, 'caches' | 'packages' | 'threads' | 'contents'> {
  stage: string;
  /** Also the served sites. */
  probe: boolean;
  /** The build that sites should serve, as for `probe`. */
  build?: string | undefined;
  /** Also trial builds of the bundles. */
  trial: boolean;
  /** Gets the output of trial builds. */
  log: NodeJS.WritableStream;
  /** Tells whether build and server variables may have no value here. */
  allowsWithoutValue: boolean;
}

/** All checks of a project for one stage: values, code, repository, and built files with their receipts. */
export async function checkAll(
  project: Project,
  request: GateRequest,
  world: World,
): Promise<{ parts: GatePart[]; trials: KeptTrial[]; isStopped: boolean }> {
  const outputs = await outputsOf(project, request, world);
  const bytes = bytesIn(outputs.found ?? []);
  // Code and built files are checked at the same time.
  const thread = request.threads === 1 ? undefined : lintInThread(project, world, bytes);
  try {
    const found = checkValues(project, { stage: request.stage }, world);
    const values = request.allowsWithoutValue ? allowedWithoutValue(project, found) : found;
    const built = await builtFiles(project, request, outputs, world);
    const isStopped = built.isStopped;
    recordValues(project, stageInAllScopes(project, request.stage, world), world, false);
    const lint = isStopped ? [] : await lintOf(project, thread, world);
    const others = isStopped
      ? []
      : [await hostsPart(project, request.stage, world), await sitesPart(project, request, world)];
    const tried = isStopped || !request.trial ? undefined : await trialsPart(project, request, world);
    return {
      trials: tried?.trials ?? [],
      parts: [
        { part: 'values', checks: [values] },
        { part: 'code and repository', checks: lint, ...(isStopped && { because: 'stopped before its end' }) },
        {
          part: 'built files',
          checks: built.checks,
          ...(outputs.because !== undefined && { because: outputs.because }),
        },
        ...(tried ? [tried.part] : []),
        ...others,
      ],
      isStopped,
    };
  } finally {
    await thread?.end();
  }
}

/** A build or server variable that has no value on this machine is no more than a note. */
function allowedWithoutValue({ contract }: Project, check: CheckResult): CheckResult {
  const isAllowed = ({ code, variable = '' }: RawFinding) =>
    /^value\/(missing|empty)$/.test(code) && reachOf(contract, variable) !== 'public';
  return { ...check, findings: check.findings.map((one) => (isAllowed(one) ? { ...one, level: 'note' } : one)) };
}

/** If the thread failed, the checks run here, and fail here if there is a reason. */
async function lintOf(project: Project, thread: LintThread | undefined, world: World): Promise<CheckResult[]> {
  try {
    return thread ? await thread.checks : await lintChecks(project, world);
  } catch (error) {
    if (!thread) throw error;
    return lintChecks(project, world);
  }
}

interface Outputs {
  found?: ArtifactGroup[];
  /** Why there are none. */
  because?: string;
}

/** A contract without outputs still has values and code. */
async function outputsOf(project: Project, request: GateRequest, world: World): Promise<Outputs> {
  const bundles = [...project.contract.bundles.values()];
  if (bundles.every(({ output }) => output.length === 0)) return { because: 'no bundle of the contract has an output' };
  return { found: await findArtifacts(project, bundles, { ...request, paths: [] }, world) };
}

async function builtFiles(
  project: Project,
  request: GateRequest,
  { found }: Outputs,
  world: World,
): Promise<{ checks: CheckResult[]; isStopped: boolean }> {
  if (!found) return { checks: [], isStopped: false };
  const { isStopped, ...result } = await inspect(project, { ...request, found, paths: [] }, world);
  return { checks: [result], isStopped };
}

/** The hosts of the stage. Without the credential of a host, which only some machines have, it is skipped. */
async function hostsPart(project: Project, stage: string, world: World): Promise<GatePart> {
  const part = 'hosts';
  const hosts = [...project.contract.hosts.values()].filter((host) => hasStage(host, stage));
  if (hosts.length === 0) return { part, checks: [], because: 'the contract has no host for this stage' };
  const { Handoff } = await import('./handoff.js');
  const handoff = new Handoff(project, stage, world);
  const missingOf = new Map(hosts.map((host) => [host, handoff.missingCredentials(host)]));
  const missing = [...missingOf.values()].flat();
  const known = hosts.filter((host) => missingOf.get(host)?.length === 0);
  if (known.length === 0)
    return { part, checks: [], because: `${joinWords(missing)} ${missing.length === 1 ? 'has' : 'have'} no value` };
  const checks: CheckResult[] = [];
  for (const host of known) {
    const { findings, because, source } = await handoff.compare(host);
    const unread = because === undefined ? [] : [{ path: `${host.name} (${source})`, inside: [], because }];
    checks.push({ findings, groups: [], coverage: noFiles(unread) });
  }
  return { part, checks };
}

/** Trials of the bundles that ship. One that cannot be made is not checked, and the other parts are reported. */
async function trialsPart(
  project: Project,
  { stage, log }: GateRequest,
  world: World,
): Promise<{ part: GatePart; trials: KeptTrial[] }> {
  const { trialAtHand } = await import('./trial-kept.js');
  const part = 'trial builds';
  const trials: KeptTrial[] = [];
  const checks: CheckResult[] = [];
  for (const { name: bundle, runs } of project.contract.bundles.values()) {
    if (runs === 'server') continue;
    try {
      const trial = await trialAtHand(project, { stage, bundle, real: [], log }, world);
      trials.push(trial);
      checks.push({ findings: trial.findings, groups: [], coverage: noFiles(trial.coverage.unread) });
    } catch (error) {
      if (!(error instanceof Failure)) throw error;
      const because = `was not built: ${error.message}`;
      checks.push({
        findings: [],
        groups: [],
        coverage: noFiles([{ path: `trial of ${bundle}`, inside: [], because }]),
      });
    }
  }
  const because = 'the contract has no bundle for browsers or devices';
  return { part: { part, checks, ...(checks.length === 0 && { because }) }, trials };
}

/** Coverage of a check that reads no built files. */
function noFiles(unread: readonly Unread[]): Coverage {
  return { files: 0, members: 0, bytes: 0, unread: [...unread] };
}

/** The sites of the bundles, if the user asked for them: before a deployment they serve the build before. */
async function sitesPart(
  project: Project,
  { stage, probe: isWanted, build }: GateRequest,
  world: World,
): Promise<GatePart> {
  const part = 'served sites';
  if (!isWanted) return { part, checks: [], because: '--probe includes them' };
  const sites = [...project.contract.bundles.values()].flatMap(({ name: bundle, served }) => {
    const site = served[stage];
    return site ? [{ ...site, stage, bundle, build }] : [];
  });
  if (sites.length === 0)
    throw new Failure(
      `--probe needs the URL of a bundle for ${stage}`,
      `add it to a bundle of the contract: \`served: { ${stage}: https://shop.example/ }\``,
    );
  const checks: CheckResult[] = [];
  for (const site of sites) checks.push(await siteCheck(project, site, world));
  return { part, checks };
}

/** A site that gives no answer is not checked, and the other parts are reported. */
async function siteCheck(
  project: Project,
  {
    stage,
    bundle,
    url,
    also,
    build,
    ...access
  }: ServedSite & Pick<GateRequest, 'stage' | 'build'> & { bundle: string },
  world: World,
): Promise<CheckResult> {
  const { probe, SiteUnreachable, usualProbe } = await import('./probe.js');
  try {
    const { findings, groups, coverage, verdict, since } = await probe(
      project,
      { ...usualProbe, url, also, stage, bundle, access, build },
      world,
    );
    return { findings, groups, coverage, ...(verdict && { verdict }), ...(since && { since }) };
  } catch (error) {
    if (!(error instanceof SiteUnreachable)) throw error;
    const because = `the site of ${bundle} was not checked: ${error.message}`;
    const doubts = questions.map((question) => ({
      question,
      bundle,
      because,
      remedy: error.remedy ?? '',
    }));
    const unread = [{ path: url, inside: [], because: `was not checked: ${error.message}` }];
    return {
      findings: [],
      groups: [],
      coverage: noFiles(unread),
      verdict: { asked: questions, doubts },
    };
  }
}
