import { Failure } from '../core/findings/failure.js';
import { type AdderOptions, Session } from './session.js';

/** One bundler run as its options describe it, and its session, which is opened when it is first needed. */
export class Bundling {
  root = process.cwd();
  isServer = false;
  /** Whether this is a dev server or a test run, whose output does not ship. */
  isDevelopment = false;
  /** False only where the bundler is known to make no source maps. */
  needsMaps = true;
  #session: Session | undefined;

  constructor(readonly options: AdderOptions) {}

  get session(): Session {
    this.#session ??= opened(this.options, this.root, this.isDevelopment);
    return this.#session;
  }

  /** Resolves the values again, if they were resolved before. @returns the message of a failure, which contains no value */
  refresh(): string | undefined {
    return attempt(() => this.#session?.refresh());
  }

  /** @throws Error if a built chunk still reads a public variable: the plugin did not see the module that does */
  checkChunks(chunks: Readonly<Record<string, { type: string; code?: string }>>): void {
    for (const [path, { code = '' }] of Object.entries(chunks)) {
      const [name] = code.includes('.env.') ? this.session.leftIn(code) : [];
      if (name !== undefined)
        throw new Error(
          `adder: ${name} is not replaced in ${path}, so it is undefined there; read it in the project's own code`,
        );
    }
  }

  /** Records which modules read which variables. */
  record(): void {
    this.#session?.record();
  }
}

function opened(options: AdderOptions, cwd: string, isDevelopment: boolean): Session {
  try {
    return new Session(options, cwd, isDevelopment);
  } catch (error) {
    throw error instanceof Failure ? new Error(`adder: ${error.message}\n  → ${error.remedy}`) : error;
  }
}

function attempt(act: () => void): string | undefined {
  try {
    act();
    return undefined;
  } catch (error) {
    if (error instanceof Failure) return error.message;
    throw error;
  }
}
