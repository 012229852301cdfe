import { type Within, within } from '../core/build/environment.js';
import type { Bundle, Layer, Stage } from '../core/contract/contract.js';
import { settableNames } from '../core/contract/names.js';
import { layersOf, scopesOf, scopeWith } from '../core/contract/scopes.js';
import { Failure } from '../core/findings/failure.js';
import type { RawFinding } from '../core/findings/finding.js';
import { limits } from '../core/limits/index.js';
import { crossStageFindings, hasCrossStageRule } from '../core/resolve/cross-stage.js';
import { readFileLayer } from '../core/resolve/file-layer.js';
import { literalValues, type ReadLayer } from '../core/resolve/layer.js';
import { absentLayer, readCommandLayer, readProcessLayer } from '../core/resolve/layers.js';
import { misnamedFinding } from '../core/resolve/misnamed.js';
import { protectedTexts } from '../core/resolve/protected.js';
import { type NamedValue, type Resolution, reachOf, resolveStage } from '../core/resolve/resolve.js';
import { byteSize } from '../core/text/display.js';
import { describeFileError, kindOf } from '../host/files.js';
import type { World } from '../host/world.js';
import { type Project, stageOf } from './open.js';

/** A stage, resolved together with the others. */
export interface ResolvedStages {
  /** The stage that was asked for. */
  asked: Resolution;
  /** All stages in the order of the contract, the one that was asked for among them. */
  all: Resolution[];
}

/** Every stage of the parts of a project that do not have a bundle's layers: their secrets must not be in it. */
export function otherScopes(project: Project, bundle: Bundle | undefined, world: ResolverWorld): Resolution[] {
  const scopes = scopesOf(project.contract);
  const own = scopeWith(scopes, bundle);
  const others = scopes.filter((scope) => scope !== own);
  return others.flatMap(({ contract }) => new StageResolver({ ...project, contract }, world).eachAlone());
}

/** A stage as each part of the project has it here. */
export function stageInAllScopes(project: Project, stage: string, world: ResolverWorld): Resolution[] {
  return scopesOf(project.contract).map(({ contract }) => {
    const part = { ...project, contract };
    return new StageResolver(part, world).for(stageOf(part, stage)).asked;
  });
}

/** Every stage of every part of the project, as its own layers have it. */
export function allStages(project: Project, world: ResolverWorld): Resolution[] {
  return scopesOf(project.contract).flatMap(({ contract }) =>
    new StageResolver({ ...project, contract }, world).eachAlone(),
  );
}

type ResolverWorld = Pick<World, 'env' | 'outlet' | 'processes'>;

/**
 * Resolves stages of a project; a layer of several stages is read once.
 *
 * The environment of this process belongs to one stage, the one that is asked for. The others are resolved without it:
 * a pipeline that builds production has production's values there, and they say nothing about staging.
 */
export class StageResolver {
  readonly #layers = new Map<string, ReadLayer>();
  /** Within `adder with`: its stage, and what it gave to the build. */
  readonly #within: Within | undefined;
  /** Layers of other stages that could not be read: their values are not known. */
  readonly unread: { stage: string; layer: string; because: string }[] = [];

  constructor(
    readonly project: Project,
    readonly world: ResolverWorld,
  ) {
    this.#within = within(world.env, project.contract);
  }

