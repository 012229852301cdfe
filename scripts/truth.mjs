// `npm run truth [PROGRAMS] [SEED] [TOOLS]`: builds generated programs with each tool, runs them, and compares what they do
// with what Adder says. Without a seed, today's date is one, so that a nightly run sees other programs.
import { spawnSync } from 'node:child_process';

const [programs = '2000', seed = new Date().toISOString().slice(0, 10).replaceAll('-', ''), tools] =
  process.argv.slice(2);
const { status } = spawnSync('npx', ['vitest', 'run', 'test/truth'], {
  stdio: 'inherit',
  shell: process.platform === 'win32',
  env: {
    ...process.env,
    ADDER_TRUTH_PROGRAMS: programs,
    ADDER_TRUTH_SEED: seed,
    ADDER_TRUTH_TOOLS: tools ?? 'vite esbuild rolldown webpack rspack',
  },
});
process.exitCode = status ?? 1;
