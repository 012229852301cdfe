/**
 * A table that is looked up by names from outside. Plain objects know names of their own (`constructor`, `__proto__`), which
 * would be answered with what nobody put there; this one knows its entries alone.
 */
export function table<Entries extends object>(entries: Entries): Entries {
  return Object.freeze(Object.assign(Object.create(null), entries)) as Entries;
}
