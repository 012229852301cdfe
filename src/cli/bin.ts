import { VERSION } from '../version.js';

// Node.js opens a debugger on this signal, where every value of this process could be read; with a listener it does not.
process.on('SIGUSR1', () => undefined);

const argv = process.argv.slice(2);
// Nothing else is loaded: this is the call that other programs make first.
if (argv.length === 1 && argv[0] === '--version') process.stdout.write(`${VERSION}\n`);
else void start();

async function start(): Promise<void> {
  const { keepCompiled } = await import('../host/compile-cache.js');
  await keepCompiled();
  const [{ main }, { realWorld }] = await Promise.all([import('./main.js'), import('../host/world.js')]);
  // The exit code is set and not forced, so that all output is written before the process ends.
  process.exitCode = await main(argv, realWorld());
}
