import { Compressed } from '../decompress.js';
import { type Format, hasMark, type Member, type Unreadable, wholeOf } from '../format.js';
import { zlibCodec } from '../zlib.js';

/** Filters (ISO 32000-1, 7.4) of image streams, which are searched without decoding. */
const pictures = /\/(DCTDecode|JPXDecode|CCITTFaxDecode|JBIG2Decode|RunLengthDecode)\b/;
/** Pictures and fonts hold no text, and look like noise when they are inflated. */
const noText = /\/Subtype\s*\/(Image|Type1C|CIDFontType0C|OpenType)\b|\/Length1\b/;
const unknownFilters = /\/(LZWDecode|ASCII85Decode|ASCIIHexDecode|Crypt)\b/;

/** Maximum length of a dictionary before a stream, in characters. */
const LONGEST_DICTIONARY = 2048;

/** Portable documents (ISO 32000-1): their deflated streams are members, by where they begin. */
export const pdf: Format = {
  name: 'PDF',
  firstBytes: [0x25],
  recognise: (head) => hasMark(head, '%PDF-'),
  async *members(source) {
    const bytes = Buffer.from(await wholeOf(source.chunks()));
    const text = bytes.toString('latin1');
    if (/\/Encrypt\s+\d+\s+\d+\s+R/.test(text)) {
      yield { name: '', because: 'is encrypted' };
      return;
    }
    for (const { 0: keyword, index } of text.matchAll(/\bstream\r?\n/g)) {
      const member = streamAt(bytes, text, index, index + keyword.length);
      if (member) yield member;
    }
  },
};

function streamAt(bytes: Buffer, text: string, keyword: number, start: number): Member | Unreadable | undefined {
  const dictionary = text.slice(Math.max(0, keyword - LONGEST_DICTIONARY), keyword);
  const own = dictionary.slice(Math.max(dictionary.lastIndexOf(' obj'), dictionary.lastIndexOf('endobj')) + 1);
  const end = text.indexOf('endstream', start);
  const name = `stream@${start}`;
  if (end < 0 || pictures.test(own) || noText.test(own)) return undefined;
  if (unknownFilters.test(own)) return { name, because: 'uses a filter that Adder does not decode' };
  if (!/\/(FlateDecode|Fl)\b/.test(own)) return undefined;
  const stored = { offset: start, length: end - start };
  const part = bytes.subarray(start, end);
  return {
    name,
    stored,
    async *chunks() {
      yield* new Compressed(() => [part], part.length, zlibCodec).chunks();
    },
  };
}
