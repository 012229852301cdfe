import { type Action, actions, type Change, howTo, type Since } from '../findings/change.js';
import { displayText, localTime } from '../text/display.js';
import { groupBy } from '../text/group-by.js';
import { joinWords } from '../text/nearest.js';
import { padEnd, wrap } from './layout.js';
import type { PrintOptions } from './style.js';

const WIDEST = Math.max(...actions.map((action) => action.length));

/** Changes since the last builds, grouped by remedy; empty if nothing changed. */
export function sinceLines(all: readonly Since[], options: PrintOptions): string[] {
  return all.flatMap((since) => [
    options.style.strong(`changed since the build of ${since.bundle} for ${since.stage}, ${localTime(since.builtAt)}`),
    ...changeLines(since.changes, since, options),
    '',
  ]);
}

/** Changes by action, the most work first, each action with its command. */
export function changeLines(
  changes: readonly Change[],
  about: Pick<Since, 'bundle' | 'rebuild' | 'reload'>,
  { style, width }: PrintOptions,
): string[] {
  const byAction = groupBy(changes, ({ action, because }) => `${action} ${because}`);
  const groups = [...byAction.values()].sort(([a], [b]) => orderOf(b) - orderOf(a));
  const indent = ' '.repeat(WIDEST + 4);
  return groups.flatMap((group) => {
    const [{ action, because }] = group as [Change];
    const names = group.map(({ variable, change }) => (change === 'changed' ? variable : `${variable} (${change})`));
    const word = action === 'nothing' ? style.dim(action) : style.level('warning', action);
    const first = wrap(`${joinWords(names)}: ${because}`, width - indent.length);
    const remedy = action === 'nothing' ? [] : wrap(displayText(howTo(action, about)), width - indent.length - 2);
    return [
      ...first.map(
        (line, index) => (index === 0 ? `  ${word}${padEnd('', WIDEST - action.length + 2)}` : indent) + line,
      ),
      ...remedy.map((line, index) => `${indent}${index === 0 ? style.good('→') : ' '} ${line}`),
    ];
  });
}

function orderOf(change: Change | undefined): number {
  return actions.indexOf(change?.action as Action);
}
