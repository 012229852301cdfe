import { isRequired, type Variable } from '../../contract/contract.js';
import { parseEnvFile } from '../../envfile/parse.js';
import { valueFileOf } from '../../files/value-files.js';
import { reveal } from '../../secrets/secret.js';
import { quoted } from '../../text/display.js';
import { joinWords, nearest } from '../../text/nearest.js';
import { shapeOf } from '../../tokens/shapes.js';
import type { LintFinding } from '../model.js';
import type { RepositoryFacts } from './facts.js';

/** Example files held against the contract: what newcomers copy. */
export function exampleRules(facts: RepositoryFacts): LintFinding[] {
  const paths = facts.paths.filter((path) => valueFileOf(path)?.kind === 'example');
  const perFile = paths.map((path) => ({ path, file: parseEnvFile(Buffer.from(facts.text(path) ?? '')) }));
  const everywhere = new Set(perFile.flatMap(({ file }) => file.entries.map(({ name }) => name)));
  const secrets = new Map(
    facts.stages.flatMap(({ stage, values }) =>
      [...values.values()].flatMap(({ variable, value }) =>
        variable.reach === 'public' || !value ? [] : [[reveal(value), { variable, stage: stage.name }] as const],
      ),
    ),
  );
  return perFile.flatMap(({ path, file }, index) => {
    const findings = file.entries.flatMap((entry): LintFinding[] => {
      const { line, column } = file.at(entry.nameStart);
      const place = { path, inside: [], line, column, length: entry.name.length };
      const text = entry.value.map((part) => (part.kind === 'text' ? part.text : '')).join('');
      const real = text.length >= 4 ? secrets.get(text) : undefined;
      const shape = shapeOf(text);
      if (real || shape?.kind === 'secret') {
        const what = real ? `the ${real.stage} value of ${real.variable.name}` : shape?.name;
        return [
          {
            code: 'repo/example-drift',
            level: 'error',
            variable: entry.name,
            message: `${path} contains ${what} as ${entry.name}`,
            remedy: 'remove it, and rotate the value: everybody reads the example file',
            place,
          },
        ];
      }
      if (facts.contract.variables.has(entry.name)) return [];
      const near = nearest(entry.name, facts.contract.variables.keys());
      return [
        {
          code: 'repo/example-drift',
          message: `${entry.name} is in ${path}, but not in the contract`,
          remedy: near.length > 0 ? `did you mean ${joinWords(near, 'or')}?` : 'remove the line, or declare the name',
          place,
        },
      ];
    });
    // Several example files may share the names; a name missing in all of them is reported at the first.
    const missing =
      index === 0
        ? [...facts.contract.variables.values()].filter((one) => !everywhere.has(one.name) && isNeeded(one, facts))
        : [];
    if (missing.length === 0) return findings;
    const names = joinWords(missing.map(({ name }) => name));
    return [
      ...findings,
      {
        code: 'repo/example-drift',
        message: `${path} lacks ${names}`,
        remedy: `run \`adder emit example --save ${quoted(path)}\``,
        place: { path, inside: [] },
      },
    ];
  });
}

function isNeeded(variable: Variable, { stages }: RepositoryFacts): boolean {
  return variable.default === undefined && stages.some(({ stage }) => isRequired(variable, stage.name));
}
