import { parse as parseToml } from 'smol-toml';
import { type Contract, isRequired, type Stage, type Variable } from '../../contract/contract.js';
import { allNamesOf, namesOf, settableNames } from '../../contract/names.js';
import { finding } from '../../findings/finding.js';
import { placeOfWord } from '../../findings/place.js';
import type { Resolution } from '../../resolve/resolve.js';
import { reveal } from '../../secrets/secret.js';
import { withoutArticle } from '../../text/display.js';
import { isSlip, nearest } from '../../text/nearest.js';
import { shapeOf } from '../../tokens/shapes.js';
import { strengthOf } from '../../tokens/strength.js';
import { toolchainOf } from '../../toolchains/index.js';
import type { LintFinding } from '../model.js';
import type { RepositoryFacts } from './facts.js';
import {
  expandedTexts,
  readWorkflow,
  type Setting,
  type Step,
  type Stored,
  type Workflow,
  type WorkflowCall,
} from './workflow.js';

const workflowFile =
  /(^|\/)(\.(github|gitea|forgejo)\/workflows\/[^/]+\.ya?ml|\.gitlab-ci\.ya?ml|\.gitlab\/([^/]+\/)*[^/]+\.ya?ml|azure-pipelines\.ya?ml|bitbucket-pipelines\.ya?ml|\.circleci\/config\.ya?ml|\.woodpecker(\/[^/]+)?\.ya?ml|\.drone\.ya?ml|\.buildkite\/[^/]+\.ya?ml|\.travis\.ya?ml|\.semaphore\/[^/]+\.ya?ml|cloudbuild\.ya?ml|buildspec\.ya?ml)$/;

/** Tells whether a file describes a pipeline, by its path from the top of the repository. */
export function isWorkflowFile(path: string): boolean {
  return workflowFile.test(path);
}
const hostingFile =
  /(^|\/)((docker-)?compose(\.[\w-]+)?\.ya?ml|app\.ya?ml|render\.ya?ml|amplify\.ya?ml|vercel\.json|firebase\.json|apphosting\.ya?ml|(netlify|wrangler|fly)\.toml)$/;

/** Workflows and hosting files: what they provide to builds, and hard-coded secrets in them. */
export function pipelineRules(facts: RepositoryFacts): LintFinding[] {
  const workflows = workflowsIn(facts);
  const calls = callsIn(workflows);
  return facts.paths.flatMap((path) => {
    const workflow = workflows.get(path);
    if (!workflow) return hostingFile.test(path) ? hostingRules(facts, path) : [];
    return [
      ...workflow.settings.flatMap((setting) => literal(facts, path, setting)),
      ...gaps(facts, path, called(workflow.steps, calls.get(path))),
      ...workflow.caches.flatMap((one) => stored(facts, path, one)),
    ];
  });
}

/** The readable workflows, by their paths. */
function workflowsIn(facts: Pick<RepositoryFacts, 'paths' | 'text'>): Map<string, Workflow> {
  return new Map(
    facts.paths.filter(isWorkflowFile).flatMap((path): [string, Workflow][] => {
      const workflow = readWorkflow(facts.text(path) ?? '');
      return workflow ? [[path, workflow]] : [];
    }),
  );
}

function hostingRules(facts: RepositoryFacts, path: string): LintFinding[] {
  const text = facts.text(path) ?? '';
  const settings = path.endsWith('.toml') ? settingsOfToml(text) : (readWorkflow(text)?.settings ?? []);
  return [...settings.flatMap((setting) => literal(facts, path, setting)), ...misspelt(facts, path, settings)];
}

/** Calls of workflows of the repository, by the workflow that is called. */
function callsIn(workflows: ReadonlyMap<string, Workflow>): Map<string, WorkflowCall[]> {
  const found = new Map<string, WorkflowCall[]>();
  for (const call of [...workflows.values()].flatMap(({ calls }) => calls))
    found.set(call.path, [...(found.get(call.path) ?? []), call]);
  return found;
}

