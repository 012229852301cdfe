/** Items by a key of theirs, in the order in which the keys turn up. */
export function groupBy<T>(items: readonly T[], keyOf: (item: T) => string): Map<string, T[]> {
  const found = new Map<string, T[]>();
  for (const item of items) {
    const key = keyOf(item);
    const known = found.get(key);
    if (known) known.push(item);
    else found.set(key, [item]);
  }
  return found;
}
