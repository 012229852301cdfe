import { describe, expect, test } from 'vitest';
import { commandFiles, shellReads } from '../../../src/core/build/command-files.js';

describe('the files that a command runs', () => {
  const scripts = {
    build: 'npm run pack && node ./scripts/after.mjs',
    pack: 'webpack --config=config/webpack.prod.js',
    release: 'bash tools/release.sh',
    loop: 'npm run loop',
  };

  test.each<[command: string, scripts: string[], shell: string[]]>([
    ['npm run build', ['scripts/after.mjs', 'config/webpack.prod.js'], []],
    ['yarn build', ['scripts/after.mjs', 'config/webpack.prod.js'], []],
    ['vite build --config tools/vite.mts', ['tools/vite.mts'], []],
    ['vite build', [], []],
    ['node node_modules/vite/bin/vite.js build', [], []],
    ['pnpm release && ./check.sh', [], ['check.sh', 'tools/release.sh']],
    ['npm run loop', [], []],
    ['npm run constructor', [], []],
  ])('%s', (command, javascript, shell) => {
    const found = commandFiles(command, scripts);
    expect([...found.scripts].sort()).toEqual([...javascript].sort());
    expect([...found.shell].sort()).toEqual([...shell].sort());
  });
});

test.each<[text: string, reads: string[]]>([
  ['vite build --mode $STAGE', ['STAGE']],
  ['echo "${STAGE:-production}" $STAGE', ['STAGE']],
  ["echo '$STAGE'", []],
  ['# $STAGE\necho 1', []],
  ['STAGE=a; echo $STAGE', []],
  ['export STAGE=$CHANNEL\nvite --mode $STAGE', ['CHANNEL']],
  ['echo $1 $? $$', []],
  ['cross-env API_URL=$HOST_URL webpack', ['HOST_URL']],
])('%s reads %j', (text, reads) => expect([...shellReads(text).keys()]).toEqual(reads));

test('a read has the offset of its first place', () => {
  expect(shellReads("echo 'a' $A $A").get('A')).toBe(9);
});
