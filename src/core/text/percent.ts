/** A text without percent-encoding (RFC 3986, 2.1); the text itself if that is not valid. */
export function percentDecoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}
