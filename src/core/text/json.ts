/** Parses a JSON text; undefined if it is not valid JSON. */
export function jsonIn(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** A string that is a value of a document. */
export interface StringValue {
  /** The name of its property, or of the property of its list; empty without one. */
  key: string;
  text: string;
}

/** The strings that are values in a parsed document, at any depth, in their order. */
export function stringValues(document: unknown): StringValue[] {
  const found: StringValue[] = [];
  const waiting: { node: unknown; key: string }[] = [{ node: document, key: '' }];
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    const { node, key } = next;
    if (typeof node === 'string') found.push({ key, text: node });
    else if (typeof node === 'object' && node !== null) {
      const inner = Object.entries(node).map(([name, one]) => ({ node: one, key: Array.isArray(node) ? key : name }));
      waiting.push(...inner.reverse());
    }
  }
  return found;
}
