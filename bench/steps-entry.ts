// Times each rule on a text and on twice as much of it; test/whole/steps counts its steps.
import { works } from '../test/whole/steps/works.js';

const [ROUNDS, TIMES] = [5, 400];

async function best(work: () => Promise<unknown>): Promise<number> {
  let least = Number.POSITIVE_INFINITY;
  for (let round = 0; round < ROUNDS; round++) {
    const start = process.hrtime.bigint();
    await work();
    least = Math.min(least, Number(process.hrtime.bigint() - start) / 1e6);
  }
  return least;
}

const rows: { name: string; once: number; twice: number }[] = [];
for (const { name, run } of works()) {
  await run(TIMES);
  rows.push({ name, once: await best(() => run(TIMES)), twice: await best(() => run(2 * TIMES)) });
}
console.log(JSON.stringify(rows));
