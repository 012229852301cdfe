/** True if `npm run fuzz` asks for more than a first look. */
export const isThorough = process.env.ADDER_FUZZ_RUNS !== undefined;

/** How often a property is tried: as often as given with `npm run fuzz`, otherwise a tenth of it. */
export function runs(thorough: number): number {
  return isThorough ? thorough : Math.max(25, Math.ceil(thorough / 10));
}
