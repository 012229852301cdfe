import type { Conclusion } from './conclusion.js';

/**
 * A value in the source code itself is a matter of lint, not another stage's value, unless this stage's own value is
 * missing.
 */
export const ownCode: Conclusion = {
  explains({ code, variable, bundle }, output) {
    const own = output.inCode.find((one) => one.variable === variable);
    if (code !== 'stage/foreign-value' || bundle !== output.bundle || !own) return false;
    return !own.hasValue || output.present.includes(own.variable);
  },
};
