import { displayText } from '../text/display.js';
import type { EnvironmentReport } from './documents.js';
import { cells, padEnd, wrap } from './layout.js';
import type { PrintOptions } from './style.js';

/** The names in a build's environment and those withheld from it, without any value. */
export function printEnvironment(
  { stage, bundle, given, withheld, readByTool = [] }: EnvironmentReport,
  { style, width }: PrintOptions,
): string {
  const widest = Math.max(4, ...given.map(({ name }) => cells(displayText(name)))) + 2;
  const lines = given.map(
    ({ name, because }) => `${padEnd(displayText(name), widest)}${style.dim(displayText(because))}`,
  );
  const others = withheld.length === 0 ? ['none'] : wrap(withheld.map(displayText).join(', '), width);
  return [
    [style.strong('adder with'), stage, bundle].filter(Boolean).join('  '),
    '',
    style.dim(`${padEnd('NAME', widest)}REASON`),
    ...lines,
    '',
    style.dim('WITHHELD'),
    ...others,
    ...(readByTool.length > 0 ? ['', style.dim('ENV FILES THAT THE TOOL LOADS ITSELF'), ...readByTool] : []),
    '',
  ].join('\n');
}
