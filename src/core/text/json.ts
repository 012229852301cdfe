/** What a JSON text holds; undefined if it is not valid JSON. */
export function jsonIn(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
