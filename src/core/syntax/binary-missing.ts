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

/**
 * Loads a package with a binary for each system, or its build in WebAssembly where that has none. Node.js warns that the interface of
 * such builds is experimental, which nobody who runs a check can change.
 * @throws BinaryMissing
 */
export function loadBinary(name: string, load: (name: string) => unknown): unknown {
  const { emitWarning } = process;
  process.emitWarning = () => undefined;
  try {
    return load(name);
  } catch (error) {
    throw new BinaryMissing(name, error);
  } finally {
    process.emitWarning = emitWarning;
  }
}
