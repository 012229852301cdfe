import { existsSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import type { CheckResult } from '../core/findings/check.js';
import type { World } from '../host/world.js';
import { checkCode } from './lint.js';
import type { Project } from './open.js';
import { checkRepository } from './repository.js';

/** The project that the thread checks. */
export interface LintOrder {
  contractPath: string;
  cwd: string;
}

/** The checks of code and repository, as plain data. */
export async function lintChecks(project: Project, world: World): Promise<CheckResult[]> {
  const found = await checkCode(project, { bundles: [...project.contract.bundles.values()] }, world);
  const repository = await checkRepository(project, found, world);
  const { code: _, fixable: __, ...code } = found;
  return [code, repository];
}

/** Checks that run beside others. */
export interface LintThread {
  /** Rejects if the thread could not do it. */
  checks: Promise<CheckResult[]>;
  end(): Promise<unknown>;
}

/** Less output is searched before the thread has started. */
const WORTH_A_THREAD = 16 * 2 ** 20;

/**
 * Starts the checks of code and repository in a thread, if that saves time.
 * @param bytes of the output that the main thread searches meanwhile
 */
export function lintInThread({ contractPath }: Project, { cwd }: World, bytes: number): LintThread | undefined {
  const program = join(import.meta.dirname, 'lint-worker.cjs');
  if (bytes < WORTH_A_THREAD || availableParallelism() < 2 || !existsSync(program)) return undefined;
  const worker = new Worker(program, { workerData: { contractPath, cwd } satisfies LintOrder });
  const checks = new Promise<CheckResult[]>((resolve, reject) => {
    worker.once('message', resolve).once('error', reject);
    worker.once('exit', () => reject(new Error('the thread ended early')));
  });
  // It is awaited later.
  checks.catch(() => undefined);
  return { checks, end: () => worker.terminate() };
}
