import { generateKeyPairSync, randomBytes } from 'node:crypto';
import { childEnvironment, givenName, readName, STAGE_NAME } from '../core/build/environment.js';
import type { Bundle, Stage, Variable } from '../core/contract/contract.js';
import { prefixOf, variablesByName } from '../core/contract/names.js';
import { definesText } from '../core/emit/defines.js';
import { valueFileOf } from '../core/files/value-files.js';
import type { ReadLayer } from '../core/resolve/layer.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { valueProblem } from '../core/resolve/value-rules.js';
import { reveal, Secret } from '../core/secrets/secret.js';
import { toolchainOf } from '../core/toolchains/index.js';
import { isForeignName } from '../core/toolchains/known-names.js';
import {
  isKeyBlock,
  type MarkedPlace,
  type Marker,
  markedValue,
  markerText,
  otherDigits,
} from '../core/trial/marker.js';
import { otherValue } from '../core/trial/other-value.js';
import { markedEnvFile, markedLiterals } from '../core/trial/rewrite.js';
import { withSlashes } from '../host/files.js';
import type { LeftOut, ProjectCopy } from '../host/trial/copy.js';
import { filesNamed } from '../host/walk.js';
import type { World } from '../host/world.js';
import type { Project } from './open.js';
import { readToolFiles } from './preflight.js';

/** A build, as far as its values are concerned. */
export interface MarkedBuild {
  stage: Stage;
  bundle: Bundle;
  resolution: Resolution;
  /** Every stage. */
  all: readonly Resolution[];
  /** Names that code of the bundle reads. */
  read: Iterable<string>;
  /** Variables that get their real values. */
  real: readonly string[];
  command: readonly string[];
  /** Names by which the build chooses its stage: a made-up text would choose none. */
  choosing: ReadonlySet<string>;
  /** Names that the environment does not have, so that the values in files arrive. */
  without: ReadonlySet<string>;
  /** Names that the environment has although the tool's files give them. */
  also: ReadonlySet<string>;
  /** Tells whether the project itself is built. Then made-up values are in the environment alone. */
  isInPlace: boolean;
  /** Names without room for a marker that get another value. */
  changed: ReadonlySet<string>;
  /** Made-up texts by place, so that two builds have the same ones. */
  texts: Map<string, string>;
}

/** Puts made-up values in the place of those in a copy of a project and in an environment. */
export class Markers {
  readonly placed: Marker[] = [];
  /** Names whose values had no room for a marker. */
  readonly unmarked = new Set<string>();
  readonly unmarkedAt: Pick<Marker, 'name' | 'setAt'>[] = [];
  readonly #publicNames: ReadonlySet<string>;
  readonly #named: ReadonlyMap<string, Variable>;
  /** Layers that are data or modules, by their paths. */
  readonly #layers: ReadonlyMap<string, ReadLayer>;

