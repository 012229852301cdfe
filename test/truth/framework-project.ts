import { type ChildProcess, spawn } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { isDeepStrictEqual } from 'node:util';
import { chromium } from 'playwright-core';
import { executablePath, serve } from '../../scripts/field/browser.mjs';
import { program as adder, prepare, run, write } from '../../scripts/field/prepare.mjs';
import { projects } from '../../scripts/field/projects.mjs';
import type { Framework } from './frameworks.js';
import {
  type Built,
  contractOf,
  envFile,
  type Facts,
  type Fixed,
  type Outcome,
  type Said,
  saidByProgram,
  withRealObject,
} from './measure.js';
import { isOfBundle, modulesOf, type Program, values } from './program.js';
import { environmentOf, rightNames } from './tools.js';

const PORT = 4187;

/** One program of a build: `p` as it is, `i` with a real object, `e` with a real object that has corrected names too. */
interface Entry {
  id: string;
  modules: Record<string, string>;
  env?: Record<string, string>;
}

/** Programs in a framework's project, as modules that its page loads one after the other. */
export class FrameworkProject {
  readonly #folder: string;
  readonly #ids: ReadonlyMap<string, Program>;

  constructor(
    readonly framework: Framework,
    programs: readonly Program[],
  ) {
    const found = projects.find(({ name }) => name === framework.name);
    if (!found) throw new Error(`the field suite has no project ${framework.name}`);
    this.#folder = prepare(found);
    this.#ids = new Map(programs.map((program, index) => [`${index}`, program]));
    for (const [path, text] of Object.entries({ ...framework.starts, ...framework.configures }))
      write(this.#folder, path, text.replace('$', './truth/run'));
    write(this.#folder, 'adder.yaml', this.#contract());
    write(this.#folder, '.env.production', envFile);
  }

  async facts(): Promise<Facts[]> {
    const all = [...this.#ids].map(([number, program]) => [number, this.#modules(number, program)] as const);
    const env = environmentOf(this.framework);
    const built = await this.#built([
      ...all.map(([number, modules]) => ({ id: `p${number}`, modules })),
      ...all.map(([number, modules]) => ({ id: `i${number}`, modules: real(modules), env })),
    ]);
    const lint = this.#lint();
    const fixed = await this.#fixed(new Map(all));
    const none: Built = { failed: 'not built', warnings: [], carriesUnread: false };
    return all.flatMap(([number, modules]) => {
      const ideal = built.get(`i${number}`)?.outcome;
      const plain = built.get(`p${number}`);
      if (!ideal || !plain || ideal.error !== undefined) return [];
      const program = this.#ids.get(number) as Program;
      return {
        program,
        modules,
        ideal,
        plain,
        plugged: none,
        inspect: [],
        arrived: { inBuild: [], inTrial: [] },
        lint: lint.get(`p${number}`) ?? [],
        pluggedLint: [],
        isOfBundle: isOfBundle(program, this.framework),
        ...(fixed.has(number) && { fixed: fixed.get(number) as Fixed }),
      };
    });
  }

  #contract(): string {
    const { toolchain, output, folder, prefix } = this.framework;
    const [code] = folder.split('/');
    return contractOf(`toolchain: ${toolchain}, prefix: ${prefix}, code: [${code}], output: [${output.join(', ')}]`);
  }

  #modules(number: string, program: Program): Record<string, string> {
    const modules = Object.entries(modulesOf(program, this.framework, `truth-p${number}`));
    return Object.fromEntries(modules.map(([path, text]) => [path, asModule(text)]));
  }

