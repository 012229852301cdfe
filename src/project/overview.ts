import type { Bundle, Stage } from '../core/contract/contract.js';
import { rulesOf } from '../core/contract/rules.js';
import { scopeWith } from '../core/contract/scopes.js';
import { Failure, FindingsFailure } from '../core/findings/failure.js';
import { judge } from '../core/findings/judge.js';
import { nextStep } from '../core/overview/next.js';
import type { BundleOverview, CheckOverview, Overview, Step } from '../core/overview/overview.js';
import { ships } from '../core/resolve/value-rules.js';
import { count, quoted } from '../core/text/display.js';
import { someWords } from '../core/text/nearest.js';
import { oncePer } from '../core/text/once.js';
import { newestReceipt, readState, STATE_FOLDER } from '../host/state.js';
import { findFiles } from '../host/walk.js';
import { today, type World } from '../host/world.js';
import { readGate } from './gate-kept.js';
import { keptTrialPath } from './kept-paths.js';
import { LastBuilds } from './last-build.js';
import { CONTRACT_NAME, openProject, type Project, packageFolder, valueFilesOf } from './open.js';
import { checkValues, type ValuesCheck } from './values.js';

/** Files that directories with an application have, in any language. */
const manifests = ['package.json', 'pubspec.yaml', 'Cargo.toml', 'deno.json', 'index.html', '.env'] as const;

/** Where the project of the working directory stands. Builds and searches nothing. @param given the path from --contract */
export async function overview(world: World, given?: string): Promise<Overview> {
  try {
    return await new Standing(openProject(world, given), world).overview();
  } catch (error) {
    if (error instanceof FindingsFailure) return await withMistakes(error);
    if (error instanceof Failure && given === undefined && error.message.startsWith(`no ${CONTRACT_NAME} `))
      return withoutContract(world);
    throw error;
  }
}

/** The overview of a project without a valid contract. */
function withoutState(mistakes: string[], next: Step): Overview {
  return { report: 1, kind: 'overview', mistakes, stages: [], bundles: [], checks: [], next };
}

function withoutContract({ cwd, files }: World): Overview {
  const found = manifests.find((name) => files.exists(files.path.join(cwd, name)));
  const next =
    found === undefined
      ? {
          command: 'adder demo',
          because:
            'here is no project: Adder needs a directory with an application, such as one with a package.json; the demo makes one',
        }
      : {
          command: 'adder draft',
          because: `here is no ${CONTRACT_NAME} yet: this writes a first one from the project's files, and changes nothing else`,
        };
  return withoutState([], next);
}

async function withMistakes(failure: FindingsFailure): Promise<Overview> {
  const { failureReport } = await import('../core/report/findings.js');
  const texts = failureReport('overview', failure).findings.map(({ message, place }) => {
    const { path, line } = place ?? {};
    return `${[path, line].filter(Boolean).join(':')}${path === undefined ? '' : ' '}${message}`;
  });
  const because = `the contract has ${count(texts.length, 'mistake')}; this shows each with what to do`;
  return withoutState(texts, { command: 'adder lint', because });
}

/** A project with a contract. */
class Standing {
  readonly #values: ValuesCheck;
  readonly #builds: LastBuilds;

