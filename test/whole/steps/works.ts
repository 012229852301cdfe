import { codes, linted, rightCode } from './code.js';
import { generators, masked, searched, searchedFiles } from './rules.js';

/** Work on so many repetitions, which tells how many findings it has. */
export interface Work {
  name: string;
  isVain: boolean;
  run(times: number): Promise<number>;
}

/** All rules, each on all texts that repeat what it looks for. */
export function works(): Work[] {
  return [
    ...Object.entries(generators).flatMap(([name, generator]): Work[] => [
      { name: `${name}, searched`, isVain: generator.isVain === true, run: (times) => searched(generator, times) },
      { name: `${name}, in files`, isVain: generator.isVain === true, run: (times) => searchedFiles(generator, times) },
      { name: `${name}, masked`, isVain: true, run: (times) => masked(generator, times) },
    ]),
    ...Object.entries(codes).map(
      ([name, files]): Work => ({
        name: `${name}, linted`,
        isVain: rightCode.includes(name),
        run: (times) => linted(files(times)),
      }),
    ),
  ];
}
