import type { Contract, Variable } from '../contract/contract.js';
import { rulesOf } from '../contract/rules.js';
import type { Scope } from '../contract/scopes.js';
import type { RawFinding } from '../findings/finding.js';
import { withoutRepeats } from '../findings/repeats.js';
import type { Resolution, ResolvedValue } from '../resolve/resolve.js';
import { reveal, sameSecret } from '../secrets/secret.js';
import type { ComparedRow, CompareReport, Relation } from './documents.js';
import { undecidedNames } from './undecided.js';
import { REPORT_VERSION } from './version.js';
import { wordedFindings } from './worded.js';

/** Two stages of a part of the project with layers of its own. */
export interface ComparedPart {
  scope: Scope;
  first: Resolution;
  second: Resolution;
  /** Findings of the contract's rules about both stages. */
  findings: readonly RawFinding[];
}

/** Two stages side by side. */
export function compareReport(
  contract: Contract,
  stages: readonly [string, string],
  parts: readonly ComparedPart[],
  today: string,
): CompareReport {
  const resolutions = parts.flatMap(({ first, second }) => [first, second]);
  const undecided = undecidedNames(contract, today, resolutions);
  return {
    report: REPORT_VERSION,
    kind: 'compare',
    command: 'compare',
    stages: [...stages],
    compared: parts.flatMap(({ scope, first, second }) =>
      [...contract.variables.values()]
        .map((variable) => ({ variable, row: compareOne(variable, first, second, undecided) }))
        .filter(({ variable }) =>
          [first, second].some(({ values }) => scope.shows(variable, values.get(variable.name)?.from?.layer)),
        )
        .map(({ row }) => ({ ...row, ...(scope.bundle && { bundle: scope.bundle.name }) })),
    ),
    ...wordedFindings(withoutRepeats(parts.flatMap(({ findings }) => findings)), rulesOf(contract), today, []),
  };
}

function compareOne(
  { name, reach }: Variable,
  first: Resolution,
  second: Resolution,
  undecided: ReadonlySet<string>,
): ComparedRow {
  const [a, b] = [first.values.get(name), second.values.get(name)];
  const shown = (value: ResolvedValue | undefined) =>
    reach === 'public' && !undecided.has(name) && value?.value ? reveal(value.value) : undefined;
  const [one, other] = [shown(a), shown(b)];
  return {
    name,
    reach,
    relation: relationOf(a, b),
    ...(one !== undefined && { first: one }),
    ...(other !== undefined && { second: other }),
  };
}

function relationOf(a: ResolvedValue | undefined, b: ResolvedValue | undefined): Relation {
  if (a?.value && b?.value) return sameSecret(a.value, b.value) ? 'same' : 'different';
  if (a?.value) return 'only-first';
  return b?.value ? 'only-second' : 'neither';
}
