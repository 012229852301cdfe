/** Computes a value on first use, and caches it. */
export function once<T>(make: () => T): () => T {
  let made: { value: T } | undefined;
  return () => {
    made ??= { value: make() };
    return made.value;
  };
}

/** Computes a value for each object on first use, and caches it as long as the object exists. */
export function oncePer<K extends object, V>(make: (key: K) => V): (key: K) => V {
  const made = new WeakMap<K, { value: V }>();
  return (key) => {
    const known = made.get(key) ?? { value: make(key) };
    made.set(key, known);
    return known.value;
  };
}
