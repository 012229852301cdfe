import { isSource } from '../core/files/languages.js';
import { Failure } from '../core/findings/failure.js';
import { type AdderOptions, asBuildError, Session } from './session.js';

/** One bundler run as its options describe it, and its session, which is opened when it is first needed. */
export class Bundling {
  root = process.cwd();
  isServer = false;
  /** True if this is a dev server or a test run, whose output does not ship. */
  isDevelopment = false;
  /** False only where the bundler is known to make no source maps. */
  needsMaps = true;
  /** Why the values of a watch build are those before the last change. */
  problem: string | undefined;
  #session: Session | undefined;
  #isStarted = false;
  /** The session that {@link readPattern} is from, which stays the one if the bundler's options say nothing else. */
  #early: Session | undefined;
  /**
   * A pattern that every module matches which may read a value, by the contract as it is when the plugin is made: the bundler
   * itself looks for it, so other modules cost nothing. Undefined if no contract is found yet.
   */
  readonly readPattern: RegExp | undefined;

  constructor(readonly options: AdderOptions) {
    attempt(() => {
      this.#early = new Session(options, this.root);
    });
    this.readPattern = this.#early?.readPattern;
  }

  get session(): Session {
    this.#session ??= asBuildError(() => this.#opened());
    this.#early = undefined;
    return this.#session;
  }

  #opened(): Session {
    if (this.#early?.cwd === this.root && this.#early.isDevelopment === this.isDevelopment) return this.#early;
    const opened = new Session(this.options, this.root, this.isDevelopment);
    this.#assertSeen(opened);
    return opened;
  }

  /** @throws Failure if the bundler looks for reads of other objects than the contract has */
  #assertSeen(session: Session): void {
    const { readPattern } = this;
    if (readPattern === undefined || session.readPattern.source === readPattern.source) return;
    throw new Failure(
      'the contract has other `reads` than when the plugin was made',
      'start the build again; if it has another root than the working directory, give the plugin the path: `contract`',
    );
  }

  /** Resolves the values again, if they were resolved before. @returns the message of a failure, which contains no value */
  refresh(): string | undefined {
    return attempt(() => {
      // A session that no module has used may be of a contract that has changed since.
      if (!this.#session && this.#isStarted) this.#early = undefined;
      this.#isStarted = true;
      this.#session?.refresh();
      if (this.#session) this.#assertSeen(this.#session);
    });
  }

  /** @throws Error if a built chunk still reads a public variable: the plugin did not see the module that does */
  checkChunks(chunks: Readonly<Record<string, { type: string; code?: string }>>): void {
    for (const [path, { code = '' }] of Object.entries(chunks)) {
      const [left] = this.session.leftIn(code);
      if (!left) continue;
      const reader = left.module === undefined ? '' : ` (read by ${left.module})`;
      throw new Error(
        `adder: ${left.name} is not replaced in ${path}${reader}, so it is undefined there; read it in the project's own code, and pass the value on`,
      );
    }
  }

  /** A package's module with its reads of public variables marked, for {@link checkChunks}. */
  markPackage(path: string, text: string, warn: (message: string) => void): { code: string; map: null } | null {
    if (this.isServer || this.isDevelopment || !isSource(path)) return null;
    const { code, takesMany } = this.session.packageModule(path, text);
    if (takesMany) warn(`${path} uses all of import.meta.env, which contains no value of the contract`);
    return code === undefined ? null : { code, map: null };
  }

  /** Records which modules read which variables. */
  record(): void {
    this.#session?.record();
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
