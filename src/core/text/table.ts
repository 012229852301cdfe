/**
 * A table for names from outside. Plain objects inherit names (`constructor`, `__proto__`), so a lookup could return something
 * that is not an entry; this one has only its entries.
 */
export function table<Entries extends object>(entries: Entries): Entries {
  return Object.freeze(Object.assign(Object.create(null), entries)) as Entries;
}
