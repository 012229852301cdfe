/** A text without the spaces and tabs at its end. A regular expression would look at each run of blanks in it anew. */
export function withoutEndBlanks(text: string): string {
  let end = text.length;
  while (end > 0 && (text[end - 1] === ' ' || text[end - 1] === '\t')) end--;
  return text.slice(0, end);
}