  constructor(
    readonly project: Project,
    readonly build: MarkedBuild,
  ) {
    const open = [...project.contract.variables.values()].filter(({ reach }) => reach === 'public');
    this.#named = variablesByName(project.contract);
    const layers = build.all.flatMap((one) => one.layers);
    this.#layers = new Map(
      layers.flatMap((layer) =>
        layer.path !== undefined && /^(structured|module)$/.test(valueFileOf(layer.path)?.kind ?? '')
          ? [[layer.path, layer]]
          : [],
      ),
    );
    this.#publicNames = new Set(open.flatMap((variable) => [variable.name, readName(build.bundle, variable)]));
  }

  /** Tells whether a file has values, so that a copy gets a marked one in its place. @param path absolute */
  holdsValues(path: string): boolean {
    const { files, root } = this.project;
    return isEnvFile(files.path.basename(path)) || this.#layers.has(files.shown(path, root));
  }

  /**
   * Writes the files with values into a copy, each with markers in the place of its values.
   * @param top the directory that was copied @param leftOut what the copy does not have of it
   */
  writeFiles(copy: ProjectCopy, top: string, leftOut: LeftOut): void {
    const { files, root } = this.project;
    const { join, relative } = files.path;
    const isSkipped = (path: string) => leftOut.folder(join(top, path));
    const envFiles = filesNamed(files, top, isEnvFile, isSkipped).map((path) => join(top, path));
    const layers = [...this.#layers.keys()].map((path) => join(root, path));
    for (const path of [...envFiles, ...layers.filter((one) => files.isBelow(one, top))]) {
      const bytes = files.readIfPossible(path);
      if (bytes) copy.write(relative(top, path), this.#marked(path, bytes));
    }
  }

  #marked(absolute: string, bytes: Uint8Array): string | Uint8Array {
    const { files, root } = this.project;
    const path = withSlashes(files.path.relative(root, absolute), files.path);
    const layer = this.#layers.get(path);
    if (!layer) return markedEnvFile(bytes, (name, value, line) => this.#mark(name, value, { path, line }));
    return markedLiterals(Buffer.from(bytes).toString(), (value, line, column) => {
      // Several keys may be on one line, each before its value.
      const name = layer.offers.findLast(({ source }) => source.line === line && (source.column ?? 1) <= column)?.name;
      return name === undefined ? undefined : this.#mark(name, value, { path, line });
    });
  }

  /** The define file of the bundle: for tools that take public values from one. */
  defineFile(): string {
    const { bundle, resolution } = this.build;
    const textFor = ({ name }: Variable) => {
      const value = resolution.values.get(name)?.value;
      return new Secret(this.#mark(name, value ? reveal(value) : '', {}) ?? (value ? reveal(value) : ''));
    };
    return definesText(bundle, resolution, { withBuild: false, textFor });
  }

  /** The widest environment that a build could have: every variable, and the names that code asks for. */
  environment({ env }: Pick<World, 'env'>): Record<string, string> {
    const { stage, bundle, resolution, read, without, also } = this.build;
    const inFiles = this.build.isInPlace ? new Set() : this.#namesOfFiles();
    const values = new Map<string, string>();
    const give = (name: string, value: string) => {
      if (this.build.choosing.has(name)) {
        if (value !== '') values.set(name, value);
        return;
      }
      if ((!inFiles.has(name) || also.has(name)) && !without.has(name) && !values.has(name))
        values.set(name, this.#mark(name, value, {}) ?? value);
    };
    for (const variable of this.project.contract.variables.values()) {
      const value = resolution.values.get(variable.name)?.value;
      give(givenName(bundle, variable), value ? reveal(value) : '');
    }
    for (const name of read) if (!isForeignName(name)) give(name, '');
    const base = childEnvironment(env, this.project.contract, stage, new Map(), bundle);
    return { ...base, [STAGE_NAME]: stage.name, ...Object.fromEntries(values) };
  }

  /** Names that the tool's own files give to code. The environment would win over these, so it does not have them. */
  #namesOfFiles(): ReadonlySet<string> {
    const { stage, bundle, command } = this.build;
    const isGiven = (name: string) =>
      toolchainOf(bundle).envFiles?.fillsEnvironment === true || prefixOf(bundle, name) !== undefined;
    const loaded = readToolFiles(this.project, bundle, stage, command);
    return new Set(loaded.flatMap(({ offers }) => offers.map(({ name }) => name)).filter(isGiven));
  }

  /** The text for one place, in the shape of its value; undefined to keep the value. */
  #mark(name: string, value: string, setAt: MarkedPlace): string | undefined {
    if (this.build.isInPlace && setAt.path !== undefined) return this.#leave(name, setAt);
    const variable = this.#named.get(name);
    if (variable && this.build.real.includes(variable.name)) return undefined;
    const text = this.#sameIn(setAt, name, () => (isKeyBlock(value) ? madeUpKey() : markerText(randomBytes)));
    const isShown = this.#publicNames.has(name);
    const marked = isKeyBlock(value)
      ? text
      : markedValue(value === '' ? 'any text' : value, text, { form: variable?.form.name, isShown });
    if (marked !== undefined) {
      this.placed.push({ text, name, setAt });
      return marked;
    }
    this.unmarked.add(name);
    this.unmarkedAt.push({ name, setAt });
    if (this.build.changed.has(name)) return this.#other(variable, value);
    return isShown ? undefined : this.#sameIn(setAt, name, () => otherDigits(value, randomBytes));
  }

  /** A value that stays in its file: where it arrives is not known. */
  #leave(name: string, setAt: MarkedPlace): undefined {
    this.unmarked.add(name);
    this.unmarkedAt.push({ name, setAt });
  }

  #sameIn({ path, line }: MarkedPlace, name: string, make: () => string): string {
    const key = JSON.stringify([name, path, line]);
    const text = this.build.texts.get(key) ?? make();
    this.build.texts.set(key, text);
    return text;
  }

  #other(variable: Variable | undefined, value: string): string | undefined {
    const { stage } = this.build;
    const isValid = (text: string) => !variable || valueProblem(variable, text, stage.name) === undefined;
    return otherValue(value, isValid, variable && choicesOf(variable));
  }
}

/** The words that the form of a variable allows, if it is a choice. */
function choicesOf({ form }: Variable): string[] {
  return form.name === 'choice' ? (form.textType ?? '').split(' | ').map((word) => JSON.parse(word)) : [];
}

function madeUpKey(): string {
  const { privateKey } = generateKeyPairSync('rsa', { modulusLength: 2048 });
  return privateKey.export({ type: 'pkcs8', format: 'pem' }).toString().trim();
}

/** Tells whether tools may load a file, also one that is misnamed or left over. */
function isEnvFile(path: string): boolean {
  return /^(env|misnamed|leftover)$/.test(valueFileOf(path)?.kind ?? '');
}
