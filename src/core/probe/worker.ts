/** Texts of a service worker that answers requests for pages with a file that it keeps. */
const kept = [
  /\bcreateHandlerBoundToURL\s{0,9}\(/,
  /\bcaches?\s{0,9}\.\s{0,9}match\s{0,9}\(\s{0,9}["'`]\.?\/(?:index\.html)?["'`]/,
  /\bprecache(?:AndRoute)?\s{0,9}\([\s\S]{0,100000}?["'`](?:\.?\/)?index\.html["'`]/,
];

/** Tells whether a service worker answers the start page from its cache. */
export function keepsStartPage(text: string): boolean {
  return kept.some((one) => one.test(text));
}
