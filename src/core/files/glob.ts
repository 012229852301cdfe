import picomatch from 'picomatch';

/** A test of paths, with `/`, against globs; hidden files match too. */
export function globMatcher(globs: string | readonly string[]): (path: string) => boolean {
  return picomatch([globs].flat(), { dot: true });
}
