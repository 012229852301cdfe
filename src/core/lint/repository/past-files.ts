import type { Contract } from '../../contract/contract.js';
import { parseEnvFile } from '../../envfile/parse.js';
import { isEnvLike } from '../../files/value-files.js';
import type { Resolution } from '../../resolve/resolve.js';
import { isPlaceholder } from '../../resolve/value-rules.js';
import { reveal } from '../../secrets/secret.js';
import { narrowNames } from './facts.js';

/** Names with a secret in versions of an env file. */
export interface PastNames {
  /** The value of some version is still a value of today. */
  still: string[];
  /** No value of today is known, so nothing tells whether it was rotated. */
  unknown: string[];
}

/**
 * Reads env files of the past, and compares their values with those of today: a value that was rotated gives nobody access,
 * wherever it can still be read.
 */
export class PastFiles {
  readonly #present = new Map<string, Set<string>>();
  readonly #found = new Map<string, { still: Set<string>; unknown: Set<string> }>();

  constructor(
    readonly contract: Contract,
    stages: readonly Resolution[],
  ) {
    for (const { values, undeclared, overridden } of stages) {
      for (const { variable, value } of values.values()) if (value) this.#know(variable.name, reveal(value));
      for (const { name, value } of [...undeclared, ...overridden]) this.#know(name, reveal(value));
    }
  }

  add(path: string, content: Uint8Array): void {
    if (!isEnvLike(path)) return;
    const found = this.#found.get(path) ?? { still: new Set(), unknown: new Set() };
    this.#found.set(path, found);
    for (const { name, value } of parseEnvFile(content).entries) {
      const [only, ...others] = value;
      if (narrowNames(this, [name]).length === 0 || value.length === 0) continue;
      const text = only?.kind === 'text' && others.length === 0 ? only.text : undefined;
      if (text !== undefined && (text.trim() === '' || isPlaceholder({}, text))) continue;
      const present = this.#present.get(name);
      if (!present) found.unknown.add(name);
      else if (text === undefined || present.has(text)) found.still.add(name);
    }
  }

  /** @returns undefined for a file of which no version was read */
  of(path: string): PastNames | undefined {
    const found = this.#found.get(path);
    return found && { still: [...found.still].sort(), unknown: [...found.unknown].sort() };
  }

  #know(name: string, text: string): void {
    if (text === '') return;
    this.#present.set(name, (this.#present.get(name) ?? new Set()).add(text));
  }
}
