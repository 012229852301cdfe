/** How many numbers of an ascending list are at most as large as another number, by binary search. */
export function countAtMost(ascending: readonly number[], most: number): number {
  let [low, high] = [0, ascending.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((ascending[middle] as number) <= most) low = middle + 1;
    else high = middle;
  }
  return low;
}
