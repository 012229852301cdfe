/**
 * SipHash-2-4 (Aumasson and Bernstein, "SipHash: a fast short-input PRF", INDOCRYPT 2012) in halves of 32 bits, as the kernel has it
 * in words of 64. Whoever has the key must still guess all of an input to test it.
 * @param key 16 bytes @param length of the input, a multiple of 4
 * @returns lower and upper half, unsigned
 */
export function sipHash(key: Uint8Array, bytes: Uint8Array, at: number, length: number): [low: number, high: number] {
  const [k0, k1, k2, k3] = [0, 4, 8, 12].map((from) => wordAt(key, from)) as [number, number, number, number];
  const state = Uint32Array.of(
    k0 ^ 0x70736575,
    k1 ^ 0x736f6d65,
    k2 ^ 0x6e646f6d,
    k3 ^ 0x646f7261,
    k0 ^ 0x6e657261,
    k1 ^ 0x6c796765,
    k2 ^ 0x79746573,
    k3 ^ 0x74656462,
  );
  const words = length >> 3;
  for (let word = 0; word <= words; word++) {
    const from = at + 8 * word;
    const isLast = word === words;
    const low = isLast && (length & 4) === 0 ? 0 : wordAt(bytes, from);
    const high = isLast ? (length & 0xff) << 24 : wordAt(bytes, from + 4);
    state[6] = (state[6] as number) ^ low;
    state[7] = (state[7] as number) ^ high;
    rounds(state, 2);
    state[0] = (state[0] as number) ^ low;
    state[1] = (state[1] as number) ^ high;
  }
  state[4] = (state[4] as number) ^ 0xff;
  rounds(state, 4);
  const half = (part: number) =>
    ((state[part] as number) ^
      (state[2 + part] as number) ^
      (state[4 + part] as number) ^
      (state[6 + part] as number)) >>>
    0;
  return [half(0), half(1)];
}

function wordAt(bytes: Uint8Array, at: number): number {
  return (
    (bytes[at] as number) |
    ((bytes[at + 1] as number) << 8) |
    ((bytes[at + 2] as number) << 16) |
    ((bytes[at + 3] as number) << 24)
  );
}

function rounds(state: Uint32Array, count: number): void {
  for (let round = 0; round < count; round++) {
    mix(state, 0, 2, 13);
    rotate(state, 0, 32);
    mix(state, 4, 6, 16);
    mix(state, 0, 6, 21);
    mix(state, 4, 2, 17);
    rotate(state, 4, 32);
  }
}

/** Adds a word to another one, rotates it, and combines it with the sum. */
function mix(state: Uint32Array, sum: number, word: number, by: number): void {
  const low = (state[sum] as number) + (state[word] as number);
  state[sum + 1] = (state[sum + 1] as number) + (state[word + 1] as number) + (low > 0xffffffff ? 1 : 0);
  state[sum] = low;
  rotate(state, word, by);
  state[word] = (state[word] as number) ^ (state[sum] as number);
  state[word + 1] = (state[word + 1] as number) ^ (state[sum + 1] as number);
}

function rotate(state: Uint32Array, word: number, by: number): void {
  const [low, high] = [state[word] as number, state[word + 1] as number];
  if (by === 32) {
    state[word] = high;
    state[word + 1] = low;
    return;
  }
  state[word] = (low << by) | (high >>> (32 - by));
  state[word + 1] = (high << by) | (low >>> (32 - by));
}
