import type { LintContext, LintFinding, LintRule } from './model.js';
import { flowRules } from './rules/flow.js';
import { habitRules, unusedRule } from './rules/habits.js';
import { writtenRules } from './rules/hard-coded.js';
import { namedSecretRules } from './rules/named-secrets.js';
import { nativeRules } from './rules/native.js';
import { passedRules } from './rules/passed.js';
import { readRules, serverReadRules } from './rules/reads.js';
import { requestNameRules } from './rules/request-names.js';
import { stageSwitchRules } from './rules/stage-switch.js';
import { staticRouteRules } from './rules/static-routes.js';
import { unreadRule } from './rules/unread.js';
import { unsetRules } from './rules/unset.js';

/** Every group of rules about code. One file a group, one line here. */
const rules: readonly LintRule[] = [
  readRules,
  serverReadRules,
  unsetRules,
  flowRules,
  passedRules,
  stageSwitchRules,
  staticRouteRules,
  requestNameRules,
  writtenRules,
  namedSecretRules,
  habitRules,
  nativeRules,
  unusedRule,
  unreadRule,
];

/** Everything that the rules about code say. */
export function lintCode(context: LintContext): LintFinding[] {
  const findings = rules.flatMap((rule) => rule(context));
  // Two findings at one place are one mistake; the first rule says more.
  const keyOf = ({ code, variable, place, level }: LintFinding) =>
    code === 'code/whole-object' && level === 'error' ? JSON.stringify([variable, place]) : undefined;
  const seen = new Set<string>();
  return findings.filter((finding) => {
    const key = keyOf(finding);
    if (key === undefined) return true;
    const isNew = !seen.has(key);
    seen.add(key);
    return isNew;
  });
}