/** The steps of a workflow that others call: with their inputs, and without secrets that they do not pass on. */
function called(steps: readonly Step[], calls: readonly WorkflowCall[] | undefined): Step[] {
  if (!calls) return [...steps];
  return calls.flatMap(({ inputs, secrets }) =>
    steps.map((step) => ({
      ...step,
      choices: new Map([...step.choices, ...inputs]),
      settings: step.settings.filter(({ value }) => {
        const secret = /^\$\{\{\s*secrets\.(\w+)\s*\}\}$/.exec(value)?.[1];
        return secret === undefined || secrets === 'all' || secrets.includes(secret);
      }),
    })),
  );
}

/** A place where a pipeline that builds a stage sets a name. */
export interface Provided {
  name: string;
  path: string;
  line: number;
}

/** The names that the workflows of a repository set for builds of a stage. */
export function providedFor(
  stage: string,
  contract: Contract,
  facts: Pick<RepositoryFacts, 'paths' | 'text'>,
): Provided[] {
  const workflows = workflowsIn(facts);
  const calls = callsIn(workflows);
  return [...workflows].flatMap(([path, workflow]) => {
    const steps = called(workflow.steps, calls.get(path));
    return steps
      .filter((step) => stagesOf(step, contract).some(({ name }) => name === stage))
      .flatMap(({ settings }) => settings.map(({ name, line }) => ({ name, path, line })));
  });
}

/** Names of a hosting file that are nearly those of variables which it does not set. */
function misspelt({ contract }: RepositoryFacts, path: string, settings: readonly Setting[]): LintFinding[] {
  const given = new Set(settings.map(({ name }) => name));
  const variables = [...contract.variables.values()];
  const namesFor = (one: Variable) => allNamesOf(contract, one);
  const known = new Set(variables.flatMap(namesFor));
  const unset = variables.filter((one) => !namesFor(one).some((name) => given.has(name)));
  const unknown = new Map(settings.filter(({ name }) => !known.has(name)).map((one) => [one.name, one]));
  return [...unknown.values()].flatMap(({ name, line, column }): LintFinding[] => {
    const meant = unset.find((one) => isSlip(name, one.name));
    if (!meant) return [];
    return [
      finding(
        'repo/pipeline-gap',
        'misspelt',
        { path, name, variable: meant.name },
        { place: placeOfWord({ path }, { line, column }, name) },
      ),
    ];
  });
}

/** A secret as text instead of a reference to a store. */
function literal(facts: RepositoryFacts, path: string, { name, value, line, column }: Setting): LintFinding[] {
  if (value === '' || /\$|^<.*>$|^secret:|^\*+$/.test(value)) return [];
  const variable = [...facts.contract.variables.values()].find(
    (one) => one.name === name || Object.values(namesOf(facts.contract, one)).includes(name),
  );
  // The name of a stage, a host or a port in a pipeline is as it should be, whoever may read it.
  const isHidden = (one: Variable) =>
    one.reach !== 'public' && value.length >= 6 && strengthOf(one.name, value) === 'secret';
  const known = facts.stages.some(({ values }) =>
    [...values.values()].some((one) => one.value && isHidden(one.variable) && reveal(one.value) === value),
  );
  const shape = shapeOf(value);
  const isSecret = known || shape?.kind === 'secret' || (variable !== undefined && isHidden(variable));
  if (!isSecret) return [];
  const about = { path, name, ...(shape?.kind === 'secret' && { shape: withoutArticle(shape.name) }) };
  const place = placeOfWord({ path }, { line, column }, name);
  return [finding('repo/literal-in-pipeline', 'value', about, { variable: variable?.name ?? name, place })];
}

