import { type Contract, isRequired, type Stage, type Variable } from '../contract/contract.js';
import { namesOf, settableNames } from '../contract/names.js';
import { isLocalFile } from '../files/value-files.js';
import { finding, type RawFinding } from '../findings/finding.js';
import { narrower, type Reach } from '../findings/reach.js';
import { reveal, Secret, sameSecret } from '../secrets/secret.js';
import { isLocalAddress } from '../text/local-address.js';
import { isSlip, nearest } from '../text/nearest.js';
import { namesSecret, shapeOf } from '../tokens/shapes.js';
import { Expander, type Expansion, isProblem } from './expand.js';
import { describeSource, type Offer, type ReadLayer, type ValueSource } from './layer.js';
import { asOthersRead } from './rejected.js';
import { isPlaceholder, ships, untidiness, valueProblem } from './value-rules.js';
import type { ValueState } from './value-state.js';

export interface ResolvedValue {
  variable: Variable;
  state: ValueState;
  /** Absent if there is none, or if nothing may get it. */
  value?: Secret;
  from?: ValueSource;
  /** The offers that lost, in the order of the layers. */
  overrides: ValueSource[];
  /** The names whose values it took in by references. */
  tookIn: string[];
}

/** A value that no build gets, and that no artifact may contain. */
export interface NamedValue {
  name: string;
  value: Secret;
  from: ValueSource;
}

export interface Resolution {
  stage: Stage;
  layers: readonly ReadLayer[];
  values: ReadonlyMap<string, ResolvedValue>;
  /** Names that a layer offers and the contract does not have; they count as server. */
  undeclared: readonly NamedValue[];
  /** Values of build and server variables that a later layer overrode. */
  overridden: readonly NamedValue[];
  /** Texts of build, server and undeclared names that no build gets, because their line or their references are wrong. */
  rejected: readonly NamedValue[];
  findings: RawFinding[];
}

/**
 * The value and state of each variable in one stage, with all problems; a variable with a problem does not stop the
 * others from being resolved.
 * @param elsewhere the other stages that have a value for a name
 */
export function resolveStage(
  contract: Contract,
  stage: Stage,
  layers: readonly ReadLayer[],
  elsewhere: (name: string) => readonly string[] = () => [],
): Resolution {
  return new Resolver(contract, stage, layers, elsewhere).resolve();
}

/** The reach of any name; undeclared names are server-only. */
export function reachOf(contract: Contract, name: string): Reach {
  return contract.variables.get(name)?.reach ?? 'server';
}

class Resolver {
  readonly #offers = new Map<string, Offer[]>();
  /** Older names, and those that code reads, to the present ones. */
  readonly #presentNames = new Map<string, string>();
  readonly #findings: RawFinding[] = [];
  readonly #expander: Expander;

  constructor(
    readonly contract: Contract,
    readonly stage: Stage,
    readonly layers: readonly ReadLayer[],
    readonly elsewhere: (name: string) => readonly string[],
  ) {
    for (const variable of contract.variables.values()) {
      const [name, ...others] = settableNames(contract, variable) as [string, ...string[]];
      for (const other of others.toReversed()) this.#presentNames.set(other, name);
    }
    for (const layer of layers) this.#take(layer);
    this.#expander = new Expander({
      offers: (name) => this.#offers.get(this.#presentName(name)) ?? [],
      default: (name) => contract.variables.get(this.#presentName(name))?.default,
      reach: (name) => reachOf(contract, this.#presentName(name)),
      isDeclared: (name) => contract.variables.has(this.#presentName(name)),
    });
  }

  /** Within a layer a value under the present name wins over one under another name. */
  #take({ offers }: ReadLayer): void {
    const isOld = ({ name }: Offer) => this.#presentNames.has(name);
    const old = this.#presentNames.size === 0 ? [] : offers.filter(isOld);
    const ordered = old.length === 0 ? offers : [...old, ...offers.filter((one) => !isOld(one))];
    for (const offer of ordered) {
      const name = this.#presentName(offer.name);
      const known = this.#offers.get(name);
      if (known) known.push(offer);
      else this.#offers.set(name, [offer]);
      if (this.contract.variables.get(name)?.aka.includes(offer.name)) this.#noteOldName(name, offer);
    }
  }

