import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { isDeepStrictEqual } from 'node:util';
import { TestProject } from '../support/adder.js';
import { type Dialect, isOfBundle, modulesOf, type Program, values, variables } from './program.js';
import { builder, environmentOf, pluggedConfig, rightNames, type Tool } from './tools.js';

/** The values that a program noted when it ran. */
export interface Outcome {
  seen: unknown[];
  error?: string;
}

/** The result of a program's build. */
export interface Built {
  /** Absent if the build failed. */
  outcome?: Outcome;
  failed?: string;
  warnings: string[];
  /** Tells whether the value of a variable that is not read is in the output. */
  carriesUnread: boolean;
}

/** A finding about a program. */
export interface Said {
  code: string;
  message: string;
  line: number;
}

/** All that is known of one program. */
export interface Facts {
  program: Program;
  modules: Record<string, string>;
  /** The outcome where the object of values is a real one. */
  ideal: Outcome;
  plain: Built;
  plugged: Built;
  lint: Said[];
  pluggedLint: Said[];
  /** Findings in the output of the plain build. */
  inspect: Said[];
  /** Public variables whose values are in the output of the plain build, and those that a trial says arrive there. */
  arrived: { inBuild: string[]; inTrial: string[] };
  /** Absent if `lint --fix` leaves the program as it is. */
  fixed?: Fixed;
  isOfBundle: boolean;
}

/** A program after `lint --fix`. */
export interface Fixed {
  modules: Record<string, string>;
  /** The outcome of the program before the change, where a misspelt name has its value. */
  expected: Outcome;
  ideal: Built;
  plain: Built;
  lint: Said[];
}

const runner = join(import.meta.dirname, 'run.mjs');

/** Programs in one project, with what the tool and Adder make of them. */
export class Truth {
  readonly #project: TestProject;
  readonly #ids: ReadonlyMap<string, Program>;

  constructor(
    readonly tool: Tool,
    programs: readonly Program[],
  ) {
    this.#ids = new Map(programs.map((program, index) => [`p${index}`, program]));
    const entries = [...this.#ids.keys()].map((id) => `src/${id}/${entryOf(tool)}`);
    this.#project = new TestProject({
      'adder.yaml': contractOf(`toolchain: ${tool.name}, code: [src], output: [dist], entry: [${entries}]`),
      '.env.production': envFile,
      'package.json': '{ "type": "module", "private": true }',
      [`${tool.name}.config.js`]: tool.config,
      'make.mjs': builder(tool),
    }).withPackages();
    for (const [id, program] of this.#ids)
      for (const [path, text] of Object.entries(modulesOf(program, tool, id)))
        this.#project.write(`src/${id}/${path}`, text);
  }

  facts(): Facts[] {
    for (const [id, program] of this.#ids) this.#writeIdeal(id, modulesOf(program, this.tool, id));
    const ideal = this.#ideal('made', [...this.#ids.keys()]);
    const plain = this.#built('dist');
    const inspect = this.#said(['inspect', '--stage', 'production'], 'dist');
    const arrived = this.#arrived('dist');
    const lint = this.#lint();
    const fixed = this.#fixed();
    this.#project.write(`${this.tool.name}.config.js`, pluggedConfig(this.tool));
    const pluggedLint = this.#lint();
    const plugged = this.#built('plugged');
    return [...this.#ids].flatMap(([id, program]) => {
      const { outcome } = ideal.get(id) as Built;
      // A program that fails with a real object tells nothing about its read.
      if (!outcome || outcome.error !== undefined) return [];
      return {
        program,
        modules: modulesOf(program, this.tool, id),
        ideal: outcome,
        plain: plain.get(id) as Built,
        plugged: plugged.get(id) as Built,
        inspect: inspect.get(id) ?? [],
        lint: lint.get(id) ?? [],
        pluggedLint: pluggedLint.get(id) ?? [],
        arrived: arrived.get(id) as Facts['arrived'],
        isOfBundle: isOfBundle(program, this.tool),
        ...(fixed.has(id) && { fixed: fixed.get(id) as Fixed }),
      };
    });
  }

