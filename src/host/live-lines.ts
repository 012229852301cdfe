import type { Output } from './output.js';

/** Lines at the bottom of a terminal that are drawn anew as they change. */
export interface LiveLines {
  /** Lets other text be written above the live lines. */
  above(write: () => void): void;
  end(): void;
}

const FRAME_MS = 100;

/** Without a terminal there are no live lines, and output is written directly. */
export async function liveLines(output: Output, lines: () => readonly string[]): Promise<LiveLines> {
  if (!output.isTerminal) return { above: (write) => write(), end: () => {} };
  const { createLogUpdate } = await import('log-update');
  const region = createLogUpdate(output.stream(), { showCursor: true });
  const draw = () => region(lines().join('\n'));
  const timer = setInterval(draw, FRAME_MS);
  draw();
  return {
    above(write) {
      region.clear();
      write();
      draw();
    },
    end() {
      clearInterval(timer);
      region.clear();
    },
  };
}