  /** Programs that `lint --fix` changes, built again. */
  async #fixed(before: ReadonlyMap<string, Record<string, string>>): Promise<Map<string, Fixed>> {
    this.#adder(['lint', '--fix']);
    const after = new Map(
      [...before].map(([number, modules]) => [number, this.#current(`p${number}`, Object.keys(modules))]),
    );
    const changed = [...before.keys()].filter(
      (number) => !isDeepStrictEqual(before.get(number), after.get(number)) && this.#exists(`p${number}`),
    );
    if (changed.length === 0) return new Map();
    const env = environmentOf(this.framework);
    const right = { ...env, ...rightNames(this.framework) };
    const textOf = (all: typeof before, number: string) => all.get(number) as Record<string, string>;
    const built = await this.#built([
      ...changed.map((number) => ({ id: `p${number}`, modules: textOf(after, number) })),
      ...changed.map((number) => ({ id: `i${number}`, modules: real(textOf(after, number)), env })),
      ...changed.map((number) => ({ id: `e${number}`, modules: real(textOf(before, number)), env: right })),
    ]);
    const lint = this.#lint();
    return new Map(
      changed.flatMap((number): [string, Fixed][] => {
        const expected = built.get(`e${number}`)?.outcome;
        if (!expected) return [];
        return [
          [
            number,
            {
              modules: textOf(after, number),
              expected,
              ideal: built.get(`i${number}`) as Built,
              plain: built.get(`p${number}`) as Built,
              lint: lint.get(`p${number}`) ?? [],
            },
          ],
        ];
      }),
    );
  }

  #exists(id: string): boolean {
    return existsSync(join(this.#folder, this.framework.folder, id));
  }

  #current(id: string, paths: readonly string[]): Record<string, string> {
    const read = (path: string) => join(this.#folder, this.framework.folder, id, path);
    return Object.fromEntries(
      paths.map((path) => [path, existsSync(read(path)) ? readFileSync(read(path), 'utf8') : '']),
    );
  }

  /** Builds programs, without those that the build names when it fails, and runs them. */
  async #built(entries: readonly Entry[]): Promise<Map<string, Built>> {
    const failed = new Map<string, Built>();
    for (let turn = 0; turn < 25; turn++) {
      const left = entries.filter(({ id }) => !failed.has(id));
      this.#write(left);
      const { code, text } = this.#adder(['with', 'production', '--', 'npm', 'run', 'build']);
      if (code === 0) return new Map([...failed, ...(await this.#outcomes(left))]);
      const named = left.filter(({ id }) => new RegExp(`truth[/\\\\]${id}\\b`).test(text));
      if (named.length === 0) throw new Error(`${this.framework.name}: ${text.slice(-4000)}`);
      for (const { id } of named) failed.set(id, { failed: text.slice(-400), warnings: [], carriesUnread: false });
    }
    throw new Error(`${this.framework.name} fails with ever other programs`);
  }

  #write(entries: readonly Entry[]): void {
    const { folder } = this.framework;
    rmSync(join(this.#folder, folder), { recursive: true, force: true });
    for (const { id, modules } of entries)
      for (const [path, text] of Object.entries(modules)) write(this.#folder, join(folder, id, path), text);
    const loads = entries.map(({ id }) => `  ${id}: () => import('./${id}/main'),\n`).join('');
    const made = entries.flatMap(({ id, env }) => (env ? [[id, env]] : []));
    write(
      this.#folder,
      join(folder, 'run.js'),
      `const all = {\n${loads}};\nconst made = ${JSON.stringify(Object.fromEntries(made))};\n${runner}`,
    );
  }

  async #outcomes(entries: readonly Entry[]): Promise<Map<string, Built>> {
    const outcomes = await this.#open();
    const scripts = this.#scripts();
    return new Map(
      entries.flatMap(({ id }): [string, Built][] => {
        const outcome = outcomes[id];
        if (!outcome) return [];
        const own = scripts.filter((text) => new RegExp(`truth-${id}["'\`\\\\]`).test(text));
        const carriesUnread = own.some((text) => text.includes(values.WEATHER_STATION));
        return [[id, { outcome, warnings: [], carriesUnread }]];
      }),
    );
  }

  #scripts(): string[] {
    return this.framework.output.flatMap((output) => {
      const folder = join(this.#folder, output);
      const names = readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((name) => /\.m?js$/.test(name));
      return names
        .filter((name) => !/(^|\/)(server|cache|standalone)\//.test(name))
        .map((name) => readFileSync(join(folder, name), 'utf8'));
    });
  }

  async #open(): Promise<Record<string, Outcome>> {
    const { site, server } = this.framework;
    const stop = site === undefined ? await this.#start(server ?? []) : undefined;
    const files = site === undefined ? undefined : ((await serve(join(this.#folder, site))) as Server);
    const port = files ? (files.address() as AddressInfo).port : PORT;
    const browser = await chromium.launch({ ...(executablePath && { executablePath }), args: ['--no-sandbox'] });
    try {
      const page = await browser.newPage();
      const printed: string[] = [];
      page.on('pageerror', (error) => printed.push(error.message));
      await page.goto(`http://127.0.0.1:${port}/`);
      await page.waitForFunction('globalThis.truth !== undefined', undefined, { timeout: 120_000 }).catch(() => {
        throw new Error(`${this.framework.name}: the page ran no programs: ${printed.join('\n')}`);
      });
      return JSON.parse(await page.evaluate('globalThis.truth')) as Record<string, Outcome>;
    } finally {
      await browser.close();
      files?.close();
      stop?.kill('SIGKILL');
    }
  }

  async #start(args: readonly string[]): Promise<ChildProcess> {
    const child = spawn(process.execPath, args, {
      cwd: this.#folder,
      env: { PATH: process.env.PATH, PORT: String(PORT), HOST: '127.0.0.1' },
      stdio: 'ignore',
    });
    for (let turn = 0; turn < 100; turn++) {
      const answer = await fetch(`http://127.0.0.1:${PORT}/`).catch(() => undefined);
      if (answer?.ok) return child;
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
    child.kill('SIGKILL');
    throw new Error(`${this.framework.name}: its server does not answer`);
  }

  #adder(args: readonly string[]): { code: number | string; text: string } {
    return run(this.#folder, process.execPath, [adder, ...args]);
  }

  /** Findings of lint about each program, by its identifier. */
  #lint(): Map<string, Said[]> {
    const { text } = this.#adder(['lint', '--format', 'json', '--fail-on', 'never']);
    return saidByProgram(JSON.parse(text.slice(text.search(/^\{/m))).findings, this.framework.folder);
  }
}

/** Some tools take a file without imports and exports for a script. */
function asModule(text: string): string {
  return /^(import|export)\b/m.test(text) ? text : `${text}export {};\n`;
}

function real(modules: Readonly<Record<string, string>>): Record<string, string> {
  const made = (text: string) => {
    const found = withRealObject(text);
    // Bundlers put an object of their own in the place of `process`, where it is no parameter.
    return text.includes('(process)') ? found : found.replaceAll(/\bprocess\b(?!\.env)/g, 'globalThis.made');
  };
  return Object.fromEntries(Object.entries(modules).map(([path, text]) => [path, made(text)]));
}

/** Loads each program in the page, and notes what it saw. */
const runner = `
export async function run() {
  const outcomes = {};
  window.yes = true;
  window.h = (kind, props, ...children) => ({ kind, ...props, children });
  for (const [id, load] of Object.entries(all)) {
    const outcome = (outcomes[id] = { seen: [] });
    window.seen = (_, value) => outcome.seen.push(value === undefined ? '(undefined)' : value);
    window.made = made[id] && { env: { ...made[id] } };
    try {
      await load();
    } catch (error) {
      outcome.error = error instanceof Error ? error.name : String(error);
    }
  }
  window.truth = JSON.stringify(outcomes);
}
`;
