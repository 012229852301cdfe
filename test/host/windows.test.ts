import { expect, test } from 'vitest';
import { renameFile } from '../../src/host/rename.js';
import { environmentOf } from '../../src/host/world.js';

/** A system that refuses a number of renames. */
function system(platform: string, refusals: number, code = 'EPERM') {
  let tries = 0;
  const rename = () => {
    if (++tries <= refusals) throw Object.assign(new Error('refused'), { code });
  };
  return { platform, rename, tries: () => tries };
}

test.each<[title: string, platform: string, refusals: number, code: string, isDone: boolean, tries: number]>([
  ['a file that is open for a moment', 'win32', 2, 'EPERM', true, 3],
  ['a file that is locked for a moment', 'win32', 1, 'EBUSY', true, 2],
  ['a file that stays open', 'win32', 20, 'EPERM', false, 20],
  ['a file that stays open for less', 'win32', 19, 'EPERM', true, 20],
  ['another reason', 'win32', 1, 'ENOSPC', false, 1],
  ['another system', 'linux', 1, 'EPERM', false, 1],
])('a rename over %s, on %s', (_, platform, refusals, code, isDone, tries) => {
  const made = system(platform, refusals, code);
  const rename = () => renameFile('a', 'b', made);
  if (isDone) rename();
  else expect(rename).toThrow('refused');
  expect(made.tries()).toBe(tries);
});

test.each<[platform: string, name: string, value: string | undefined]>([
  ['win32', 'FERRY_API_URL', 'https://a.test'],
  ['win32', 'ferry_api_url', 'https://a.test'],
  ['win32', 'PATH', 'C:\\bin'],
  ['win32', 'Other', undefined],
  ['linux', 'FERRY_API_URL', undefined],
  ['linux', 'PATH', undefined],
  ['linux', 'constructor', undefined],
])('on %s, the environment has %s as %j', (platform, name, value) => {
  const env = environmentOf({ ferry_api_url: 'https://a.test', Path: 'C:\\bin' }, platform);
  expect(env[name]).toBe(value);
  expect(Object.keys(env)).toEqual(['ferry_api_url', 'Path']);
});
