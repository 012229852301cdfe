/** Files that one thread looks at in a row, or a stretch of one large file. */
export interface Task {
  /** The files, by their numbers: the first, and the one after the last. */
  files: readonly [first: number, end: number];
  /** Start of the byte range (single files only); an end of `Infinity` is the end of the file. */
  from: number;
  to: number;
}

const MB = 2 ** 20;
const [ENOUGH, LARGE, STRETCH] = [MB, 8 * MB, 4 * MB];

/** Cuts files into pieces of work that are neither too small to hand around nor so large that one thread waits for another. */
export function tasksOf(sizes: ArrayLike<number>): Task[] {
  const tasks: Task[] = [];
  let first = 0;
  let bytes = 0;
  const close = (end: number) => {
    if (end > first) tasks.push({ files: [first, end], from: 0, to: Number.POSITIVE_INFINITY });
    first = end;
    bytes = 0;
  };
  for (let file = 0; file < sizes.length; file++) {
    const size = sizes[file] as number;
    if (size > LARGE) {
      close(file);
      for (let from = 0; from < size; from += STRETCH)
        tasks.push({
          files: [file, file + 1],
          from,
          to: from + STRETCH < size ? from + STRETCH : Number.POSITIVE_INFINITY,
        });
      first = file + 1;
    } else {
      bytes += size;
      if (bytes >= ENOUGH) close(file + 1);
    }
  }
  close(sizes.length);
  return tasks;
}
