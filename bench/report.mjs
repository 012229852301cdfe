import { spawnSync } from 'node:child_process';

/** @param {number[]} numbers */
export function median(numbers) {
  const sorted = [...numbers].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)];
}

/** A table in Markdown. @param {string[]} heads @param {string[][]} rows */
export function table(heads, rows) {
  return [heads, heads.map(() => '---'), ...rows].map((cells) => `| ${cells.join(' | ')} |`).join('\n');
}

/**
 * Each command's times in milliseconds, in rounds, one command after the other in each, after one that warms the caches.
 * @param {string[][]} commands @param {number} rounds @param {NodeJS.ProcessEnv} env @param {string} [cwd]
 * @param {number} [most] the highest exit code that is expected
 */
export function times(commands, rounds, env, cwd, most = 1) {
  const all = commands.map(() => []);
  for (let round = -1; round < rounds; round++)
    commands.forEach(([name, ...args], index) => {
      const start = process.hrtime.bigint();
      const { status, stdout, stderr } = spawnSync(name, args, { env, cwd, encoding: 'utf8', maxBuffer: 2 ** 28 });
      if (status === null || status > most) throw new Error(`${name}: ${stderr}${stdout}`);
      if (round >= 0) all[index].push(Number(process.hrtime.bigint() - start) / 1e6);
    });
  return all;
}

/** Ratios of medians, held against goals; a goal that is missed makes the exit code 1. */
export class Goals {
  #rows = [];

  /** @param {string} what @param {number[]} over times @param {number[]} under times @param {number} [goal] */
  atLeast(what, over, under, goal) {
    this.#add(what, over, under, goal && `at least ${goal}`, (ratio) => ratio >= goal);
  }

  atMost(what, over, under, goal) {
    this.#add(what, over, under, goal && `at most ${goal}`, (ratio) => ratio <= goal);
  }

  /** A figure of its own, with its unit. */
  figure(what, number, unit, most) {
    this.#rows.push([what, `${number.toFixed(0)} ${unit}`, '', `at most ${most}`, number <= most ? 'met' : 'missed']);
  }

  tell() {
    console.log(table(['what', 'ratio', 'spread', 'goal', ''], this.#rows));
    if (this.#rows.some((row) => row.at(-1) === 'missed')) process.exitCode = 1;
  }

  #add(what, over, under, goal, isMet) {
    const ratio = median(over) / median(under);
    const spread = [over, under].map((all) => `${Math.min(...all).toFixed(0)} to ${Math.max(...all).toFixed(0)}`);
    this.#rows.push([
      what,
      ratio.toFixed(2),
      `${spread.join(' / ')} ms`,
      goal ?? '',
      goal ? (isMet(ratio) ? 'met' : 'missed') : '',
    ]);
  }
}
