import type { Need } from '../build/needs.js';
import type { Contract, Variable } from '../contract/contract.js';
import { type Host, type HostScope, hostScopes } from '../contract/hosts.js';
import { allNamesOf } from '../contract/names.js';
import { finding, type Place, type RawFinding } from '../findings/finding.js';
import type { Reach } from '../findings/reach.js';
import type { Resolution } from '../resolve/resolve.js';
import { valueProblem } from '../resolve/value-rules.js';
import { reveal, type Secret, sameSecret } from '../secrets/secret.js';
import { editDistance, isSlip } from '../text/nearest.js';
import { isForeignName } from '../toolchains/known-names.js';
import type { Listed } from './listing.js';

/**
 * How a host has a name. `valid`: there is no value here to compare with. `hidden`: it is there, but its value is not shown. `absent`: optional, and not set. `wrong-scope`: the
 * build or the server does not get it. `exposed`: builds get a server value.
 */
export const hostStates = [
  'same',
  'valid',
  'hidden',
  'absent',
  'missing',
  'misspelt',
  'different',
  'malformed',
  'wrong-scope',
  'exposed',
  'extra',
] as const;
export type HostState = (typeof hostStates)[number];

/** States that are errors. */
export const wrongStates: ReadonlySet<HostState> = new Set([
  'missing',
  'misspelt',
  'different',
  'malformed',
  'wrong-scope',
  'exposed',
]);

/** One name, as a host must have it and as it has it. */
export interface HostRow {
  name: string;
  /** Absent for names that the contract does not have. */
  variable?: string;
  reach?: Reach;
  /** Receivers of the value; empty if nothing needs it. */
  scopes: HostScope[];
  state: HostState;
  /** The name that the host has in its place. */
  found?: string;
}

/** A stage's needs and values, for one host. */
export interface HostNeeds {
  contract: Contract;
  host: Host;
  stage: string;
  /** Resolutions of every part of the project. */
  resolutions: readonly Resolution[];
  needs: readonly Need[];
}

/** Comparison of a host's values with its needs. */
export interface HostComparison {
  rows: HostRow[];
  findings: RawFinding[];
  /** The host's own identifiers, by name. */
  ids: ReadonlyMap<string, string>;
  /** Wrong values that the host shows, by name. */
  wrong: ReadonlyMap<string, Secret>;
}

/** @param place the file with the listing, if it is one */
export function compareHost(asked: HostNeeds, listed: readonly Listed[], place?: Place): HostComparison {
  return new Comparison(asked, listed, place).result();
}

/** A name that the host must have. */
interface Needed {
  name: string;
  variable: Variable;
  scopes: HostScope[];
  required: boolean;
}

class Comparison {
  /** Entries by name: a host may have a value for each scope. */
  readonly #listed = new Map<string, Listed[]>();
  readonly #needed: ReadonlyMap<string, Needed>;
  readonly #findings: RawFinding[] = [];
  readonly #ids = new Map<string, string>();
  readonly #wrong = new Map<string, Secret>();
  /** Names of the host that stand for a needed one. */
  readonly #taken = new Set<string>();

  constructor(
    readonly asked: HostNeeds,
    listed: readonly Listed[],
    readonly place: Place | undefined,
  ) {
    for (const one of listed) this.#listed.set(one.name, [...(this.#listed.get(one.name) ?? []), one]);
    this.#needed = neededBy(asked);
  }

