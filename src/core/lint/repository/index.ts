import type { LintFinding } from '../model.js';
import { exampleRules } from './example.js';
import type { RepositoryFacts } from './facts.js';
import { packedRules } from './packed.js';
import { pipelineRules } from './pipeline.js';
import { historyRules, trackedRules } from './tracked.js';

/** Every group of rules about the repository. One file a group, one line here. */
const rules: readonly ((facts: RepositoryFacts) => LintFinding[])[] = [
  trackedRules,
  historyRules,
  exampleRules,
  packedRules,
  pipelineRules,
];

/** Everything that the rules about the repository say. */
export function lintRepositoryFacts(facts: RepositoryFacts): LintFinding[] {
  return rules.flatMap((rule) => rule(facts));
}
