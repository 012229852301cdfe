import { expect, test } from 'vitest';
import { askedFor, observedLines } from '../../../src/core/trial/observed.js';

const shown = (file: string) => (file.startsWith('/app/') ? file.slice(5) : undefined);

test('lines that a killed process left in half are skipped', () => {
  expect(observedLines('["A","/app/x.js",3]\n["B","/app/\n[1,2,3]\n')).toEqual([
    { name: 'A', file: '/app/x.js', line: 3 },
  ]);
});

test('each place of the project is listed once, and each package that asked', () => {
  const lines = observedLines(
    [
      '["B","/app/build.mjs",2]',
      '["A","/app/vite.config.js",3]',
      '["A","/app/vite.config.js",3]',
      '["A","/app/node_modules/@scope/tool/lib/x.js",9]',
      '["A","/app/node_modules/a/node_modules/b/x.js",9]',
      '["A","/elsewhere/x.js",1]',
    ].join('\n'),
  );
  expect(askedFor(lines, (file) => (file.includes('node_modules') ? undefined : shown(file)))).toEqual([
    { name: 'A', at: [{ path: 'vite.config.js', line: 3 }], inPackages: ['@scope/tool', 'b'] },
    { name: 'B', at: [{ path: 'build.mjs', line: 2 }], inPackages: [] },
  ]);
});