  result(): HostComparison {
    const needed = [...this.#needed.values()].flatMap((one) => this.#neededRows(one));
    const others = [...this.#listed.values()].flatMap(([first]) => (first ? this.#other(first) : []));
    return { rows: [...needed, ...others], findings: this.#findings, ids: this.#ids, wrong: this.#wrong };
  }

  /** One row for each state that the host has a name in. */
  #neededRows(needed: Needed): HostRow[] {
    const { name, variable, scopes: all } = needed;
    const entries = this.#listed.get(name) ?? [];
    if (entries.length === 0) return [this.#absentRow(needed)];
    const [first] = entries;
    const parts = entries.length === 1 && first ? [{ entry: first, scopes: all }] : this.#parts(entries, needed);
    const rows = parts.map(({ entry, scopes }): HostRow => {
      const state = this.#stateOf(entry, variable, scopes);
      if (entry.id !== undefined && (wrongStates.has(state) || !this.#ids.has(name))) this.#ids.set(name, entry.id);
      if (entry.value && wrongStates.has(state)) this.#wrong.set(name, entry.value);
      return { name, variable: variable.name, reach: variable.reach, scopes: [...scopes], state };
    });
    return rows
      .filter((row, index) => rows.findIndex(({ state }) => state === row.state) === index)
      .map((row) => ({
        ...row,
        scopes: hostScopes.filter((scope) => rows.some((one) => one.state === row.state && one.scopes.includes(scope))),
      }));
  }

  /** Entries of one name, each with the needed scopes that it is for. A scope that none is for counts as the first one's. */
  #parts(entries: readonly Listed[], { scopes: all }: Needed): { entry: Listed; scopes: HostScope[] }[] {
    const isFor = ({ scopes }: Listed, scope: HostScope) => scopes === undefined || scopes.includes(scope);
    const without = all.filter((scope) => !entries.some((one) => isFor(one, scope)));
    return entries.map((entry, index) => ({
      entry,
      scopes: all.filter((scope) => isFor(entry, scope) || (index === 0 && without.includes(scope))),
    }));
  }

  #absentRow(needed: Needed): HostRow {
    const { name, variable, scopes, required } = needed;
    const row = { name, variable: variable.name, reach: variable.reach, scopes };
    const found = this.#misspelt(needed);
    if (found !== undefined) {
      this.#taken.add(found);
      this.#report(finding('host/misspelt', 'name', { ...this.#about(name), scopes, found }), variable);
      return { ...row, state: 'misspelt', found };
    }
    if (!required) return { ...row, state: 'absent' };
    this.#report(finding('host/missing', 'name', { ...this.#about(name), scopes }), variable);
    return { ...row, state: 'missing' };
  }

  /** A name that the host has and nothing needs: it may still be wrong. */
  #other(listed: Listed): HostRow[] {
    const { name, id } = listed;
    if (this.#needed.has(name) || this.#taken.has(name)) return [];
    const { contract } = this.asked;
    const variable = contract.variables.get(name);
    if (variable) {
      if (id !== undefined) this.#ids.set(name, id);
      const row = { name, variable: name, reach: variable.reach, scopes: [] };
      return [{ ...row, state: this.#stateOf(listed, variable, []) }];
    }
    if (contract.passes.includes(name) || isForeignName(name)) return [];
    this.#report(finding('host/extra', this.#isLeftover(name) ? 'leftover' : 'name', this.#about(name)));
    return [{ name, scopes: [], state: 'extra' }];
  }

  /** Tells whether it is nearly a name that the host has. */
  #isLeftover(name: string): boolean {
    return [...this.#needed.keys()].some((one) => this.#listed.has(one) && isNearly(name, one));
  }

  #stateOf({ name, value, scopes }: Listed, variable: Variable, needed: readonly HostScope[]): HostState {
    if (variable.reach === 'server' && scopes?.includes('build')) {
      this.#report(finding('host/exposed', 'build', this.#about(name)), variable);
      return 'exposed';
    }
    const without = needed.filter((scope) => scopes !== undefined && !scopes.includes(scope));
    if (without.length > 0) {
      this.#report(finding('host/wrong-scope', 'scope', { ...this.#about(name), scopes: without }), variable);
      return 'wrong-scope';
    }
    if (!value) return 'hidden';
    const problem = valueProblem(variable, reveal(value), this.asked.stage);
    if (problem !== undefined) {
      const facts = { ...this.#about(name), problem, form: variable.form.name };
      this.#report(finding('host/malformed', 'value', facts), variable);
      return 'malformed';
    }
    const own = ownValue(this.asked, variable);
    if (own === undefined) return 'valid';
    if (sameSecret(own, value)) return 'same';
    this.#report(finding('host/different', 'value', this.#about(name)), variable);
    return 'different';
  }

  /** A name of the host that was probably meant: a slip, an older name, or the name that code reads. */
  #misspelt({ name, variable }: Needed): string | undefined {
    const { contract } = this.asked;
    const others = allNamesOf(contract, variable);
    const unknown = [...this.#listed.keys()].filter(
      (one) =>
        !this.#needed.has(one) && !this.#taken.has(one) && (others.includes(one) || !contract.variables.has(one)),
    );
    return unknown.find((one) => others.includes(one)) ?? unknown.find((one) => isNearly(one, name));
  }

  #about(name: string) {
    const { host, stage } = this.asked;
    return { host: host.name, name, stage, isSettable: host.set !== undefined };
  }

  #report(of: RawFinding, variable?: Variable): void {
    const more = { ...(this.place && { place: this.place }), ...(variable && { variable: variable.name }) };
    this.#findings.push({ ...of, ...more });
  }
}

function isNearly(left: string, right: string): boolean {
  return isSlip(left, right) || editDistance(left, right) === 1;
}

/** The names that a host must have, by name; a need of a pipeline counts if builds run there. */
function neededBy({ contract, host, needs }: HostNeeds): Map<string, Needed> {
  const needed = new Map<string, Needed>();
  for (const { name, variable: of, by, required } of needs) {
    const scope: HostScope = by === 'pipeline' ? 'build' : 'server';
    const variable = contract.variables.get(of);
    if (!variable || !host.holds.includes(scope)) continue;
    const known = needed.get(name);
    const scopes = hostScopes.filter((one) => one === scope || known?.scopes.includes(one));
    needed.set(name, { name, variable, scopes, required: required || known?.required === true });
  }
  return needed;
}

/** The stage's value on this machine. */
export function ownValue({ resolutions }: Pick<HostNeeds, 'resolutions'>, { name }: Variable): Secret | undefined {
  return resolutions.map(({ values }) => values.get(name)?.value).find((value) => value !== undefined);
}
