import { Failure } from '../core/findings/failure.js';
import { type AdderOptions, Session } from './session.js';

/** One bundler run as its options describe it, and its session, which is opened when it is first needed. */
export class Bundling {
  root = process.cwd();
  isServer = false;
  /** False only where the bundler is known to make no source maps. */
  needsMaps = true;
  #session: Session | undefined;

  constructor(readonly options: AdderOptions) {}

  get session(): Session {
    this.#session ??= opened(this.options, this.root);
    return this.#session;
  }

  /** Resolves the values again, if they were resolved before. @returns the message of a failure, which contains no value */
  refresh(): string | undefined {
    return attempt(() => this.#session?.refresh());
  }

  /** Keeps a note of which modules read which variables. */
  record(): void {
    this.#session?.record();
  }
}

function opened(options: AdderOptions, cwd: string): Session {
  try {
    return new Session(options, cwd);
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
