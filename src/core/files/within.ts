import { globMatcher } from './glob.js';

/** Tells whether a path is one of some paths, below one, or fits one of their globs. All are relative to one directory, with `/`. */
export function within(paths: readonly string[]): (path: string) => boolean {
  const tests = paths.map((one) => {
    const path = one.replace(/^\.\//, '').replace(/\/$/, '');
    if (/[*?{[]/.test(path)) return globMatcher(path);
    return path === '.' ? () => true : (other: string) => other === path || other.startsWith(`${path}/`);
  });
  return (path) => tests.some((test) => test(path));
}