  /** Runs programs that the tool built with a real object in the place of its own. */
  #ideal(folder: string, ids: readonly string[]): Map<string, Built> {
    return this.#built(folder, ids, 'ideal', environmentOf(this.tool));
  }

  #writeIdeal(id: string, modules: Readonly<Record<string, string>>): void {
    for (const [path, text] of Object.entries(modules))
      this.#project.write(`ideal/${id}/${path}`, withRealObject(text));
  }

  /** Programs that `lint --fix` changes. The project is afterwards as it was. */
  #fixed(): Map<string, Fixed> {
    this.#project.adder(['lint', '--fix']);
    const before = new Map([...this.#ids].map(([id, program]) => [id, modulesOf(program, this.tool, id)]));
    const after = new Map([...before].map(([id, modules]) => [id, this.#current(id, Object.keys(modules))]));
    const changed = [...before.keys()].filter((id) => !isDeepStrictEqual(before.get(id), after.get(id)));
    const expected = this.#run('made', changed, { ...environmentOf(this.tool), ...rightNames(this.tool) });
    for (const id of changed) this.#writeIdeal(id, after.get(id) as Record<string, string>);
    const ideal = this.#ideal('made-fixed', changed);
    const plain = this.#built('fixed', changed);
    const lint = this.#lint();
    for (const id of changed)
      for (const [path, text] of Object.entries(before.get(id) ?? {})) this.#project.write(`src/${id}/${path}`, text);
    return new Map(
      changed.map((id) => [
        id,
        {
          modules: after.get(id) as Record<string, string>,
          expected: expected.get(id) as Outcome,
          ideal: ideal.get(id) as Built,
          plain: plain.get(id) as Built,
          lint: lint.get(id) ?? [],
        },
      ]),
    );
  }

  #current(id: string, paths: readonly string[]): Record<string, string> {
    return Object.fromEntries(paths.map((path) => [path, this.#project.read(`src/${id}/${path}`)]));
  }

  #built(
    folder: string,
    ids: readonly string[] = [...this.#ids.keys()],
    source = 'src',
    env?: Record<string, string>,
  ): Map<string, Built> {
    const project = this.#project;
    const programs = ids.map((id) => [id, `${source}/${id}/${entryOf(this.tool)}`]);
    project.write('list.json', JSON.stringify({ programs, into: 'said.json', folder, isBare: env !== undefined }));
    const ran = project.adder(['with', 'production', '--', 'node', 'make.mjs', 'list.json']);
    if (ran.code !== 0) throw new Error(ran.stdout + ran.stderr);
    const said = JSON.parse(project.read('said.json')) as Record<string, { error?: string; warnings: string[] }>;
    const outcomes = this.#run(folder, ids, env);
    return new Map(
      Object.entries(said).map(([id, { error, warnings }]) => {
        const outcome = outcomes.get(id);
        const carriesUnread = this.#output(folder, id).includes(values.WEATHER_STATION);
        const result = error === undefined ? outcome && { outcome } : { failed: error };
        return [id, { ...result, warnings, carriesUnread }];
      }),
    );
  }

  /** Builds the programs of the last build again, as a trial. */
  #arrived(folder: string): Map<string, Facts['arrived']> {
    const command = ['node', 'make.mjs', 'list.json'];
    const { stdout } = this.#project.adder(['trial', 'production', '--format', 'json', '--', ...command]);
    const rows = JSON.parse(stdout).rows as { variable?: string; arrivesIn: { path: string }[] }[];
    const all = [variables.read, variables.other, variables.unread] as const;
    return new Map(
      [...this.#ids].map(([id, program]) => {
        const output = this.#output(folder, id);
        // A value that the program itself writes is there in any case.
        const code = Object.values(modulesOf(program, this.tool, id)).join('\n');
        const names = all.filter((name) => !code.includes(values[name]));
        const isIn = (path: string) => path.startsWith(`${folder}/${id}/`);
        const inTrial = rows.flatMap(({ variable = '', arrivesIn }) =>
          arrivesIn.some(({ path }) => isIn(path)) ? [variable] : [],
        );
        return [
          id,
          {
            inBuild: names.filter((name) => output.includes(values[name])),
            inTrial: names.filter((name) => inTrial.includes(name)),
          },
        ];
      }),
    );
  }

  #output(folder: string, id: string): string {
    const path = this.#project.path(folder, id);
    if (!existsSync(path)) return '';
    const scripts = readdirSync(path, { recursive: true, encoding: 'utf8' }).filter((name) => name.endsWith('.js'));
    return scripts.map((name) => this.#project.read(join(folder, id, name))).join('\n');
  }

  #run(folder: string, ids: readonly string[], env?: Record<string, string>): Map<string, Outcome> {
    const project = this.#project;
    const programs = ids
      .map((id) => [id, project.path(folder, id, 'main.js')] as const)
      .filter(([, path]) => existsSync(path));
    project.write('run.json', JSON.stringify({ programs, env }));
    const { status, stderr } = spawnSync(
      process.execPath,
      [runner, project.path('run.json'), project.path('ran.json')],
      {
        encoding: 'utf8',
      },
    );
    if (status !== 0) throw new Error(stderr);
    return new Map(Object.entries(JSON.parse(project.read('ran.json')) as Record<string, Outcome>));
  }

  #lint(): Map<string, Said[]> {
    return this.#said(['lint'], 'src');
  }

  /** @param folder the one that the programs' findings are in */
  #said(command: readonly string[], folder: string): Map<string, Said[]> {
    return saidByProgram(this.#project.json(command, {}).report.findings, folder);
  }
}

/** Findings about each program, by its identifier. @param folder the one that the programs are in */
export function saidByProgram(
  findings: readonly { code: string; message: string; place?: { path: string; line: number } }[],
  folder: string,
): Map<string, Said[]> {
  const byProgram = new Map<string, Said[]>();
  for (const { code, message, place } of findings) {
    const [, id] = new RegExp(`^${folder}/(p\\d+)/`).exec(place?.path ?? '') ?? [];
    if (id === undefined || !place) continue;
    byProgram.set(id, [...(byProgram.get(id) ?? []), { code, message, line: place.line }]);
  }
  return byProgram;
}

/** The contract of the programs. @param bundle the settings of its bundle */
export function contractOf(bundle: string): string {
  return `adder: 1
stages: { production: { layers: [.env, .env.production] } }
bundles:
  desk: { ${bundle} }
variables:
  ${variables.read}: public
  ${variables.other}: public
  ${variables.unread}: public
  ${variables.empty}: { reach: public, required: false }
  ${variables.server}: server
`;
}

/** The text of an env file with the values of the programs. */
export const envFile = Object.entries(values)
  .map(([name, value]) => `${name}=${JSON.stringify(value)}\n`)
  .join('');

function entryOf({ compiles }: Dialect): string {
  return compiles ? 'main.tsx' : 'main.js';
}

/** Replaces each object that tools replace with a real object. Members such as `own.process.env` stay; `...process.env` does not. */
export function withRealObject(text: string): string {
  const ofGlobal = text
    .replaceAll(/(?<![\w$])(?<!(?<!\.\.)\.)import\.meta\b(?!\.url)/g, 'globalThis.made')
    .replaceAll(/\b(globalThis|window)\.process\b/g, 'globalThis.made');
  // The name may be one of the program's own.
  return text.includes('(process)')
    ? ofGlobal
    : ofGlobal.replaceAll(/(?<![\w$])(?<!(?<!\.\.)\.)process\.env\b/g, 'globalThis.made.env');
}
