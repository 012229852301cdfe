import { relative, sep } from 'node:path';
import { BUNDLE_NAME, buildErrors, givenValues, STAGE_NAME } from '../core/build/environment.js';
import type { Bundle, Contract, Stage, Variable } from '../core/contract/contract.js';
import { nameIn } from '../core/contract/names.js';
import { rulesOf } from '../core/contract/rules.js';
import { isAlwaysThere } from '../core/emit/kind.js';
import { Failure } from '../core/findings/failure.js';
import type { JudgedFinding } from '../core/findings/finding.js';
import { judge } from '../core/findings/judge.js';
import { type InlineResult, Inliner, objectsOf, valuesModule } from '../core/inline/inline.js';
import { type LeftRead, leftMarks, markedReads, packageObjects } from '../core/inline/package-reads.js';
import { mayRead, readPattern, readsIn } from '../core/reads/index.js';
import { worded } from '../core/report/worded.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { runtimeFile, runtimeVariables } from '../core/runtime/runtime.js';
import type { Secret } from '../core/secrets/secret.js';
import { displayText } from '../core/text/display.js';
import { writeUses } from '../host/state.js';
import { realWorld, today } from '../host/world.js';
import { readCode } from '../project/lint.js';
import { neededBundle, openProject, type Project, projectFor, stageOf, valueFilesOf } from '../project/open.js';
import { StageResolver } from '../project/resolve.js';

/** Options of the plugin in a bundler's configuration; everything else is in the contract. */
export interface AdderOptions {
  /** The contract; default: the nearest adder.yaml above the working directory. */
  contract?: string;
  /** The stage; default: the one of `adder with`, in ADDER_STAGE. */
  stage?: string;
  /** The bundle; default: the only one of the contract. */
  bundle?: string;
}

/** The contract as the bundle sees it. */
interface Opened {
  project: Project;
  bundle: Bundle;
}

/** The values of one stage. */
interface Resolved {
  stage: Stage;
  variables: Variable[];
  values: Map<string, Secret>;
  resolution: Resolution;
  inliner: Inliner;
}

/** One build, or one run of a dev server: its present values, and which modules read them. */
export class Session {
  #opened: Opened;
  /** Absent until a module needs a value, because a build without reads needs no stage. */
  #resolved: Resolved | undefined;
  /** Which modules read which variables, by paths from the contract's directory. */
  readonly used = new Map<string, Set<string>>();

  /** @throws Failure if the contract is wrong */
  constructor(
    readonly options: AdderOptions,
    readonly cwd: string,
    /** Tells whether this is a dev server or a test run, whose output does not ship. */
    readonly isDevelopment = false,
  ) {
    this.#opened = this.#open();
  }

  /**
   * Reads the contract again, and the values if they were needed before.
   * @throws Failure if the contract, stage or values are wrong; messages contain no value
   */
  refresh(): void {
    const opened = this.#open();
    const resolved = this.#resolved && this.#resolve(opened);
    this.#opened = opened;
    this.#resolved = resolved;
  }

  #open(): Opened {
    const whole = openProject(this.#world, this.options.contract);
    const bundle = neededBundle(whole, chosen('bundle', this.options.bundle, this.#world.env[BUNDLE_NAME]), this.cwd);
    return { project: projectFor(whole, bundle), bundle };
  }

  get #world(): ReturnType<typeof realWorld> {
    return { ...realWorldOnce(), cwd: this.cwd };
  }

  /** A pattern that every module matches which may read a value of the bundle. */
  get readPattern(): RegExp {
    return readPattern(objectsOf(this.#bundle));
  }

  get #project(): Project {
    return this.#opened.project;
  }

  get #bundle(): Bundle {
    return this.#opened.bundle;
  }

  /** @throws Error for the bundler's log if the stage or values are wrong */
  get #now(): Resolved {
    this.#resolved ??= asBuildError(() => this.#resolve(this.#opened));
    return this.#resolved;
  }

  #resolve({ project, bundle }: Opened): Resolved {
    const world = this.#world;
    const stage = stageOf(project, this.#stageName(project.contract, world.env[STAGE_NAME]));
    const { asked } = new StageResolver(project, world).for(stage);
    const { findings } = judge(asked.findings, rulesOf(project.contract), today(world), []);
    const errors = buildErrors(project.contract, bundle, findings).filter(({ variable }) =>
      this.#isPublic(project, variable),
    );
    if (errors.length > 0)
      throw new Failure(errors.map(describeFinding).join('\n'), `\`adder values ${stage.name}\` shows all problems`);
    const given = givenValues(project.contract, bundle, asked);
    const values = new Map(
      [...given].filter(([, { variable }]) => variable.reach === 'public').map(([key, { value }]) => [key, value]),
    );
    return {
      stage,
      resolution: asked,
      variables: [...given.values()].map(({ variable }) => variable),
      values,
      inliner: new Inliner(project.contract, bundle, values),
    };
  }

