/**
 * The states of a variable's value in a stage. `optional`: not set, and not required. `elsewhere`: a server's value of a stage that
 * ships, which the server's host may have. One line per state.
 */
const states = {
  set: { hasValue: true, isWrong: false },
  default: { hasValue: true, isWrong: false },
  missing: { hasValue: false, isWrong: true },
  malformed: { hasValue: true, isWrong: true },
  empty: { hasValue: false, isWrong: true },
  elsewhere: { hasValue: false, isWrong: false },
  optional: { hasValue: false, isWrong: false },
} as const;

export type ValueState = keyof typeof states;

export const valueStates = Object.keys(states) as [ValueState, ...ValueState[]];

/** Tells whether the state is a problem. `undeclared` is not one. */
export function isWrong(state: ValueState | 'undeclared'): boolean {
  return state !== 'undeclared' && states[state].isWrong;
}

/** Tells whether there is text that must not be shown for a variable that is not public. */
export function hasText(state: ValueState): boolean {
  return states[state].hasValue;
}
