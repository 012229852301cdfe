import { parentPort, workerData } from 'node:worker_threads';
import { realWorld } from '../host/world.js';
import { lintChecks } from './lint-thread.js';
import { openProject } from './open.js';

/** What the thread checks. */
export interface LintOrder {
  contractPath: string;
  cwd: string;
}

const { contractPath, cwd } = workerData as LintOrder;
const world = { ...realWorld(), cwd };
lintChecks(openProject(world, contractPath), world).then((checks) => parentPort?.postMessage(checks));
