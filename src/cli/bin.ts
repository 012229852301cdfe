import { realWorld } from '../host/world.js';
import { main } from './main.js';

// Node.js opens a debugger on this signal, where every value of this process could be read; with a listener it does not.
process.on('SIGUSR1', () => undefined);

// The exit code is set and not forced, so that all output is written before the process ends.
main(process.argv.slice(2), realWorld()).then((code) => {
  process.exitCode = code;
});