  /** Without `adder with`, only what never ships may have a default. */
  #stageName({ stages, defaultStage }: Contract, given: string | undefined): string {
    const name = chosen('stage', this.options.stage, given) ?? (this.isDevelopment ? defaultStage : undefined);
    if (name !== undefined) return name;
    const first = `run \`adder with ${[...stages.keys()].join('|')} -- COMMAND\``;
    throw new Failure(
      this.isDevelopment ? 'no stage for this dev server' : 'no stage for this build',
      this.isDevelopment
        ? `${first}, or set \`default-stage\` in the contract`
        : `${first}, or set \`stage\` in the plugin's options`,
    );
  }

  /** A build value that is missing is for `adder with` to refuse: the plugin puts only public ones in. */
  #isPublic({ contract }: Project, variable: string | undefined): boolean {
    return variable === undefined || (contract.variables.get(variable)?.reach ?? 'server') === 'public';
  }

  /** The contract and its layers, as absolute paths. A change in one of them may change values. */
  get watched(): string[] {
    return valueFilesOf(this.#project, this.#now.stage);
  }

  /** The source of the module of values. */
  values(): string {
    const { contract } = this.#project;
    const { variables, values } = this.#now;
    return valuesModule(variables, values, runtimeVariables(contract, this.#bundle), (variable) =>
      isAlwaysThere(contract, variable),
    );
  }

  /** The script with the values that the app reads when it loads, if there are any. */
  runtime(): string | undefined {
    const { contract } = this.#project;
    const isNeeded = runtimeVariables(contract, this.#bundle).length > 0;
    return isNeeded ? runtimeFile(contract, this.#bundle, this.#now.resolution).text : undefined;
  }

  module(id: string, text: string, isServer: boolean): InlineResult {
    if (!mayRead(text, objectsOf(this.#bundle))) return { problems: [], used: [] };
    const path = this.#pathOf(id);
    const result = this.#now.inliner.module(path, text, isServer);
    if (result.used.length > 0) this.used.set(path, new Set(result.used));
    else this.used.delete(path);
    return result;
  }

  /** A page with its placeholders filled. @param id its absolute path */
  page(id: string, html: string): ReturnType<Inliner['page']> {
    return this.#now.inliner.page(this.#pathOf(id), html);
  }

  /** A package's module in which reads of public variables are marked. @param id its absolute path */
  packageModule(id: string, text: string): ReturnType<typeof markedReads> {
    if (!mayRead(text, packageObjects)) return { takesMany: false };
    const names = this.#publicNames();
    return names.length > 0
      ? markedReads(this.#pathOf(id), text, (name) => names.includes(name))
      : { takesMany: false };
  }

  /** Relative to the contract's directory, with slashes. */
  #pathOf(id: string): string {
    return relative(this.#project.root, id).split(sep).join('/');
  }

  /** Public variables with a value, as code reads them. */
  #publicNames(): string[] {
    const { variables } = this.#project.contract;
    return [...this.#now.values.keys()].flatMap((key) => {
      const variable = variables.get(key);
      return variable ? [nameIn(this.#bundle, variable)] : [];
    });
  }

  /** Public variables that a built chunk still reads, so that they are undefined there. */
  leftIn(code: string): LeftRead[] {
    const marked = leftMarks(code);
    const objects = ['import.meta.env', 'process.env'];
    // Most chunks contain no such object, and need no parsing.
    if (!mayRead(code, objects)) return marked;
    const names = this.#publicNames();
    const { reads } = readsIn('chunk.js', code, objects);
    return [...marked, ...reads.flatMap(({ name }) => (name !== undefined && names.includes(name) ? [{ name }] : []))];
  }

  /** Leaves for the receipt which modules read which variables. */
  record(): void {
    const uses: Record<string, string[]> = Object.create(null);
    for (const [path, names] of this.used) for (const name of names) uses[name] = [...(uses[name] ?? []), path].sort();
    writeUses(this.#project, this.#bundle.name, uses);
  }

  /** The chain of imports from an entry to a module; needed only when a build is stopped. */
  async chainTo(id: string): Promise<readonly string[]> {
    const path = this.#pathOf(id);
    const { context } = await readCode(this.#project, [this.#bundle], realWorldOnce());
    return context.bundles[0]?.shipped.get(path) ?? [path];
  }
}

/** Stage and bundle that `adder with` chose; an option of the plugin must not contradict it. */
function chosen(what: 'stage' | 'bundle', option: string | undefined, given: string | undefined): string | undefined {
  if (option !== undefined && given !== undefined && option !== given)
    throw new Failure(
      `\`adder with\` builds the ${what} ${given}, but the plugin's options say ${option}`,
      `remove \`${what}\` from the plugin's options`,
    );
  return given ?? option;
}

/** Turns a failure that the user can fix into an error for a bundler's log. */
export function asBuildError<T>(act: () => T): T {
  try {
    return act();
  } catch (error) {
    throw error instanceof Failure ? new Error(`adder: ${error.message}\n  → ${error.remedy}`) : error;
  }
}

let world: ReturnType<typeof realWorld> | undefined;

/** One world for all sessions: each one listens to the process's streams. */
function realWorldOnce(): ReturnType<typeof realWorld> {
  world ??= realWorld();
  return world;
}

function describeFinding(finding: JudgedFinding): string {
  const { place, message, remedy } = worded(finding);
  const where = place ? ` (${place.path}${place.line ? `:${place.line}` : ''})` : '';
  return displayText(`${message}${where}; ${remedy}`);
}