  #presentName(name: string): string {
    return this.#presentNames.get(name) ?? name;
  }

  #noteOldName(name: string, offer: Offer): void {
    this.#report(finding('value/old-name', 'name', { variable: name, old: offer.name }), offer);
  }

  resolve(): Resolution {
    for (const layer of this.layers) this.#findings.push(...layer.findings);
    const values = new Map<string, ResolvedValue>();
    for (const variable of this.contract.variables.values()) values.set(variable.name, this.#variable(variable));
    const undeclared = [...this.#offers.keys()]
      .filter((name) => !this.contract.variables.has(name))
      .flatMap((name) => this.#undeclared(name));
    const findings = this.#findings.map((finding) => ({ ...finding, stage: this.stage.name }));
    return {
      stage: this.stage,
      layers: this.layers,
      values,
      undeclared,
      overridden: this.#overridden(),
      rejected: this.#rejected(),
      findings,
    };
  }

  #overridden(): NamedValue[] {
    const narrow = [...this.contract.variables.values()].filter(({ reach }) => reach !== 'public');
    const lost = narrow.flatMap(({ name }) => (this.#offers.get(name) ?? []).slice(0, -1));
    return lost.flatMap((offer) => {
      const expansion = this.#expander.expand(offer);
      return isProblem(expansion) ? [] : [{ name: offer.name, value: expansion.text, from: offer.source }];
    });
  }

  /**
   * Values that a search must know although no variable may have them: of refused lines, and of offers that cannot be
   * expanded. An offer that can be is included as well, because a value refused for its reach is kept nowhere else.
   */
  #rejected(): NamedValue[] {
    const ofLines = this.layers.flatMap(({ rejected = [] }) =>
      rejected.flatMap(({ name, texts, source }) => texts.map((value) => ({ name, value, from: source }))),
    );
    const ofOffers = [...this.#offers.values()].flat().flatMap((offer) => {
      const { name, raw, source: from } = offer;
      const expansion = raw && this.#expander.expand(offer);
      if (!expansion) return [];
      if (!isProblem(expansion)) return [{ name, value: expansion.text, from }];
      return asOthersRead(reveal(raw)).map((text) => ({ name, value: new Secret(text), from }));
    });
    return [...ofLines, ...ofOffers]
      .map((one) => ({ ...one, name: this.#presentName(one.name) }))
      .filter(({ name }) => reachOf(this.contract, name) !== 'public');
  }

  #variable(variable: Variable): ResolvedValue {
    const offers = this.#offers.get(variable.name) ?? [];
    const winner = offers.at(-1);
    if (!winner) return this.#unset(variable);
    const overrides = offers.length === 1 ? [] : offers.slice(0, -1).map(({ source }) => source);
    const from = winner.source;
    const expansion = this.#expander.expand(winner);
    this.#noteShadowed(variable, offers);
    this.#noteTwoNames(variable, offers);
    this.#noteLocal(variable, offers);
    if (isProblem(expansion)) {
      this.#report(expansion.findingFor(variable.name), winner);
      return { variable, state: 'malformed', from, overrides, tookIn: [] };
    }
    const { text: value, tookIn } = expansion;
    if (expansion.reach !== variable.reach) {
      this.#sayWidened(variable, winner, tookIn);
      return { variable, state: 'malformed', from, overrides, tookIn };
    }
    return { variable, state: this.#check(variable, value, winner), value, from, overrides, tookIn };
  }

  #unset(variable: Variable): ResolvedValue {
    const base = { variable, overrides: [], tookIn: [] };
    if (variable.default) {
      const { line, column } = variable.at;
      const from = { layer: 'default', path: this.contract.path, line, column };
      return { ...base, state: 'default', value: variable.default, from };
    }
    if (!isRequired(variable, this.stage.name)) return { ...base, state: 'optional' };
    // The value may be in that file, and to add it there would not help.
    if (this.layers.some(({ isUnreadable }) => isUnreadable)) return { ...base, state: 'missing' };
    const near = this.#nearInProcess(variable);
    const broken = this.#brokenLine(variable);
    const { name: stage, bundle } = this.stage;
    if (near === undefined && broken === undefined && this.#mayBeAtHost(variable)) {
      this.#report(finding('value/missing', 'elsewhere', { variable: variable.name, stage }, { level: 'note' }));
      return { ...base, state: 'elsewhere' };
    }
    const where = { searched: this.#searched(), setIn: [...this.elsewhere(variable.name)] };
    this.#report(
      finding('value/missing', 'unset', { ...this.#howToGive(variable), stage, bundle, broken, ...where, near }),
    );
    return { ...base, state: 'missing' };
  }

  /** Tells whether a server's host may have a value that this machine has not: a stage that ships reads the environment. */
  #mayBeAtHost({ reach }: Variable): boolean {
    const { name, layers } = this.stage;
    return reach === 'server' && ships(name) && layers.some(({ kind }) => kind === 'process');
  }

  /** A name of the process environment that is meant for a variable: misspelt, or as the code of a bundle reads it. */
  #nearInProcess(variable: Variable): string | undefined {
    const names = this.layers.flatMap(({ unread = [] }) => unread);
    const inCode = Object.values(namesOf(this.contract, variable));
    return names.find((name) => inCode.includes(name) || isSlip(name, variable.name));
  }

  /** The place of a line for the name that cannot be parsed. */
  #brokenLine({ name }: Variable): string | undefined {
    const broken = this.layers.flatMap(({ findings }) => findings).find(({ variable }) => variable === name);
    return broken?.place && `${broken.place.path}:${broken.place.line}`;
  }

  #searched(): string[] {
    return this.layers.map(({ name, state }) =>
      state === 'absent' ? `${name} (absent)` : describeSource({ layer: name }),
    );
  }

  /** Public values go where the team sees them; others into a layer that is not a shared file, if there is one. */
  #howToGive({ name, reach, form, about }: Variable, offer?: Offer) {
    const layers = [...this.stage.layers];
    return {
      at: offer?.source.line === undefined ? undefined : describeSource(offer.source),
      variable: name,
      file: layers.findLast(({ kind }) => kind === 'file')?.name,
      inProcess: layers.some(({ kind }) => kind === 'process'),
      isShared: reach === 'public',
      form: form.name,
      about,
    };
  }

  #check(variable: Variable, value: Secret, offer: Offer): ValueState {
    const text = reveal(value);
    const { name } = variable;
    if (text === '') {
      const facts = { ...this.#howToGive(variable, offer), stage: this.stage.name };
      if (isRequired(variable, this.stage.name)) this.#report(finding('value/empty', 'empty', facts), offer);
      return 'empty';
    }
    const problem = valueProblem(variable, text, this.stage.name);
    this.#noteSuspicions(variable, text, offer);
    if (!problem) return 'set';
    const example = variable.example ?? variable.form.example;
    this.#report(finding('value/malformed', 'form', { variable: name, problem, example }), offer);
    return 'malformed';
  }

  /** Values that fit their form, but are probably not intended. */
  #noteSuspicions(variable: Variable, text: string, offer: Offer): void {
    const { name, reach } = variable;
    const untidy = untidiness(text);
    if (untidy) this.#report(finding('value/untidy', 'text', { variable: name, problem: untidy }), offer);
    if (ships(this.stage.name) && isPlaceholder(variable, text)) {
      const facts = { ...this.#howToGive(variable, offer), stage: this.stage.name };
      this.#report(finding('value/placeholder', 'value', facts), offer);
    }
    if (reach === 'public' && isLocalAddress(text) && this.#isForVisitors())
      this.#report(finding('stage/local-address', 'value', { variable: name, stage: this.stage.name }), offer);
    const shape = shapeOf(text);
    const about = { variable: name, shape: shape?.name ?? '' };
    if (reach === 'public' && (shape?.kind === 'secret' || namesSecret(name)))
      this.#report(finding('contract/risky-public', shape?.kind === 'secret' ? 'shape' : 'name', about), offer);
    if (reach !== 'public' && shape?.kind === 'publishable')
      this.#report(finding('value/untidy', 'publishable', about), offer);
  }

  /** Tells whether others than the developer open what the stage builds: it ships, and no site of it is on this machine or network. */
  #isForVisitors(): boolean {
    const { name, buildAs } = this.stage;
    const sites = [...this.contract.bundles.values()].flatMap(({ served }) => served[name]?.url ?? []);
    return ships(name) && buildAs !== 'development' && !sites.some(isLocalAddress);
  }

  #sayWidened(variable: Variable, offer: Offer, tookIn: readonly string[]): void {
    const inner =
      tookIn.find((name) => narrower(reachOf(this.contract, name), variable.reach) !== variable.reach) ??
      tookIn[0] ??
      '';
    const facts = { variable: variable.name, reach: variable.reach, inner, innerReach: reachOf(this.contract, inner) };
    const variant = this.contract.variables.has(inner) ? 'reach' : 'undeclared';
    this.#report(finding('value/widened', variant, facts), offer);
  }

  #noteShadowed(variable: Variable, offers: readonly Offer[]): void {
    const winner = offers.at(-1);
    const file = offers.findLast(({ source }) => source.layer !== 'process');
    if (winner?.source.layer !== 'process' || !file) return;
    if (!this.#differ(winner, file)) return;
    const facts = { variable: variable.name, source: describeSource(file.source) };
    this.#report(finding('value/shadowed', 'process', facts), file);
  }

  /** A tool that loads the files itself knows the name that code reads, and nothing of the other one. */
  #noteTwoNames({ name, aka }: Variable, offers: readonly Offer[]): void {
    const winner = offers.at(-1);
    const other = offers.findLast((one) => one.name !== winner?.name && !aka.includes(one.name));
    if (!winner || !other || aka.includes(winner.name) || !this.#differ(winner, other)) return;
    const facts = { variable: name, name: winner.name, other: other.name, at: describeSource(other.source) };
    this.#report(finding('value/duplicate', 'two-names', facts, { level: 'error' }), winner);
  }

  /** Tells whether two offers have values, and not the same one. */
  #differ(one: Offer, other: Offer): boolean {
    const [a, b] = [this.#expander.expand(one), this.#expander.expand(other)];
    return !isProblem(a) && !isProblem(b) && !sameSecret(a.text, b.text);
  }

  /** A file of one machine must not decide what is shipped. */
  #noteLocal(variable: Variable, offers: readonly Offer[]): void {
    const [winner, loser] = [offers.at(-1), offers.at(-2)];
    if (
      !winner ||
      !loser ||
      !ships(this.stage.name) ||
      !isLocalFile(winner.source.path ?? '') ||
      isLocalFile(loser.source.path ?? '')
    )
      return;
    if (!this.#differ(winner, loser)) return;
    const sources = { winner: describeSource(winner.source), loser: describeSource(loser.source) };
    const facts = { variable: variable.name, stage: this.stage.name, ...sources };
    this.#report(finding('value/shadowed', 'local-file', facts), winner);
  }

  #undeclared(name: string): NamedValue[] {
    const winner = this.#offers.get(name)?.at(-1);
    if (!winner) return [];
    const [near] = nearest(name, this.contract.variables.keys());
    const facts = { variable: name, near };
    this.#report(finding('value/undeclared', name === 'NODE_ENV' ? 'node-env' : 'name', facts), winner);
    const expansion: Expansion = this.#expander.expand(winner);
    if (isProblem(expansion)) this.#report(expansion.findingFor(name), winner);
    return isProblem(expansion) ? [] : [{ name, value: expansion.text, from: winner.source }];
  }

  #report(of: RawFinding, offer?: Offer): void {
    const { path, line, column } = offer?.source ?? {};
    const place =
      path === undefined ? undefined : { path, inside: [], ...(line && { line }), ...(column && { column }) };
    const excerpt = offer && this.layers.find((layer) => layer.path === path)?.quote?.(offer);
    // Without a place, only the bundle says which layers lack the value.
    const bundle = place === undefined && this.stage.bundle !== undefined ? { bundle: this.stage.bundle } : {};
    this.#findings.push({ ...of, ...bundle, ...(place && { place }), ...(excerpt && { excerpt }) });
  }
}
