// Builds on each change in src: `npm run dev`, with `npx vitest test/core/forms` or `node dist/adder.cjs` beside it.
import { spawn } from 'node:child_process';
import { watch } from 'chokidar';

let running;
let isStale = false;

function build() {
  if (running) {
    isStale = true;
    return;
  }
  isStale = false;
  running = spawn(process.execPath, ['scripts/build.mjs'], { stdio: 'inherit' });
  running.on('close', (code) => {
    running = undefined;
    console.log(code === 0 ? 'built; waiting for changes' : `build failed with exit code ${code}; waiting for changes`);
    if (isStale) build();
  });
}

watch(['src', 'scripts/build.mjs'], { ignoreInitial: true }).on('all', build);
build();
