import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Layer, Stage } from '../core/contract/contract.js';
import { Failure } from '../core/failure.js';
import { absentLayer, type ReadLayer, readEnvFileLayer, readProcessLayer } from '../core/resolve/layers.js';
import { type Resolution, reachOf, resolveStage } from '../core/resolve/resolve.js';
import { describeFileError, kindOf, statOf } from '../host/files.js';
import type { World } from '../host/world.js';
import type { Project } from './open.js';

/** Resolves stages of a project; a file that is a layer of several stages is read once. */
export class Resolver {
  readonly #layers = new Map<string, ReadLayer>();

  constructor(
    readonly project: Project,
    readonly env: World['env'],
  ) {}

  /** @throws Failure where a layer is there and cannot be read */
  stage(stage: Stage): Resolution {
    return resolveStage(
      this.project.contract,
      stage,
      stage.layers.map((layer) => this.#layer(layer)),
    );
  }

  /** Every stage of the contract, in its order. */
  all(): Resolution[] {
    return [...this.project.contract.stages.values()].map((stage) => this.stage(stage));
  }

  #layer(layer: Layer): ReadLayer {
    const known = this.#layers.get(layer.name);
    if (known) return known;
    const { contract } = this.project;
    const read =
      layer.kind === 'process' ? readProcessLayer(this.env, contract.variables.keys()) : this.#file(layer.name);
    this.#layers.set(layer.name, read);
    return read;
  }

  #file(name: string): ReadLayer {
    const path = join(this.project.root, name);
    try {
      const stats = statOf(path);
      if (!stats) return absentLayer(name, name);
      if (!stats.isFile())
        throw new Failure(
          `the layer ${name} ${kindOf(stats)}, not a file`,
          'put an env file there, or take the layer out of the contract',
        );
      const isPublic = (variable: string) => reachOf(this.project.contract, variable) === 'public';
      return readEnvFileLayer(name, name, readFileSync(path), isPublic);
    } catch (error) {
      if (error instanceof Failure) throw error;
      throw new Failure(
        `the layer ${name} ${describeFileError(error)}`,
        'mend its permissions, or take the layer out of the contract',
      );
    }
  }
}