  readonly #receiptOf = oncePer(({ name }: Bundle) => newestReceipt(this.project, name));
  /** The files of a bundle's code, with their versions. */
  readonly #filesOf = oncePer(({ code, serverCode }: Bundle) => {
    const { files, root } = this.project;
    return findFiles(files, [...new Set([...code, ...serverCode].map((path) => files.path.join(root, path)))]).files;
  });

  constructor(
    readonly project: Project,
    readonly world: World,
  ) {
    this.#values = checkValues(project, {}, world);
    this.#builds = new LastBuilds(project);
  }

  async overview(): Promise<Overview> {
    const { contract, root, contractPath, files } = this.project;
    const stages = [...contract.stages.values()];
    // A bundle without an output leaves no receipt.
    const bundles = [...contract.bundles.values()].filter(({ output }) => output.length > 0);
    const checks = stages.map(async (stage) => [...this.#gate(stage), ...(await this.#trials(stage))]);
    const state = {
      stages: stages.map((stage) => this.#stage(stage)),
      bundles: await Promise.all(bundles.map((bundle) => this.#bundle(bundle))),
      checks: (await Promise.all(checks)).flat(),
    };
    const shipping = new Set(stages.map(({ name }) => name).filter(ships));
    const builds = new Map([...contract.bundles.values()].map((bundle) => [bundle.name, this.#command(bundle)]));
    return {
      ...{ report: 1, kind: 'overview', mistakes: [] },
      contract: { path: files.shown(contractPath, root), variables: contract.variables.size },
      ...state,
      next: nextStep({ ...state, shipping, builds: table(builds) }),
    };
  }

  #stage({ name }: Stage): Overview['stages'][number] {
    const rules = rulesOf(this.project.contract);
    const found = this.#values.parts.flatMap(({ scope, resolutions }) => {
      const raw = resolutions.filter(({ stage }) => stage.name === name).flatMap(({ findings }) => findings);
      const { findings } = judge(raw, rules, today(this.world), []);
      return findings.filter(
        ({ level, variable }) => level === 'error' && scope.contract.variables.has(variable ?? ''),
      );
    });
    const of = (isLacking: boolean) => [
      ...new Set(
        found.flatMap(({ code, variable = '' }) =>
          /^value\/(missing|empty)$/.test(code) === isLacking ? [variable] : [],
        ),
      ),
    ];
    const lacking = of(true);
    return { stage: name, lacking, wrong: of(false).filter((one) => !lacking.includes(one)) };
  }

  async #bundle(bundle: Bundle): Promise<BundleOverview> {
    const { stored, unread } = this.#receiptOf(bundle);
    const { files, root } = this.project;
    if (unread) return { bundle: bundle.name, unread: `${files.shown(unread.path, root)} ${unread.because}` };
    if (!stored) return { bundle: bundle.name };
    const { stage, builtAt: at } = stored.receipt.predicate;
    const gone = bundle.output.filter((path) => !files.exists(files.path.join(root, path)));
    const since = [
      ...gone.map((path) => `${path} is gone`),
      ...(await this.#changes(stage, bundle)),
      ...this.#code(at, [bundle]),
    ];
    return { bundle: bundle.name, build: { stage, at, since } };
  }

  /** Values that are others than those of a bundle's last build, as a phrase. */
  async #changes(stage: string, bundle: Bundle): Promise<string[]> {
    const { changesSinceBuilds } = await import('./changes.js');
    const scopes = this.#values.parts.map(({ scope }) => scope);
    const all = changesSinceBuilds(this.#builds, stage, (one) => {
      const scope = one === bundle ? scopeWith(scopes, one) : undefined;
      const part = this.#values.parts.find((each) => each.scope === scope);
      return part?.resolutions.find((resolution) => resolution.stage.name === stage);
    });
    const names = all.flatMap(({ changes }) => changes.map(({ variable }) => variable));
    return names.length > 0 ? [`${someWords([...new Set(names)], 3)} changed`] : [];
  }

  #gate({ name }: Stage): CheckOverview[] {
    const kept = readGate(this.project, name);
    if (!kept) return [];
    const { at, answers, errors, warnings, exitCode } = kept;
    const since = this.#since(name, at, [...this.project.contract.bundles.values()]);
    return [
      { check: 'gate', stage: name, at, passed: exitCode === 0, ...(answers && { answers }), errors, warnings, since },
    ];
  }

  async #trials(stage: Stage): Promise<CheckOverview[]> {
    const { contract, files, root } = this.project;
    if (!files.exists(files.path.join(root, STATE_FOLDER, 'trials'))) return [];
    const { parseKept } = await import('../core/trial/kept.js');
    return [...contract.bundles.values()].flatMap((bundle): CheckOverview[] => {
      const path = keptTrialPath(this.project, { stage: stage.name, bundle: bundle.name });
      const kept = parseKept(readState(this.project, path) ?? '');
      if (!kept) return [];
      const { findings } = judge(kept.findings, rulesOf(contract), today(this.world), []);
      const number = (level: string) => findings.filter((one) => one.level === level).length;
      const [errors, warnings] = [number('error'), number('warning')];
      const since = this.#since(stage.name, kept.madeAt, [bundle], false);
      const passed = errors === 0 && kept.coverage.unread.length === 0;
      return [
        { check: 'trial', stage: stage.name, bundle: bundle.name, at: kept.madeAt, passed, errors, warnings, since },
      ];
    });
  }

  /** Changes since a check, as phrases. @param ofOutput whether builds count, which a trial does not look at */
  #since(stage: string, at: string, bundles: readonly Bundle[], ofOutput = true): string[] {
    const { files, root } = this.project;
    const changed = this.#valueFiles(stage).filter((path) => (files.stat(path)?.ctimeMs ?? 0) > Date.parse(at));
    const built = bundles.filter((one) => {
      const { stored } = this.#receiptOf(one);
      return ofOutput && stored !== undefined && stored.receipt.predicate.builtAt > at;
    });
    return [
      ...built.map(({ name }) => `${name} was built again`),
      ...(changed.length > 0
        ? [
            `${someWords(
              changed.map((path) => files.shown(path, root)),
              3,
            )} changed`,
          ]
        : []),
      ...this.#code(at, bundles),
    ];
  }

  #valueFiles(stage: string): string[] {
    const own = this.#values.parts.flatMap(({ scope }) => scope.contract.stages.get(stage) ?? []);
    return [...new Set(own.flatMap((one) => valueFilesOf(this.project, one)))];
  }

  /** How many source files of bundles changed since a time, as a phrase. */
  #code(at: string, bundles: readonly Bundle[]): string[] {
    const all = new Map(bundles.flatMap((one) => this.#filesOf(one).map(({ path, version }) => [path, version])));
    const changed = [...all.values()].filter((version) => version > Date.parse(at)).length;
    return changed > 0 ? [`${count(changed, 'source file')} changed`] : [];
  }

  /** The words after `adder with STAGE --` that build a bundle: none if the contract has its command. */
  #command({ build, code }: Bundle): string | undefined {
    if (build && build.length > 0) return '';
    const { files, root } = this.project;
    const folder = packageFolder(this.project, code[0] ?? '.');
    const text = files.readIfPossible(files.path.join(root, folder, 'package.json'))?.toString() ?? '';
    const hasScript = /"scripts"\s*:\s*\{[^}]*"build"\s*:/.test(text);
    if (!hasScript) return undefined;
    return folder === '.' ? 'npm run build' : `npm --prefix ${quoted(folder)} run build`;
  }
}

function table(all: ReadonlyMap<string, string | undefined>): Map<string, string> {
  return new Map([...all].flatMap(([key, value]) => (value === undefined ? [] : [[key, value] as const])));
}
