import { realWorld } from '../host/world.js';
import { main } from './main.js';

// The exit code is set and not forced, so that all output is written before the process ends.
main(process.argv.slice(2), realWorld()).then((code) => {
  process.exitCode = code;
});
