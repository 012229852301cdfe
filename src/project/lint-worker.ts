import { parentPort, workerData } from 'node:worker_threads';
import { realWorld } from '../host/world.js';
import { type LintOrder, lintChecks } from './lint-thread.js';
import { openProject } from './open.js';

const { contractPath, cwd } = workerData as LintOrder;
const world = { ...realWorld(), cwd };
lintChecks(openProject(world, contractPath), world).then((checks) => parentPort?.postMessage(checks));
