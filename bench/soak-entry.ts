export { realWorld } from '../src/host/world.js';
export { openProject } from '../src/project/open.js';
export { probe, usualProbe } from '../src/project/probe.js';
