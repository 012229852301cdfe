import { type Contract, isRequired, type Stage, type Variable } from '../contract/contract.js';
import { namesOf } from '../contract/names.js';
import { isLocalFile } from '../files/value-files.js';
import type { RawFinding } from '../findings/finding.js';
import { narrower, type Reach } from '../findings/reach.js';
import { reveal, Secret, sameSecret } from '../secrets/secret.js';
import { isSlip, nearest } from '../text/nearest.js';
import { namesSecret, shapeOf } from '../tokens/shapes.js';
import { Expander, type Expansion, isProblem } from './expand.js';
import { describeSource, type Offer, type ReadLayer, type Source } from './layer.js';
import { asOthersRead } from './rejected.js';
import { isPlaceholder, ships, untidiness, valueProblem } from './value-rules.js';
import type { ValueState } from './value-state.js';

export interface ResolvedValue {
  variable: Variable;
  state: ValueState;
  /** Absent if there is none, or if nothing may get it. */
  value?: Secret;
  from?: Source;
  /** The offers that lost, in the order of the layers. */
  overrides: Source[];
  /** The names whose values it took in by references. */
  tookIn: string[];
}

/** A value that no build gets, and that no artifact may contain. */
export interface NamedValue {
  name: string;
  value: Secret;
  from: Source;
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
  /** Older names to the present ones. */
  readonly #presentNames = new Map<string, string>();
  readonly #findings: RawFinding[] = [];
  readonly #expander: Expander;

  constructor(
    readonly contract: Contract,
    readonly stage: Stage,
    readonly layers: readonly ReadLayer[],
    readonly elsewhere: (name: string) => readonly string[],
  ) {
    for (const { aka, name } of contract.variables.values()) for (const old of aka) this.#presentNames.set(old, name);
    for (const layer of layers) this.#take(layer);
    this.#expander = new Expander({
      offers: (name) => this.#offers.get(this.#presentName(name)) ?? [],
      default: (name) => contract.variables.get(this.#presentName(name))?.default,
      reach: (name) => reachOf(contract, this.#presentName(name)),
    });
  }

