/**
 * How seldom each byte stands in build output, roughly: letters are everywhere, signs of code nearly so, digits and capitals less,
 * bytes that are no text least. It only decides how often a search looks twice.
 */
export const byteRarity: Uint8Array = Uint8Array.from({ length: 256 }, (_, byte) => scoreOf(byte));

function scoreOf(byte: number): number {
  const sign = String.fromCharCode(byte);
  if (/[etaoinsrlcdu ]/.test(sign)) return 4;
  if (/[a-z.,();="]/.test(sign)) return 6;
  if (/[\n:{}[\]_\-/'0-1]/.test(sign)) return 8;
  if (/[2-9A-Z$&|!?+<>*`\\]/.test(sign)) return 10;
  return byte === 0 || byte === 0xff ? 5 : 12;
}
