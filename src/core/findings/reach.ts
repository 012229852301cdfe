export const reaches = ['public', 'build', 'server'] as const;

/** Who may read a variable's value. From the widest to the narrowest. */
export type Reach = (typeof reaches)[number];

/** Returns the reach that lets fewer people read. */
export function narrower(a: Reach, b: Reach): Reach {
  return reaches.indexOf(a) >= reaches.indexOf(b) ? a : b;
}
