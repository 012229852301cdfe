import { type ChildProcessByStdio, spawn, spawnSync } from 'node:child_process';
import type { Readable, Writable } from 'node:stream';
import { EXIT, Failure } from '../core/findings/failure.js';
import { quoted } from '../core/text/display.js';

/** Git cannot read a repository that exists, so a report must not call it clean. */
export class GitProblem extends Failure {
  /** @param because a phrase that follows what was asked about; git's own text may contain an address with a password */
  constructor(
    readonly because: string,
    remedy: string,
  ) {
    super(`the git repository ${because}`, remedy, EXIT.unread);
  }
}

/**
 * Git in a directory of a work tree. It runs no program that the repository's configuration names: the author of a
 * repository must not run anything when it is only read. So hooks, file system monitors, filters and signature checks are off.
 */
export class Git {
  /** @param isNear whether git finds the repository from the directory; else the environment says where it is */
  constructor(
    readonly directory: string,
    readonly isNear: boolean,
  ) {}

  #settings: readonly string[] | undefined;

  /**
   * Runs git, and returns its standard output.
   * @param fine exit codes that are an answer
   * @throws GitProblem
   */
  ask(args: readonly string[], { input, fine = [0] }: { input?: string; fine?: readonly number[] } = {}): string {
    return this.#run([...this.#harmless(), ...args], input, fine);
  }

  /** Starts git, for long answers. */
  start(args: readonly string[]): ChildProcessByStdio<Writable, Readable, null> {
    return spawn('git', [...this.#harmless(), ...args], {
      cwd: this.directory,
      env: environment(this.isNear),
      stdio: ['pipe', 'pipe', 'ignore'],
    });
  }

  /** The filters that the configuration has are off too, by name; asked for once. */
  #harmless(): readonly string[] {
    if (!this.#settings) {
      // Exit code 1: none.
      const keys = this.#run(['config', '--null', '--name-only', '--get-regexp', '^filter\\.'], undefined, [0, 1]);
      const filters = new Set(keys.split('\0').flatMap((key) => key.slice(0, key.lastIndexOf('.')) || []));
      const off = ['clean=', 'smudge=', 'process=', 'required=false'];
      const settings = [...filters].flatMap((name) => off.map((setting) => `${name}.${setting}`));
      this.#settings = [...withoutPrograms, ...settings].flatMap((setting) => ['-c', setting]);
    }
    return this.#settings;
  }

  #run(args: readonly string[], input: string | undefined, fine: readonly number[]): string {
    const { status, stdout, stderr, error } = spawnSync('git', args, {
      cwd: this.directory,
      env: environment(this.isNear),
      encoding: 'utf8',
      maxBuffer: 1024 * 1024 * 1024,
      ...(input !== undefined && { input }),
    });
    if (error === undefined && status !== null && fine.includes(status)) return stdout;
    throw problemOf((error as NodeJS.ErrnoException | undefined)?.code, status, stderr ?? '');
  }
}

const withoutPrograms: readonly string[] = [
  'core.fsmonitor=false',
  'core.hooksPath=/dev/null',
  'core.quotepath=off',
  'core.alternateRefsCommand=',
  'diff.external=',
  'log.showSignature=false',
  'gpg.program=false',
];

/**
 * Where git looks for its files (`git rev-parse --local-env-vars`, without settings). Git sets some of them for a hook, and
 * they would make it take the present directory for the top of the work tree.
 */
const locations: readonly string[] = [
  'GIT_DIR',
  'GIT_WORK_TREE',
  'GIT_IMPLICIT_WORK_TREE',
  'GIT_COMMON_DIR',
  'GIT_INDEX_FILE',
  'GIT_OBJECT_DIRECTORY',
  'GIT_ALTERNATE_OBJECT_DIRECTORIES',
  'GIT_SHALLOW_FILE',
  'GIT_PREFIX',
];

/** The index is not locked, and objects missing in a partial clone are not fetched. */
function environment(isNear: boolean): NodeJS.ProcessEnv {
  return {
    ...process.env,
    ...(isNear && Object.fromEntries(locations.map((name) => [name, undefined]))),
    // Its errors are recognised by their text.
    LC_ALL: 'C',
    GIT_OPTIONAL_LOCKS: '0',
    GIT_NO_LAZY_FETCH: '1',
    GIT_ALLOW_PROTOCOL: 'none',
    GIT_TERMINAL_PROMPT: '0',
  };
}

function problemOf(code: string | undefined, status: number | null, stderr: string): GitProblem {
  if (code === 'ENOENT') return new GitProblem('cannot be read: git is not installed', 'install git');
  const owned = /detected dubious ownership in repository at '([^']*)'/.exec(stderr)?.[1];
  if (owned !== undefined)
    return new GitProblem(
      'belongs to another user, and git does not read it',
      `run \`git config --global --add safe.directory ${quoted(owned)}\``,
    );
  if (/unable to read tree|promisor remote|lazy fetching/.test(stderr))
    return new GitProblem('lacks objects, because the clone is partial', 'check in a whole clone');
  const how = code ?? (status === null ? 'was stopped' : `failed with exit code ${status}`);
  return new GitProblem(`cannot be read: git ${how}`, 'run `git status` in it to see why');
}
