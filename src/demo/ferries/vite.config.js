import { readFileSync } from 'node:fs';
import { defineConfig } from 'vite';

// Left over from an afternoon of debugging: says which key the fares are signed with.
const leftover = {
  name: 'leftover',
  buildStart() {
    const line = readFileSync('.env.production', 'utf8').match(/FARE_SIGNING_KEY=.*/)?.[0];
    console.log(`signing fares with ${line}`);
  },
};

export default defineConfig({
  root: 'web',
  build: { sourcemap: true },
  plugins: [leftover],
});
