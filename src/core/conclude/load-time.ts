import type { Conclusion } from './conclusion.js';

/**
 * Values that the app reads when it loads. Reported once, with the remedy that fits: another stage's value in the values file
 * needs no rebuild.
 */
export const loadTimeValues: Conclusion = {
  explains: ({ code, place, variable }, { loadTime }) =>
    code === 'stage/foreign-value' &&
    loadTime.some((one) => one.place?.path === place?.path && one.variable === variable),
  findings: ({ loadTime }) => loadTime,
};
