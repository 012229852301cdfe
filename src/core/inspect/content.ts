import type { Where } from '../findings/place.js';
import type { MarkHit } from '../search/scan.js';
import type { Position } from '../text/positions.js';
import type { RelatedText } from './artifact.js';

/** The scanned bytes of an artifact or of an embedded file, for rules that look closer. */
export interface Content {
  /** The place as findings show it. */
  where: Required<Where>;
  /** Tells the language. */
  fileName: string;
  /** Number of bytes. */
  size: number;
  hits: readonly MarkHit[];
  /** Mark to the number of all its hits. */
  counts: ReadonlyMap<number, number>;
  /** Bytes around hits; of an embedded file that is streamed, only those. Shorter at the end. */
  read(from: number, to: number): Uint8Array;
  /** Reads what is shown around ranges, of an embedded file by streaming it again; absent where `read` has all of it. */
  readAround?(ranges: readonly { start: number; end: number }[]): Promise<Content['read']>;
  /** @param offsets ascending, at hits or close to them */
  positions(offsets: readonly number[]): Promise<Position[]>;
  /** All of it, as UTF-8. */
  text(): Promise<string>;
  /** Reads the source map of an embedded file, from the file itself or from its container. */
  sourceMap?(): Promise<RelatedText | undefined>;
  /** For text that a source map embeds: the path of the original file, as reports show it. */
  original?: string;
}
