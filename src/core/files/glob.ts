import picomatch from 'picomatch';

/** A longer one is refused by the package. */
const MOST_CHARACTERS = 65_536;

/** A test of paths, with `/`, against globs; hidden files match too. A glob that is empty or too long matches nothing. */
export function globMatcher(globs: string | readonly string[]): (path: string) => boolean {
  const usable = [globs].flat().filter(({ length }) => length > 0 && length <= MOST_CHARACTERS);
  return usable.length === 0 ? () => false : picomatch(usable, { dot: true });
}
