import { expect, test } from 'vitest';
import { kindOfCommand } from '../../../src/core/build/command.js';

test.each([
  ['npm run build', 'build'],
  ['npm run dev', 'dev server'],
  ['npm start', 'server'],
  ['pnpm dev --port 4180', 'dev server'],
  ['yarn run preview', 'server'],
  ['npm run dev:staging', 'dev server'],
  ['npm run develop-docs', 'build'],
  ['npx vite', 'dev server'],
  ['npx vite build', 'build'],
  ['vite --host', 'dev server'],
  ['npx -- vite preview', 'server'],
  ['next dev', 'dev server'],
  ['next build', 'build'],
  ['next start -p 4180', 'server'],
  ['node_modules/.bin/ng serve', 'dev server'],
  ['ng build', 'build'],
  ['webpack --watch', 'dev server'],
  ['webpack --mode production', 'build'],
  ['electron-vite dev', 'dev server'],
  ['electron-vite build --mode staging', 'build'],
  ['npx start', 'build'],
  ['node build.js', 'build'],
  ['', 'build'],
])('%s: %s', (command, kind) => expect(kindOfCommand(command.split(' '))).toBe(kind));