  /** Within a layer a value under the present name wins over one under an older name. */
  #take({ offers }: ReadLayer): void {
    const isOld = ({ name }: Offer) => this.#presentNames.has(name);
    const old = this.#presentNames.size === 0 ? [] : offers.filter(isOld);
    const ordered = old.length === 0 ? offers : [...old, ...offers.filter((one) => !isOld(one))];
    for (const offer of ordered) {
      const name = this.#presentName(offer.name);
      const known = this.#offers.get(name);
      if (known) known.push(offer);
      else this.#offers.set(name, [offer]);
      if (offer.name !== name) this.#noteOldName(name, offer);
    }
  }

  #presentName(name: string): string {
    return this.#presentNames.get(name) ?? name;
  }

  #noteOldName(name: string, offer: Offer): void {
    const message = `${offer.name} is an old name of ${name}`;
    this.#report({ name }, offer, { code: 'value/old-name', message, remedy: `rename it to ${name}` });
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
    this.#noteLocal(variable, offers);
    if (isProblem(expansion)) {
      this.#report(variable, winner, { ...expansion, message: `${variable.name} ${expansion.message}` });
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
    this.#report(variable, undefined, {
      code: 'value/missing',
      message: `${variable.name} has no value in ${this.stage.name}${this.#forBundle()}. ${this.#brokenLine(variable) ?? `Searched: ${this.#lookedIn()}`}${this.#haveIt(variable)}${near === undefined ? '' : `. The process environment has ${near}`}`,
      remedy:
        near === undefined
          ? this.#howToGive(variable)
          : `rename ${near} to ${variable.name} there, or ${this.#howToGive(variable)}`,
    });
    return { ...base, state: 'missing' };
  }

  /** A name of the process environment that is meant for a variable: misspelt, or as the code of a bundle reads it. */
  #nearInProcess(variable: Variable): string | undefined {
    const names = this.layers.flatMap(({ unread = [] }) => unread);
    const inCode = Object.values(namesOf(this.contract, variable));
    return names.find((name) => inCode.includes(name) || isSlip(name, variable.name));
  }

  #forBundle(): string {
    return this.stage.bundle === undefined ? '' : ` for ${this.stage.bundle}`;
  }

  /** Says so when there is a line for the name, and it was no use. */
  #brokenLine({ name }: Variable): string | undefined {
    const broken = this.layers.flatMap(({ findings }) => findings).find(({ variable }) => variable === name);
    return broken?.place && `The line ${broken.place.path}:${broken.place.line} cannot be parsed`;
  }

  #haveIt({ name }: Variable): string {
    const stages = this.elsewhere(name);
    return stages.length === 0 ? '' : `. Set in: ${stages.join(', ')}`;
  }

  #lookedIn(): string {
    return this.layers
      .map(({ name, state }) => (state === 'absent' ? `${name} (absent)` : describeSource({ layer: name })))
      .join(', ');
  }

  /** Public values go where the team sees them; others into a layer that is not a shared file, if there is one. */
  #howToGive({ name, reach, form, about }: Variable): string {
    const layers = [...this.stage.layers];
    const file = layers.findLast(({ kind }) => kind === 'file')?.name;
    const inProcess = layers.some(({ kind }) => kind === 'process');
    const line = `add ${name}=... to ${file}`;
    const shell = `set ${name} in the process environment`;
    const places = [file && line, inProcess && shell].filter(Boolean);
    if (reach !== 'public') places.reverse();
    return `${places.join(', or ')} (${form.name}${about ? `: ${about}` : ''})`;
  }

  #check(variable: Variable, value: Secret, offer: Offer): ValueState {
    const text = reveal(value);
    const { name } = variable;
    if (text === '') {
      const message = `${name} is empty, but ${this.stage.name} requires a value`;
      if (isRequired(variable, this.stage.name))
        this.#report(variable, offer, { code: 'value/empty', message, remedy: this.#howToGive(variable) });
      return 'empty';
    }
    const problem = valueProblem(variable, text, this.stage.name);
    this.#noteSuspicions(variable, text, offer);
    if (!problem) return 'set';
    const remedy = `fix it, such as ${name}=${variable.example ?? variable.form.example}, or change the form in the contract`;
    this.#report(variable, offer, { code: 'value/malformed', message: `${name} ${problem}`, remedy });
    return 'malformed';
  }

  /** Values that fit their form, but are probably not intended. */
  #noteSuspicions(variable: Variable, text: string, offer: Offer): void {
    const { name, reach } = variable;
    const untidy = untidiness(text);
    if (untidy)
      this.#report(variable, offer, {
        code: 'value/untidy',
        message: `${name} ${untidy}`,
        remedy: 'remove it, unless it is intended',
      });
    if (ships(this.stage.name) && isPlaceholder(variable, text)) {
      const message = `${name} is a placeholder in ${this.stage.name}, which ships`;
      this.#report(variable, offer, { code: 'value/placeholder', message, remedy: this.#howToGive(variable) });
    }
    const shape = shapeOf(text);
    if (reach === 'public' && (shape?.kind === 'secret' || namesSecret(name))) {
      const because = shape?.kind === 'secret' ? `has the shape of ${shape.name}` : "has a secret's name";
      const remedy = 'change its reach to build or server: anybody can read a public value';
      this.#report(variable, offer, {
        code: 'contract/risky-public',
        message: `${name} is public and ${because}`,
        remedy,
      });
    }
    if (reach !== 'public' && shape?.kind === 'publishable') {
      const message = `${name} has the shape of ${shape.name}, but should be a secret key`;
      this.#report(variable, offer, {
        code: 'value/untidy',
        message,
        remedy: 'set the secret key here, and the publishable one in a public variable',
      });
    }
  }

  #sayWidened(variable: Variable, offer: Offer, tookIn: readonly string[]): void {
    const inner =
      tookIn.find((name) => narrower(reachOf(this.contract, name), variable.reach) !== variable.reach) ??
      tookIn[0] ??
      '';
    const declared = this.contract.variables.has(inner);
    const reach = declared ? reachOf(this.contract, inner) : 'not declared, so server';
    this.#report(variable, offer, {
      code: 'value/widened',
      message: `${variable.name} is ${variable.reach} and refers to ${inner}, which is ${reach}, so nobody gets it`,
      remedy: declared
        ? `remove ${inner} from the value`
        : `declare ${inner} in the contract with its reach, or write its text instead of the reference`,
    });
  }

  #noteShadowed(variable: Variable, offers: readonly Offer[]): void {
    const winner = offers.at(-1);
    const file = offers.findLast(({ source }) => source.layer !== 'process');
    if (winner?.source.layer !== 'process' || !file) return;
    if (!this.#differ(winner, file)) return;
    const message = `the process environment wins over ${describeSource(file.source)} with a different ${variable.name}`;
    this.#report(variable, file, {
      code: 'value/shadowed',
      message,
      remedy: `run \`unset ${variable.name}\` if it is left from an earlier export`,
    });
  }

  /** Whether two offers have values, and not the same one. */
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
    const { name } = variable;
    const message = `${describeSource(winner.source)}, a local file, wins over ${describeSource(loser.source)} with a different ${name} in ${this.stage.name}, which ships`;
    const remedy = `remove the file from the layers of ${this.stage.name}, or the line from the file`;
    this.#report(variable, winner, { code: 'value/shadowed', message, remedy });
  }

  #describeUndeclared(name: string): Pick<RawFinding, 'message' | 'remedy'> {
    if (name === 'NODE_ENV') {
      const message = 'NODE_ENV is set here, but does not select the stage: each command names its stage';
      return { message, remedy: 'remove the line: tools set NODE_ENV themselves and ignore it' };
    }
    const message = `${name} is not in the contract, so it counts as server`;
    const [near] = nearest(name, this.contract.variables.keys());
    return {
      message,
      remedy: near
        ? `did you mean ${near}? Otherwise declare it in the contract`
        : 'declare it in the contract, or remove the line',
    };
  }

  #undeclared(name: string): NamedValue[] {
    const winner = this.#offers.get(name)?.at(-1);
    if (!winner) return [];
    this.#report({ name }, winner, { code: 'value/undeclared', ...this.#describeUndeclared(name) });
    const expansion: Expansion = this.#expander.expand(winner);
    if (isProblem(expansion)) this.#report({ name }, winner, { ...expansion, message: `${name} ${expansion.message}` });
    return isProblem(expansion) ? [] : [{ name, value: expansion.text, from: winner.source }];
  }

  #report(
    { name }: { name: string },
    offer: Offer | undefined,
    finding: Pick<RawFinding, 'code' | 'message' | 'remedy'>,
  ): void {
    const { path, line, column } = offer?.source ?? {};
    const place =
      path === undefined ? undefined : { path, inside: [], ...(line && { line }), ...(column && { column }) };
    const excerpt = offer && this.layers.find((layer) => layer.path === path)?.quote?.(offer);
    // Without a place, only the bundle says which layers lack the value.
    const bundle = place === undefined && this.stage.bundle !== undefined ? { bundle: this.stage.bundle } : {};
    this.#findings.push({
      ...finding,
      variable: name,
      ...bundle,
      ...(place && { place }),
      ...(excerpt && { excerpt }),
    });
  }
}
