/** Keeps ranges of streamed bytes, so that hits in them can be shown later. */
export class Capture {
  readonly #kept: { from: number; to: number; bytes: Uint8Array }[];
  #offset = 0;

  /** @param windows in any order; those that overlap are kept as one */
  constructor(windows: readonly { from: number; to: number }[]) {
    const merged: { from: number; to: number }[] = [];
    for (const { from, to } of [...windows].sort((a, b) => a.from - b.from)) {
      const last = merged.at(-1);
      if (last && from <= last.to) last.to = Math.max(last.to, to);
      else merged.push({ from: Math.max(0, from), to });
    }
    this.#kept = merged.map((one) => ({ ...one, bytes: new Uint8Array(one.to - one.from) }));
  }

  /** Whether all that is kept came by. */
  get isFull(): boolean {
    return this.#offset >= (this.#kept.at(-1)?.to ?? 0);
  }

  feed(chunk: Uint8Array): void {
    const end = this.#offset + chunk.length;
    for (const { from, to, bytes } of this.#kept) {
      if (to <= this.#offset || from >= end) continue;
      const first = Math.max(from, this.#offset);
      bytes.set(chunk.subarray(first - this.#offset, Math.min(to, end) - this.#offset), first - from);
    }
    this.#offset = end;
  }

  /** The kept bytes of a stretch; fewer at the end of the input. */
  read(from: number, to: number): Uint8Array {
    const window = this.#kept.find((one) => one.from <= from && from < one.to);
    if (!window) return new Uint8Array(0);
    return window.bytes.subarray(from - window.from, Math.min(to, window.to, this.#offset) - window.from);
  }
}
