import pc from 'picocolors';
import type { Level } from '../findings/codes.js';
import type { Reach } from '../findings/reach.js';

/** Colours, never without a word that says the same. */
export interface Style {
  strong(text: string): string;
  dim(text: string): string;
  good(text: string): string;
  level(level: Level, text?: string): string;
  reach(reach: Reach, text?: string): string;
  caret(text: string): string;
}

export function makeStyle(colour: boolean): Style {
  const c = pc.createColors(colour);
  const levels = { error: c.red, warning: c.yellow, note: c.cyan };
  const reaches = { public: c.green, build: c.yellow, server: c.magenta };
  return {
    strong: c.bold,
    dim: c.dim,
    good: c.green,
    level: (level, text = level) => c.bold(levels[level](text)),
    reach: (reach, text = reach) => reaches[reach](text),
    caret: c.red,
  };
}

/** Settings for printers besides the report. */
export interface PrintOptions {
  style: Style;
  /** In cells. */
  width: number;
  /** The width at which tables are cut; it may be more than that of text. */
  tableWidth: number;
  /** The text is kept as a document, so it says where it comes from. */
  isKept?: boolean;
  /** Only the summary. */
  quiet?: boolean;
  /** Also which files contain which public values. */
  contents?: boolean;
}
