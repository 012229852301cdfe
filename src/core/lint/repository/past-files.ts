import type { Contract } from '../../contract/contract.js';
import { parseEnvFile } from '../../envfile/parse.js';
import { isEnvLike, valueFileOf } from '../../files/value-files.js';
import type { Resolution } from '../../resolve/resolve.js';
import { isPlaceholder } from '../../resolve/value-rules.js';
import { reveal } from '../../secrets/secret.js';
import { narrowNames } from './facts.js';

/** Names with a secret in versions of an env file. */
export interface PastNames {
  /** The value of some version is still a value of today. */
  still: string[];
  /** Its stages have no value here, so nothing tells whether it was rotated. */
  unknown: string[];
}

/**
 * Reads env files of the past, and compares their values with those of today. A value that its stage has replaced gives nobody
 * access, wherever it can still be read; of a stage that has none here, nothing is known.
 */
export class PastFiles {
  /** The values of each name, over all stages. */
  readonly #present = new Map<string, Set<string>>();
  /** The names with a value, by stage. */
  readonly #named = new Map<string, Set<string>>();
  readonly #found = new Map<string, { still: Set<string>; unknown: Set<string> }>();

  constructor(
    readonly contract: Contract,
    stages: readonly Resolution[],
  ) {
    for (const { stage, values, undeclared, overridden } of stages) {
      for (const { variable, value } of values.values())
        if (value) this.#know(stage.name, variable.name, reveal(value));
      for (const { name, value } of [...undeclared, ...overridden]) this.#know(stage.name, name, reveal(value));
    }
  }

  add(path: string, content: Uint8Array): void {
    if (!isEnvLike(path)) return;
    const found = this.#found.get(path) ?? { still: new Set(), unknown: new Set() };
    this.#found.set(path, found);
    const stages = this.#stagesOf(path);
    for (const { name, value } of parseEnvFile(content).entries) {
      const [only, ...others] = value;
      if (narrowNames(this, [name]).length === 0 || value.length === 0) continue;
      const text = only?.kind === 'text' && others.length === 0 ? only.text : undefined;
      if (text !== undefined && (text.trim() === '' || isPlaceholder({}, text))) continue;
      const isReplaced = stages.length > 0 && stages.every((stage) => this.#named.get(stage)?.has(name));
      if (text === undefined || this.#present.get(name)?.has(text)) found.still.add(name);
      else if (!isReplaced) found.unknown.add(name);
    }
  }

  /** @returns undefined if no version of the file was read */
  of(path: string): PastNames | undefined {
    const found = this.#found.get(path);
    return found && { still: [...found.still].sort(), unknown: [...found.unknown].sort() };
  }

  /** The stages that have a file as a layer, or by its name. */
  #stagesOf(path: string): string[] {
    const { stages } = this.contract;
    const layered = [...stages.values()].filter(({ layers }) =>
      layers.some(({ kind, name }) => kind === 'file' && name === path),
    );
    const named = valueFileOf(path)?.stage;
    return layered.length > 0
      ? layered.map(({ name }) => name)
      : named !== undefined && stages.has(named)
        ? [named]
        : [];
  }

  #know(stage: string, name: string, text: string): void {
    if (text === '') return;
    this.#present.set(name, (this.#present.get(name) ?? new Set()).add(text));
    this.#named.set(stage, (this.#named.get(stage) ?? new Set()).add(name));
  }
}
