import { expect, test } from 'vitest';
import { isNative, readsInNative, unreadLanguage } from '../../../src/core/reads/native.js';

test.each<[path: string, text: string, reads: string[]]>([
  [
    'a.rs',
    'const A: &str = env!("API_URL"); let b = option_env!("KEY");',
    ['build env! API_URL', 'build option_env! KEY'],
  ],
  ['a.rs', 'std::env::var("API_URL"); env::var_os("B")', ['run std::env::var API_URL', 'run std::env::var B']],
  [
    'a.rs',
    'include_str!("../.env") // env!("COMMENT")\n/* env!("C") */ "env!(\\"S\\")"',
    ['file include_str! ../.env'],
  ],
  [
    'a.kt',
    'val url = BuildConfig.API_URL + System.getenv("KEY")',
    ['build BuildConfig API_URL', 'run System.getenv KEY'],
  ],
  ['build.gradle', "buildConfigField 'String', 'API_URL', x", ['build buildConfigField API_URL']],
  ['build.gradle.kts', 'buildConfigField("String", "API_URL", x)', ['build buildConfigField API_URL']],
  ['a.swift', 'ProcessInfo.processInfo.environment["KEY"]', ['run ProcessInfo KEY']],
])('%s: %s', (path, text, reads) => {
  const found = readsInNative(path, text);
  expect(found.map(({ time, by, name }) => `${time} ${by} ${name}`)).toEqual(reads);
  for (const { name, start, end } of found) expect(text.slice(start, end)).toBe(name);
});

test('languages', () => {
  expect([isNative('src-tauri/src/main.rs'), isNative('a.ts'), isNative('a.go')]).toEqual([true, false, false]);
  expect([unreadLanguage('a.go'), unreadLanguage('a.rs')]).toEqual(['Go', undefined]);
});