/** A build tool's cache can contain build values, and many people can read a pipeline's cache. */
function stored({ contract }: RepositoryFacts, path: string, cache: Stored): LintFinding[] {
  const kept = cache.path.replace(/^[~.]\//, '').replace(/\/?(\*\*?)?\/?$/, '');
  if (/(^|\/)\.adder(\/|$)/.test(kept)) return [stateStored(path, cache)];
  const bundle = [...contract.bundles.values()].find((one) =>
    toolchainOf(one).caches?.some((one) => `/${kept}`.endsWith(`/${one}`) || `/${kept}/`.includes(`/${one}/`)),
  );
  const hasSecrets = [...contract.variables.values()].some(({ reach }) => reach === 'build');
  if (!bundle || !hasSecrets) return [];
  const { line, column } = cache;
  const more = { level: 'warning' as const, bundle: bundle.name, place: { path, inside: [], line, column } };
  return [finding('repo/packed', 'cache', { path, stored: kept, tool: bundle.toolchain }, more)];
}

/** The key of the fingerprints is in that folder: with it, short values can be guessed from receipts. */
function stateStored(path: string, { line, column }: Stored): LintFinding {
  return finding('repo/packed', 'state', { path }, { level: 'warning', place: { path, inside: [], line, column } });
}

function gaps(facts: RepositoryFacts, path: string, steps: readonly Step[]): LintFinding[] {
  const { contract } = facts;
  const staged = steps.flatMap((step) => stagesOf(step, contract).map((stage) => ({ step, stage })));
  const findings = staged.flatMap(({ step, stage }) => missing(facts, path, step, stage));
  if (staged.length > 0 || contract.stages.size < 2) return findings;
  const build = steps.find(
    ({ command }) =>
      // A stage that the pipeline is given when it runs.
      !/\badder\s+with\b/.test(command) &&
      /\b((npm|pnpm|yarn|bun)( run)? build\b|(vite|next|nuxt|astro|gatsby|ng|webpack|rspack|rsbuild|vitepress|wxt|parcel|rollup|rolldown|esbuild) build\b|\bwebpack\b)/.test(
        command,
      ),
  );
  if (!build) return findings;
  const { command, line, column } = build;
  const about = { path, stages: [...contract.stages.keys()], command: command.trim().split('\n')[0] ?? '' };
  const at = { place: { path, inside: [], line, column } };
  return [...findings, finding('repo/pipeline-gap', 'no-stage', about, at)];
}

/** The stages that a command builds, according to its words, its matrix and its settings. */
function stagesOf(step: Step, { stages }: Contract): Stage[] {
  const commands = expandedTexts(step.command, step);
  const named = commands.flatMap((command) => [
    ...command.matchAll(
      /\badder\s+(?:with|gate)\s+["']?([\w.-]+)|--mode[ =]([\w.-]+)|\bbuild[:-]([\w.-]+)|\bADDER_STAGE=([\w.-]+)/g,
    ),
  ]);
  const words = named.map(([, ...groups]) => groups.find((one) => one !== undefined) ?? '');
  const isBuild = words.length > 0 || commands.some((command) => /\bbuild\b/.test(command));
  const around = isBuild
    ? step.settings.filter(({ name }) => name === 'ADDER_STAGE').flatMap(({ value }) => expandedTexts(value, step))
    : [];
  return [...new Set([...words, ...around])].flatMap((name) => stages.get(name) ?? []);
}

/** Variables that a build needs and does not get, and settings that it ignores. */
function missing(facts: RepositoryFacts, path: string, step: Step, stage: Stage): LintFinding[] {
  const inline = [...step.command.matchAll(/(?:^|[\s;&])([A-Z_][A-Z0-9_]*)=/g)].map(([, name = '']) => name);
  const given = [...step.settings.map(({ name }) => name), ...inline];
  const needed = neededFromPipeline(facts, stage).filter(
    (variable) => !settableNames(facts.contract, variable).some((one) => given.includes(one)),
  );
  return [
    ...needed.map((variable) => gap(facts, path, step, { stage, variable, given })),
    ...ignoredSettings(facts, path, step, stage),
    ...strangers(facts, path, step.settings, stage, needed),
  ];
}

/** A needed variable that the step does not set, or sets under a similar name. */
function gap(
  { contract }: RepositoryFacts,
  path: string,
  { line, column }: Step,
  { stage, variable, given }: { stage: Stage; variable: Variable; given: readonly string[] },
): LintFinding {
  const unknown = given.filter((name) => !contract.variables.has(name));
  const [near] = nearest(variable.name, unknown);
  const about = { path, variable: variable.name, stage: stage.name };
  const at = { place: { path, inside: [], line, column } };
  return near
    ? finding('repo/pipeline-gap', 'misspelt-for-build', { ...about, name: near }, at)
    : finding('repo/pipeline-gap', 'lacks', about, at);
}

/** Variables that a step sets for a stage that does not read the process environment, each once. */
function ignoredSettings({ contract }: RepositoryFacts, path: string, { settings }: Step, stage: Stage): LintFinding[] {
  if (stage.layers.some(({ kind }) => kind === 'process')) return [];
  const byName = new Map(
    settings.filter(({ name }) => contract.variables.has(name)).map((setting) => [setting.name, setting]),
  );
  return [...byName.values()].map(({ name, line, column }) => {
    const place = placeOfWord({ path }, { line, column }, name);
    return finding('repo/pipeline-gap', 'ignored', { path, variable: name, stage: stage.name }, { place });
  });
}

/** Names with a bundle's prefix that the contract does not have: no code would read them. */
function strangers(
  { contract }: RepositoryFacts,
  path: string,
  settings: readonly Setting[],
  stage: Stage,
  needed: readonly Variable[],
): LintFinding[] {
  const prefixes = [...contract.bundles.values()].flatMap((bundle) => bundle.prefixes);
  const known = new Set([...contract.variables.values()].flatMap((one) => allNamesOf(contract, one)));
  const isNear = (name: string) => needed.some((one) => nearest(one.name, [name]).length > 0);
  return settings
    .filter(({ name }) => prefixes.some((prefix) => name.startsWith(prefix)) && !known.has(name) && !isNear(name))
    .map(({ name, line, column }) => {
      const place = placeOfWord({ path }, { line, column }, name);
      return finding('repo/pipeline-gap', 'extra', { path, name, stage: stage.name }, { place });
    });
}

/** Required public and build variables that have no value in a file which the repository has. */
function neededFromPipeline(
  { contract, stages, tracked, isVersioned, isIgnored }: RepositoryFacts,
  stage: Stage,
): Variable[] {
  const resolutions = stages.filter((one) => one.stage.name === stage.name);
  const isThere = (path: string) => (isVersioned ? tracked.has(path) || !isIgnored(path) : true);
  // With layers per bundle, each bundle that requires a variable needs it.
  const isOffered = (variable: Variable, { layers }: Resolution) => {
    const names = settableNames(contract, variable);
    return layers.some(
      ({ path, offers }) => path !== undefined && isThere(path) && offers.some(({ name }) => names.includes(name)),
    );
  };
  const isLacking = (variable: Variable) =>
    resolutions.some((one) => {
      const asked = one.values.get(variable.name)?.variable;
      return asked !== undefined && isRequired(asked, stage.name) && !isOffered(variable, one);
    });
  const hasCommand = stage.layers.some(({ kind }) => kind === 'command');
  if (hasCommand) return [];
  const hasClient = contract.bundles.size === 0 || [...contract.bundles.values()].some(({ runs }) => runs !== 'server');
  return [...contract.variables.values()].filter((variable) => {
    const isForBuild = hasClient && variable.reach !== 'server' && variable.delivery === 'inline';
    return (
      isForBuild &&
      variable.default === undefined &&
      (resolutions.length === 0 ? isRequired(variable, stage.name) : isLacking(variable))
    );
  });
}

/** Tables called `env`, `environment`, `vars` or `variables`, at any depth. */
function settingsOfToml(text: string): Setting[] {
  let document: unknown;
  try {
    document = parseToml(text);
  } catch {
    return [];
  }
  const found: Setting[] = [];
  const visit = (table: unknown): void => {
    if (!table || typeof table !== 'object') return;
    for (const [key, value] of Object.entries(table)) {
      if (/^(env|environment|vars|variables)$/.test(key) && value && typeof value === 'object')
        for (const [name, inner] of Object.entries(value))
          if (typeof inner === 'string') found.push({ name, value: inner, ...placeOf(text, name) });
      visit(value);
    }
  };
  visit(document);
  return found;
}

function placeOf(text: string, name: string): { line: number; column: number } {
  const at = new RegExp(`^[ \\t]*["']?${name}["']?\\s*=`, 'm').exec(text)?.index ?? 0;
  return { line: text.slice(0, at).split('\n').length, column: 1 };
}
