import { cells, padEnd } from './layout.js';
import type { Style } from './style.js';

/** One bundle of a call that builds several. Times in milliseconds of one clock. */
export interface Task {
  name: string;
  state: 'waiting' | 'building' | 'built' | 'failed' | 'refused';
  /** How it ended. */
  note?: string;
  began?: number;
  ended?: number;
}

const signs: Readonly<Record<Task['state'], string>> = {
  waiting: '·',
  building: '▸',
  built: '✓',
  failed: '✗',
  refused: '✗',
};

/** One line a bundle: what has become of it, and how long it took. */
export function taskLines(tasks: readonly Task[], now: number, style: Style): string[] {
  const widest = Math.max(...tasks.map(({ name }) => cells(name)));
  const toned = { waiting: style.dim, building: style.strong, built: style.good };
  return tasks.map((task) => {
    const tone = toned[task.state as keyof typeof toned] ?? ((text: string) => style.level('error', text));
    const words = `${signs[task.state]} ${padEnd(task.name, widest)}  ${padEnd(task.state, 8)}`;
    return `${tone(words)}  ${style.dim([seconds(task, now), task.note].filter(Boolean).join('  '))}`.trimEnd();
  });
}

function seconds({ began, ended }: Task, now: number): string {
  return began === undefined ? '' : `${(((ended ?? now) - began) / 1000).toFixed(1)} s`;
}
