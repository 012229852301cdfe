import { type Context, createContext, Script } from 'node:vm';
import type { FitsPattern } from '../core/contract/pattern.js';
import { limits } from '../core/limits/index.js';

let matching: { script: Script; context: Context } | undefined;

/** Matches a pattern of the contract within a time limit, which only another context of the engine can interrupt. */
export const fitsInTime: FitsPattern = (pattern, text) => {
  matching ??= { script: new Script("new RegExp(`^(?:${pattern})$`, 'u').test(text)"), context: createContext({}) };
  Object.assign(matching.context, { pattern, text });
  try {
    const timeout = limits.patternSeconds.value * 1000;
    return matching.script.runInContext(matching.context, { timeout }) === true ? 'yes' : 'no';
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ERR_SCRIPT_EXECUTION_TIMEOUT') return 'too slow';
    throw error;
  } finally {
    Object.assign(matching.context, { pattern: '', text: '' });
  }
};
