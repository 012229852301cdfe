/**
 * A package with a binary for each system lacks that of this one, as after an install without optional packages. The message is a
 * phrase after what the package reads.
 */
export class BinaryMissing extends Error {
  readonly remedy =
    'run `npm install --include=optional`; if that does not help, remove node_modules and the lock file, which may be of another system, and run it again';

  /** @param name the package */
  constructor(name: string, cause: unknown) {
    super(`cannot be read: ${name} has no binary for this system`, { cause });
    this.name = 'BinaryMissing';
  }
}

/** Loads a package with a binary for each system, or its build in WebAssembly where that has none. @throws BinaryMissing */
export function loadBinary(name: string, load: (name: string) => unknown): unknown {
  try {
    return load(name);
  } catch (error) {
    throw new BinaryMissing(name, error);
  }
}