  /**
   * @param others whether the command layers of the other stages run too: where their values are searched for
   * @throws Failure if a layer of the stage exists and cannot be read
   */
  for(stage: Stage, others: 'with commands' | 'without commands' = 'without commands'): ResolvedStages {
    const { contract } = this.project;
    const runs = others === 'with commands' || (!this.#within && hasCrossStageRule(contract));
    const all = this.#stages().map((one) => (one === stage ? this.#resolve(one, true) : this.#resolveOther(one, runs)));
    const index = this.#stages().indexOf(stage);
    const asked = all[index] as Resolution;
    const findings = [...asked.findings, ...crossStageFindings(contract, all, stage.name)];
    all[index] = { ...asked, findings, overridden: [...asked.overridden, ...this.#secretsOfProcess()] };
    return { asked: all[index] as Resolution, all };
  }

  /** Every stage from its own layers, and findings about several stages. */
  each(): { all: Resolution[]; findings: RawFinding[] } {
    const all = this.#stages().map((stage) => this.#resolve(stage, true));
    const alone = all.map((one) => (hasProcessLayer(one.stage) ? this.#resolve(one.stage, false) : one));
    return { all, findings: crossStageFindings(this.project.contract, alone) };
  }

  /** Every stage from its own layers, without the environment of this process. */
  eachAlone(): Resolution[] {
    return this.#stages().map((stage) => this.#resolve(stage, false));
  }

  /** Two stages from their own layers. The environment of this process is left out, because it would make them equal. */
  pair(first: Stage, second: Stage): { first: Resolution; second: Resolution; findings: RawFinding[] } {
    const [one, other] = [this.#resolve(first, false), this.#resolve(second, false)];
    return { first: one, second: other, findings: crossStageFindings(this.project.contract, [one, other]) };
  }

  /** Build and server values of this process, for stages that do not read it: they are masked too. */
  #secretsOfProcess(): NamedValue[] {
    const secret = [...this.project.contract.variables.values()].filter(({ reach }) => reach !== 'public');
    const names = secret.map(({ name }) => name);
    return literalValues(readProcessLayer(this.world.env, names).offers);
  }

  #stages(): Stage[] {
    return [...this.project.contract.stages.values()];
  }

  #resolve(stage: Stage, withProcess: boolean): Resolution {
    const layers = stage.layers.filter(({ kind }) => withProcess || kind !== 'process');
    const isBuilt = withProcess && this.#within?.stage === stage.name;
    return this.#resolved(
      stage,
      layers.map((layer) =>
        this.#layer(isBuilt && layer.kind === 'command' ? { kind: 'process', name: 'process' } : layer),
      ),
    );
  }

  /** A stage that was not asked for: a layer of it that cannot be read must not stop the command. */
  #resolveOther(stage: Stage, runsCommands: boolean): Resolution {
    const layers = stage.layers.flatMap((layer): ReadLayer[] => {
      if (layer.kind === 'process') return [];
      if (layer.kind === 'command' && !runsCommands) return [];
      try {
        return [this.#layer(layer)];
      } catch (error) {
        if (!(error instanceof Failure)) throw error;
        this.unread.push({ stage: stage.name, layer: layer.name, because: error.message });
        return [];
      }
    });
    return this.#resolved(stage, layers);
  }

  #resolved(stage: Stage, layers: readonly ReadLayer[]): Resolution {
    const { contract } = this.project;
    const resolution = resolveStage(contract, stage, layers, (name) => this.#stagesWith(name, stage));
    this.world.outlet.protect(protectedTexts(contract, resolution));
    return resolution;
  }

  /** The other stages whose files have a value for a name. */
  #stagesWith(name: string, except: Stage): string[] {
    const offers = (layer: Layer) =>
      layer.kind === 'file' && this.#layer(layer).offers.some((offer) => offer.name === name);
    return this.#stages().flatMap((stage) => (stage !== except && stage.layers.some(offers) ? [stage.name] : []));
  }

  #layer(layer: Layer): ReadLayer {
    const key = JSON.stringify(layer);
    const known = this.#layers.get(key);
    if (known) return known;
    const read = this.#read(layer);
    this.#layers.set(key, read);
    return read;
  }

  #read(layer: Layer): ReadLayer {
    const { contract } = this.project;
    if (layer.kind === 'command') return this.#command(layer);
    if (layer.kind === 'file') return this.#file(layer);
    const names = [...contract.variables.values()].flatMap((variable) => settableNames(contract, variable));
    return readProcessLayer(this.#within?.env ?? this.world.env, names);
  }

  #command({ name, command, seconds }: Extract<Layer, { kind: 'command' }>): ReadLayer {
    const { output, problem } = this.world.processes.capture(command, {
      cwd: this.project.root,
      env: this.world.env,
      seconds,
    });
    if (problem)
      throw new Failure(`the layer "${name}" ${problem}`, 'run it by hand to see why; Adder does not show its output');
    return readCommandLayer(name, output);
  }

  #file({ name, mustExist, key }: Extract<Layer, { kind: 'file' }>): ReadLayer {
    const { files, root } = this.project;
    const path = files.path.join(root, name);
    try {
      const stats = files.stat(path);
      if (!stats) return this.#absent(name, mustExist);
      if (!stats.isFile())
        throw new Failure(
          `the layer ${name} ${kindOf(stats)}, not a file`,
          'replace it with a file, or remove the layer from the contract',
        );
      if (stats.size > limits.envFileBytes.value)
        throw new Failure(
          `the layer ${name} is larger than ${byteSize(limits.envFileBytes.value)}`,
          'check that it is the right file; a layer contains names and values',
        );
      const { contract } = this.project;
      const facts = {
        isPublic: (variable: string) => reachOf(contract, variable) === 'public',
        isDeclared: (variable: string) => contract.variables.has(variable),
      };
      return readFileLayer(name, files.read(path), facts, key);
    } catch (error) {
      if (error instanceof Failure) throw error;
      throw new Failure(
        `the layer ${name} ${describeFileError(error)}`,
        'fix its permissions, or remove the layer from the contract',
      );
    }
  }

  #absent(name: string, mustExist: boolean): ReadLayer {
    if (mustExist)
      throw new Failure(
        `the layer ${name} does not exist, but the contract has \`must-exist: true\``,
        'create it, or remove `must-exist`',
      );
    const { files, root } = this.project;
    const layer = absentLayer(name, name);
    const listed = layersOf(this.project.contract).map((one) => one.name);
    const finding = misnamedFinding(name, files.namesIn(files.path.join(root, name, '..')), listed);
    return finding ? { ...layer, findings: [finding] } : layer;
  }
}

function hasProcessLayer({ layers }: Stage): boolean {
  return layers.some(({ kind }) => kind === 'process');
}
