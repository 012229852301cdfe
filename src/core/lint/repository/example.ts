import { isRequired, type Variable } from '../../contract/contract.js';
import type { EnvEntry, EnvFile } from '../../envfile/ast.js';
import { parseEnvFile } from '../../envfile/parse.js';
import { valueFileOf } from '../../files/value-files.js';
import { finding } from '../../findings/finding.js';
import { reveal } from '../../secrets/secret.js';
import { nearest } from '../../text/nearest.js';
import { shapeOf } from '../../tokens/shapes.js';
import type { LintFinding } from '../model.js';
import type { RepositoryFacts } from './facts.js';

/** Shorter values are equal by chance. */
const SHORTEST_VALUE = 4;

/** Example files, which new developers copy, compared with the contract. */
export function exampleRules(facts: RepositoryFacts): LintFinding[] {
  const examples = facts.paths
    .filter((path) => valueFileOf(path)?.kind === 'example')
    .map((path) => ({ path, file: parseEnvFile(Buffer.from(facts.text(path) ?? '')) }));
  const secrets = secretsOf(facts);
  const findings = examples.flatMap(({ path, file }) =>
    file.entries.flatMap((entry) => entryFinding(facts, secrets, { path, file, entry }) ?? []),
  );
  return [...findings, ...missingNames(facts, examples)];
}

interface Example {
  path: string;
  file: EnvFile;
}

/** Build and server values, with their variable and stage. */
type Secrets = ReadonlyMap<string, { variable: string; stage: string }>;

function secretsOf({ stages }: RepositoryFacts): Secrets {
  return new Map(
    stages.flatMap(({ stage, values }) =>
      [...values.values()].flatMap(({ variable, value }) =>
        variable.reach === 'public' || !value
          ? []
          : [[reveal(value), { variable: variable.name, stage: stage.name }] as const],
      ),
    ),
  );
}

/** A real value in an example, or a name that the contract does not have. */
function entryFinding(
  { contract }: RepositoryFacts,
  secrets: Secrets,
  { path, file, entry }: Example & { entry: EnvEntry },
): LintFinding | undefined {
  const { line, column } = file.at(entry.nameStart);
  const place = { path, inside: [], line, column, length: entry.name.length };
  const text = entry.value.map((part) => (part.kind === 'text' ? part.text : '')).join('');
  const real = text.length >= SHORTEST_VALUE ? secrets.get(text) : undefined;
  const shape = shapeOf(text);
  if (real || shape?.kind === 'secret') {
    const about = { path, name: entry.name, variable: entry.name };
    const more = { variable: entry.name, level: 'error' as const, place };
    return real
      ? finding('repo/example-drift', 'value', { ...about, of: real.variable, stage: real.stage }, more)
      : finding('repo/example-drift', 'token', { ...about, shape: shape?.name ?? '' }, more);
  }
  if (contract.variables.has(entry.name)) return undefined;
  const near = nearest(entry.name, contract.variables.keys());
  return finding('repo/example-drift', 'extra', { path, name: entry.name, near }, { place });
}

/** Several example files may share the names; a name missing in all of them is reported at the first. */
function missingNames(facts: RepositoryFacts, examples: readonly Example[]): LintFinding[] {
  const [first] = examples;
  if (!first) return [];
  const listed = new Set(examples.flatMap(({ file }) => file.entries.map(({ name }) => name)));
  const missing = [...facts.contract.variables.values()].filter(
    (variable) => !listed.has(variable.name) && isNeeded(variable, facts),
  );
  if (missing.length === 0) return [];
  const { path } = first;
  const names = missing.map(({ name }) => name);
  return [finding('repo/example-drift', 'lacks', { path, names }, { place: { path, inside: [] } })];
}

function isNeeded(variable: Variable, { stages }: RepositoryFacts): boolean {
  return variable.default === undefined && stages.some(({ stage }) => isRequired(variable, stage.name));
}
