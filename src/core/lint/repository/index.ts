import type { LintFinding } from '../model.js';
import { contentRules } from './contents.js';
import { exampleRules } from './example.js';
import type { RepositoryFacts } from './facts.js';
import { ignoreFileRules } from './ignore-files.js';
import { packedRules } from './packed.js';
import { pipelineRules } from './pipeline.js';
import { historyRules, trackedRules } from './tracked.js';
import { workspaceRules } from './workspace.js';

/** Every group of rules about the repository. One file a group, one line here. */
const rules: readonly ((facts: RepositoryFacts) => LintFinding[])[] = [
  trackedRules,
  historyRules,
  exampleRules,
  packedRules,
  pipelineRules,
  workspaceRules,
  ignoreFileRules,
];

/** Everything that the rules about the repository say. */
export function lintRepositoryFacts(facts: RepositoryFacts): LintFinding[] {
  const findings = rules.flatMap((rule) => rule(facts));
  // A rule that knows the kind of file says more.
  const reported = new Set(findings.map(({ place, variable }) => `${place?.path}\0${variable ?? ''}`));
  const others = contentRules(facts).filter(
    ({ place, variable }) => !reported.has(`${place?.path}\0${variable ?? ''}`),
  );
  return [...findings, ...others];
}
