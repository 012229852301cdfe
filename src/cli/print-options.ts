import { makeStyle, type PrintOptions } from '../core/report/style.js';
import type { Output } from '../host/output.js';
import type { World } from '../host/world.js';
import type { OptionValues } from './options.js';

/** The width of what is no terminal. */
export const PLAIN_WIDTH = 100;

/** How an output is printed: in its width, with colours if it takes them. */
export function printOptions(
  { color, quiet }: OptionValues<'color' | 'quiet'>,
  output: Output,
  env: World['env'],
): PrintOptions {
  return {
    style: makeStyle(wantsColour(color, output, env)),
    width: Math.max(40, output.isTerminal ? (output.columns ?? PLAIN_WIDTH) : PLAIN_WIDTH),
    // Pipes and files are read by programs, so no column is cut.
    tableWidth: output.isTerminal ? (output.columns ?? PLAIN_WIDTH) : Number.POSITIVE_INFINITY,
    quiet,
  };
}

/** An option beats NO_COLOR, which beats FORCE_COLOR, which beats what the terminal is. */
export function wantsColour(option: 'auto' | 'always' | 'never', output: Output, env: World['env']): boolean {
  if (option !== 'auto') return option === 'always';
  if (env.NO_COLOR) return false;
  if (env.FORCE_COLOR !== undefined) return env.FORCE_COLOR !== '0';
  return output.isTerminal && env.TERM !== 'dumb';
}
