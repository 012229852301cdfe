import { extensionOf } from '../files/languages.js';
import { table } from '../text/table.js';

/** How native code gets a value. */
export type NativeTime =
  /** The compiler puts it into the binary. */
  | 'build'
  /** The running app looks it up in its own environment. */
  | 'run'
  /** A whole file is put into the binary. */
  | 'file';

/** A read of native code. Offsets are UTF-16 code units. */
export interface NativeRead {
  /** A variable's name, or a path. */
  name: string;
  time: NativeTime;
  /** The way to read, as code: `env!`. */
  by: string;
  start: number;
  end: number;
}

interface Way {
  by: string;
  time: NativeTime;
  /** The first group is the name. */
  pattern: RegExp;
}

const rust: readonly Way[] = [
  { by: 'env!', time: 'build', pattern: /(?<![\w:])(?:std::|core::)?env!\s*\(\s*"(\w+)"/dg },
  { by: 'option_env!', time: 'build', pattern: /\boption_env!\s*\(\s*"(\w+)"/dg },
  { by: 'std::env::var', time: 'run', pattern: /\benv::var(?:_os)?\s*\(\s*"(\w+)"/dg },
  { by: 'include_str!', time: 'file', pattern: /\binclude_(?:str|bytes)!\s*\(\s*"([^"\n]+)"/dg },
];

const java: readonly Way[] = [
  { by: 'BuildConfig', time: 'build', pattern: /\bBuildConfig\.([A-Z][A-Z0-9_]+)\b/dg },
  { by: 'System.getenv', time: 'run', pattern: /\bSystem\.getenv\s*\(\s*"(\w+)"/dg },
];

const gradle: readonly Way[] = [
  { by: 'buildConfigField', time: 'build', pattern: /\bbuildConfigField\s*\(?\s*["']\w+["']\s*,\s*["'](\w+)["']/dg },
  { by: 'resValue', time: 'build', pattern: /\bresValue\s*\(?\s*["']\w+["']\s*,\s*["'](\w+)["']/dg },
];

const swift: readonly Way[] = [
  { by: 'ProcessInfo', time: 'run', pattern: /\bProcessInfo\.processInfo\.environment\s*\[\s*"(\w+)"/dg },
];

/** Ways to read, by file extension. One line per language. */
const ways: Readonly<Record<string, readonly Way[]>> = table({
  rs: rust,
  kt: java,
  java,
  gradle,
  kts: gradle,
  swift,
});

/** Languages without a reader, by file extension. */
const others: Readonly<Record<string, string>> = table({
  cs: 'C#',
  go: 'Go',
  rb: 'Ruby',
  php: 'PHP',
  py: 'Python',
  c: 'C',
  cc: 'C++',
  cpp: 'C++',
  m: 'Objective-C',
  mm: 'Objective-C',
});

/** Tells whether native code of this file is read. */
export function isNative(path: string): boolean {
  return extensionOf(path) in ways;
}

/** The language of a file without a reader. */
export function unreadLanguage(path: string): string | undefined {
  return others[extensionOf(path)];
}

/** The reads of a native source text, in its order. Comments do not count. */
export function readsInNative(path: string, text: string): NativeRead[] {
  const code = withoutComments(text);
  const found = (ways[extensionOf(path)] ?? []).flatMap(({ by, time, pattern }) =>
    [...code.matchAll(pattern)].map(({ 1: name = '', indices }) => {
      const [start = 0, end = 0] = indices?.[1] ?? [];
      return { name, time, by, start, end };
    }),
  );
  return found.sort((a, b) => a.start - b.start);
}

/** Comments as spaces, so that offsets stay. All of these languages have strings in double quotes. */
function withoutComments(text: string): string {
  return text.replace(/"(?:[^"\\\n]|\\.)*"|\/\/[^\n]*|\/\*[\s\S]*?\*\//g, (match) =>
    match[0] === '"' ? match : match.replace(/[^\n]/g, ' '),
  );
}
