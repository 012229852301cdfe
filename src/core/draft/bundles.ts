import { commandFiles } from '../build/command-files.js';
import { commandSettings } from '../build/command-output.js';
import { isPlainName } from '../contract/quote.js';
import { beside } from '../evaluate/beside.js';
import type { Carried } from '../evaluate/value.js';
import { lastName, parentOf } from '../files/directories.js';
import { isPage, scriptLanguage } from '../files/languages.js';
import { sideOfPath } from '../files/side.js';
import { finding, type RawFinding } from '../findings/finding.js';
import { joinedName } from '../resolve/keyed.js';
import { globalSettings } from '../syntax/globals.js';
import { joinWords } from '../text/nearest.js';
import { dart } from '../toolchains/dart.js';
import { buildSettings, hasServer, isConfigOf, isConfigOfTool, toolchains } from '../toolchains/index.js';
import { other } from '../toolchains/other.js';
import { askedPasses } from '../toolchains/queried.js';
import { type BuildSettings, mergedSettings, noSettings, type Pass, type SettingsHow } from '../toolchains/settings.js';
import type { WorkspaceApplication } from '../toolchains/toolchain.js';
import { defaultPrefixes, type RunsIn, type Toolchain } from '../toolchains/toolchain.js';
import type { ConfigFile, Material, Package } from './material.js';
import { decidedAt } from './material.js';
import { nativeCopies } from './native-copies.js';
import { serverPackages, shells } from './packages.js';
import { startedServer } from './started-server.js';
import { STORYBOOK_CODE, STORYBOOK_OUTPUT, STORYBOOK_SCRIPT, storybookOf } from './storybook.js';

/** A drafted bundle. */
export interface DraftBundle {
  name: string;
  /** The package's directory, with its slash; empty for the root. */
  folder: string;
  runs: RunsIn;
  toolchain: string;
  code: string[];
  serverCode: string[];
  output: string[];
  prefixes: readonly string[];
  build?: string;
  /** Files of its own package, by stage; none unless several packages have some. */
  layers: Readonly<Record<string, readonly string[]>>;
  because: string;
  /** Names that the configuration inlines one by one, without a prefix. */
  inlined: readonly string[];
  /** Names of its code to the name of the environment that each has the value of. */
  renamed: Readonly<Record<string, string>>;
  /** Names that override keys of the framework's runtime configuration. */
  overrides: readonly string[];
  /** Values that its configuration gives to code. */
  passes: readonly Pass[];
  /** Variables that its configuration reads, each with a place. */
  reads: Carried;
}

export interface DraftBundles {
  bundles: DraftBundle[];
  undecided: RawFinding[];
}

/** The bundles of each package with a build tool, a mobile app or a server. */
export function draftBundles(material: Material): DraftBundles {
  const undecided: RawFinding[] = [];
  const bundles = material.packages.flatMap((one) => new PackageBundles(one, material, undecided).all());
  const taken = new Set<string>();
  const named = bundles.map((bundle) => {
    let name = bundle.name;
    for (let n = 2; taken.has(name); n++) name = `${bundle.name}-${n}`;
    taken.add(name);
    return { ...bundle, name };
  });
  return { bundles: named, undecided };
}

class PackageBundles {
  readonly #folder: string;
  readonly #configs: readonly ConfigFile[];

  constructor(
    readonly one: Package,
    readonly material: Material,
    readonly undecided: RawFinding[],
  ) {
    this.#folder = one.folder;
    this.#configs = material.configs.filter(({ path }) => this.#isOwn(path));
  }

  all(): DraftBundle[] {
    if (this.one.isDart) return this.#dart();
    const tool = this.#tool();
    const storybook = this.#storybook();
    if (!tool) return storybook ? [storybook] : this.#withoutTool();
    if (storybook) this.#noteStorybook(storybook);
    return this.#ofWorkspace(tool) ?? this.#ofTool(tool);
  }

  /** Tells whether a file belongs to this package, not to one below it. */
  #isOwn(path: string): boolean {
    const nearest = this.material.packages
      .filter((one) => path.startsWith(one.folder))
      .sort((a, b) => b.folder.length - a.folder.length)[0];
    return nearest?.folder === this.#folder;
  }

  /** The first toolchain of the table with a configuration file or a package here. */
  #tool(): Toolchain | undefined {
    const { dependencies } = this.one;
    return Object.values(toolchains).find(
      (tool) =>
        (this.#configOf(tool) !== undefined && !tool.detect.needsPackage) ||
        tool.detect.packages.some((name) => dependencies.includes(name)),
    );
  }

  #configOf(tool: Toolchain): ConfigFile | undefined {
    return this.#configs.find(({ path }) => isConfigOf(tool, path));
  }

  /** Settings of every bundle of the package. */
  #base(): Omit<DraftBundle, 'runs' | 'toolchain' | 'code' | 'output' | 'because'> {
    const build = buildCommand(this.one, this.material.exists);
    return {
      name: labelOf(this.one),
      folder: this.#folder,
      serverCode: [],
      prefixes: [],
      inlined: [],
      renamed: {},
      overrides: [],
      passes: [],
      reads: new Map(),
      layers: {},
      ...(build && { build }),
    };
  }

  #existing(paths: readonly string[], below = this.#folder): string[] {
    return paths.map((path) => joined(below, path)).filter(this.material.exists);
  }

  #dart(): DraftBundle[] {
    const code = this.#existing(dart.code);
    if (code.length === 0) return [];
    const { build: _, ...base } = this.#base();
    const output = dart.output.map((path) => this.#folder + path);
    const because = `${this.#folder}pubspec.yaml is a Dart package`;
    return [{ ...base, runs: 'mobile', toolchain: dart.name, code, output, because }];
  }

  /** Bundle of a package's Storybook: often it is there to develop components, and sometimes it is all that ships. */
  #storybook(): DraftBundle | undefined {
    const found = storybookOf(this.one.dependencies);
    if (!found || !this.material.exists(this.#folder + STORYBOOK_CODE)) return undefined;
    const code = this.#existing([STORYBOOK_CODE, 'src', 'stories']);
    const { build: _, ...base } = this.#base();
    const build = buildCommand(this.one, this.material.exists, STORYBOOK_SCRIPT);
    return {
      ...base,
      ...found,
      ...(build && { build }),
      runs: 'browser',
      code,
      output: [this.#folder + STORYBOOK_OUTPUT],
      because: `${this.#folder}package.json depends on storybook`,
    };
  }

  /** An inspection asks for the output of every bundle, and a Storybook beside an app is seldom built with it. */
  #noteStorybook({ toolchain, code, output, prefixes }: DraftBundle): void {
    const path = `${this.#folder}package.json`;
    const list = (items: readonly string[]) => `[${items.join(', ')}]`;
    const entry = `storybook: { toolchain: ${toolchain}, code: ${list(code)}, output: ${list(output)}, prefix: ${list(prefixes)} }`;
    this.undecided.push(finding('contract/undecided', 'storybook', { path, prefixes, entry }, decidedAt({ path })));
  }

  /** A package without a build tool for browsers that depends on a server framework, or is built by something else. */
  #withoutTool(): DraftBundle[] {
    const server = serverPackages.find((name) => this.one.dependencies.includes(name));
    if (server === undefined) return this.#ofUnknownTool();
    const code = this.#existing(['src', 'server', 'lib', 'index.js', 'server.js', 'app.js', 'index.ts', 'server.ts']);
    const because = `${this.#folder}package.json depends on ${server}, and on no build tool for browsers`;
    return [{ ...this.#base(), runs: 'server', toolchain: 'other', code, output: [], because }];
  }

  /** A package that something builds for browsers: it has a page with scripts, or code that reads names with a public prefix. */
  #ofUnknownTool(): DraftBundle[] {
    const { build } = this.one.scripts;
    if (build === undefined) return [];
    const path = `${this.#folder}package.json`;
    const program = programOf(build);
    const hasPage = this.material.pages.some(({ path, loads }) => this.#isOwn(path) && loads.length > 0);
    const prefixes = this.#prefixesRead();
    if (!hasPage && prefixes.length === 0) {
      if (program !== '' && !bundlesNothing.test(program))
        this.undecided.push(finding('contract/undecided', 'no-bundle', { path, program }, decidedAt({ path })));
      return [];
    }
    const about = { path, program, hasPrefix: prefixes.length > 0 };
    this.undecided.push(finding('contract/undecided', 'guessed-bundle', about, decidedAt({ path })));
    const present = this.#taskOutputs() ?? this.#existing(usualOutputs);
    return [
      {
        ...this.#base(),
        runs: other.runs,
        toolchain: other.name,
        code: this.#code(other, noSettings, this.#folder),
        output: present.length > 0 ? present : this.#output(other, noSettings, this.#folder),
        prefixes,
        because: hasPage
          ? `${path} has a build script, and there is a page with scripts`
          : `${path} has a build script, and code reads names with the prefix ${joinWords(prefixes)}`,
      },
    ];
  }

  /** Directories that a file of tasks writes to, by its calls of `dest`: `gulp.dest('htdocs/js')`. The outer ones alone count. */
  #taskOutputs(): string[] | undefined {
    const file = /^gulpfile(\.babel)?\.[cm]?[jt]s$/;
    const paths = this.material.paths.filter((path) => this.#isOwn(path) && file.test(path.slice(this.#folder.length)));
    const text = paths.map((path) => this.material.text(path) ?? '').join('\n');
    const written = [...text.matchAll(/\bdest\(\s*['"`]\.?\/?([\w][\w./-]*?)\/?['"`]/g)].map(([, path = '']) => path);
    const outer = written.filter((path) => !written.some((one) => path.startsWith(`${one}/`)));
    return outer.length > 0 ? [...new Set(outer)].map((path) => joined(this.#folder, path)) : undefined;
  }

  /** Public prefixes of other tools that the package's own code reads. */
  #prefixesRead(): string[] {
    const names = this.material.sources
      .filter(({ path }) => this.#isOwn(path))
      .flatMap(({ reads }) => reads.flatMap(({ name }) => name ?? []));
    return knownPrefixes.filter((prefix) => names.some((name) => name.startsWith(prefix)));
  }

  /** The applications of a workspace, if the tool has such a file. */
  #ofWorkspace(tool: Toolchain): DraftBundle[] | undefined {
    const { workspace } = tool;
    const file = workspace && this.#configs.find(({ path }) => lastName(path) === workspace.file);
    const applications = file ? workspace.applications(file.text) : [];
    if (!file || applications.length === 0) return undefined;
    const folder = file.path.slice(0, -workspace.file.length);
    return applications.map((one) => this.#application(tool, one, folder, file.path));
  }

  #application(tool: Toolchain, one: WorkspaceApplication, folder: string, path: string): DraftBundle {
    const because = `${path} has the application ${one.name}, and sets its output`;
    const code = this.#existing([one.source], folder);
    const output = [joined(folder, one.output)];
    const name = labelOf({ name: one.name, folder: this.#folder });
    return {
      ...this.#base(),
      name,
      runs: 'browser',
      toolchain: tool.name,
      code,
      output,
      because,
      inlined: one.defined,
    };
  }

  #ofTool(tool: Toolchain): DraftBundle[] {
    const parsed = this.#parsedConfigs(tool);
    const { lines } = commandFiles(this.one.scripts.build ?? '', this.one.scripts);
    const forNode = parsed.filter(({ settings }) => settings.isNode);
    const forBrowsers = parsed.filter((one) => !forNode.includes(one));
    const given = commandSettings(tool, lines);
    // The command may name scripts that configure nothing, such as its entries.
    const isConfigured = forBrowsers.some(
      ({ path, settings }) => isToolConfig(path) || settings.entries.length > 0 || settings.output !== undefined,
    );
    const isServer = given.isNode === true || (forNode.length > 0 && !isConfigured);
    const settings = {
      ...mergedSettings((isServer ? forNode : forBrowsers).map((one) => one.settings)),
      lines,
      ...(given.output !== undefined && { output: given.output }),
    };
    const root = settings.root === undefined ? this.#folder : `${joined(this.#folder, settings.root)}/`;
    const code = this.#code(tool, settings, root === '/' ? '' : root);
    const shell = Object.keys(shells).find((name) => this.one.dependencies.includes(name));
    const prefixes = settings.prefixes ?? this.#usualPrefixes(tool);
    const bundle: DraftBundle = {
      ...this.#base(),
      runs: isServer ? 'server' : shell ? (shells[shell] as RunsIn) : tool.runs,
      toolchain: tool.name,
      code,
      serverCode: this.#existing(tool.serverCode ?? []),
      output: this.#output(tool, settings, root === '/' ? '' : root),
      prefixes,
      because: this.#reason(tool, settings, shell),
      inlined: settings.inlined,
      renamed: settings.renamed,
      overrides: overridesOf(tool, settings),
      passes: askedPasses(tool, settings.passes, this.material.modules, code),
      reads: settings.reads,
    };
    if (bundle.runs === 'mobile') this.#noteCopies(bundle);
    this.#noteSettings(bundle, tool);
    if (!isServer && forNode.length > 0) return [bundle, this.#forNode(bundle, tool, forNode)];
    if (hasServer(tool, settings)) return [bundle, this.#serverPart(bundle)];
    return bundle.runs === 'browser' ? [bundle, ...this.#started(bundle, tool, lines)] : [bundle];
  }

  /** The server that the package starts itself, with what the tool builds for it. */
  #started(beside: DraftBundle, tool: Toolchain, lines: readonly string[]): DraftBundle[] {
    const program = startedServer(this.one, this.material.text);
    if (program === undefined) return [];
    const built = lines
      .filter((line) => /\s--ssr\b/.test(line))
      .flatMap((line) => commandSettings(tool, [line]).output ?? []);
    return [
      {
        ...this.#serverPart(beside),
        toolchain: other.name,
        code: [program],
        output: built.map((path) => joined(this.#folder, path)),
        prefixes: [],
        because: `a script starts ${program}, which listens`,
      },
    ];
  }

  /** An app on a phone has copies of the web files, and an old one ships as well as a new one. */
  #noteCopies({ name, output }: DraftBundle): void {
    const copies = nativeCopies(this.#folder, this.material.exists);
    if (copies.length === 0) return;
    const about = { path: `${this.#folder}package.json`, bundle: name, copies, entry: [...output, ...copies] };
    this.undecided.push(finding('contract/undecided', 'native-copies', about, decidedAt({ path: about.path })));
  }

  /** The program that other configurations of a package build, for Node.js. */
  #forNode(
    beside: DraftBundle,
    tool: Toolchain,
    configs: readonly { path: string; settings: BuildSettings }[],
  ): DraftBundle {
    const settings = mergedSettings(configs.map((one) => one.settings));
    const entries = this.#existing(settings.entries);
    return {
      ...this.#serverPart(beside),
      code: [...new Set(entries.map((path) => this.#place(path)))],
      output: this.#output(tool, settings, this.#folder),
      because: `${joinWords(configs.map(({ path }) => path))} builds for Node.js`,
    };
  }

  /** The part of a framework's app that a server runs, which may have server values. */
  #serverPart({ name, folder, toolchain, code, serverCode, prefixes }: DraftBundle): DraftBundle {
    return {
      name: `${name}-server`,
      folder,
      runs: 'server',
      toolchain,
      code: serverCode.length > 0 ? serverCode : code,
      serverCode: [],
      output: [],
      prefixes,
      inlined: [],
      renamed: {},
      overrides: [],
      passes: [],
      reads: new Map(),
      layers: {},
      because: `${toolchain} also runs a server, which may have server values`,
    };
  }

  /** The settings of each configuration file; what only running one would tell is left to the user. */
  #parsedConfigs({ name }: Toolchain): { path: string; settings: BuildSettings }[] {
    const { scripts } = commandFiles(this.one.scripts.build ?? '', this.one.scripts);
    const named = scripts.flatMap((script) => this.#module(joined(this.#folder, script)));
    const files = new Map(
      [...this.#configs.filter(({ path }) => isToolConfig(path)), ...named].map((one) => [one.path, one]),
    );
    const all = [...files.values()].map(({ path, text }) => ({
      path,
      settings: buildSettings(path, text, this.#how(), name),
    }));
    for (const { path, settings } of all)
      for (const setting of settings.unknown)
        this.undecided.push(
          finding(
            'contract/undecided',
            /^(define|env)$/.test(setting) ? 'computed-names' : 'computed',
            { path, setting },
            decidedAt({ path }),
          ),
        );
    return all;
  }

  /** A script that the build names, which may be in a directory whose name is usual for outputs. */
  #module(path: string): { path: string; text: string }[] {
    const text = this.material.modules.get(path)?.text ?? this.material.text(path);
    return text === undefined ? [] : [{ path, text }];
  }

  #how(): SettingsHow {
    const { files, modules, text } = this.material;
    const imported = {
      get: (path: string) => {
        const data = path.endsWith('.json') ? text(path) : undefined;
        return modules.get(path) ?? (data === undefined ? undefined : { text: data });
      },
    };
    const names = new Set(files.flatMap(({ layer }) => layer.offers.map(({ name }) => name)));
    return { folder: this.#folder, names, load: (from, specifier) => beside(imported, from, specifier) };
  }

  #usualPrefixes(tool: Toolchain): readonly string[] {
    const { prefixWith } = tool;
    const isSetUp = prefixWith && this.one.dependencies.includes(prefixWith.package);
    return isSetUp ? [prefixWith.prefix] : defaultPrefixes(tool);
  }

  /** The usual places that exist, and the directories of entries elsewhere; without both, every place with source files. */
  #code(tool: Toolchain, settings: BuildSettings, root: string): string[] {
    const usual = [...new Set([...this.#existing(tool.code, root), ...this.#existing(tool.code)])];
    const isCovered = (path: string) => usual.some((one) => path === one || path.startsWith(`${one}/`));
    const entries = [...this.#existing(settings.entries, root), ...this.#pageScripts()];
    // A page of an earlier build loads what that build wrote.
    const isBuilt = (path: string) => tool.output.some((one) => path.startsWith(`${joined(root, one)}/`));
    const own = entries.filter((path) => !isCovered(path) && !isPage(path) && !isBuilt(path));
    const others = own.map((path) => this.#place(path));
    const found = [...new Set([...usual, ...others])];
    if (found.some((path) => !isPage(path))) return found;
    const sources = this.material.paths.filter(
      (path) => scriptLanguage(path) !== undefined && this.#isOwn(path) && sideOfPath(path) === undefined,
    );
    return [...new Set([...found, ...sources.map((path) => this.#place(path))])];
  }

  #pageScripts(): string[] {
    return this.#loaded().filter(this.material.exists);
  }

  #loaded(): string[] {
    return this.material.pages.filter(({ path }) => this.#isOwn(path)).flatMap(({ loads }) => loads);
  }

  /** Scripts of settings that pages load from a directory that the tool copies: their values are read as a page loads. */
  #noteSettings({ name }: DraftBundle, { copies = [], reads }: Toolchain): void {
    for (const loaded of this.#loaded().filter((path) => !this.material.exists(path)))
      for (const folder of copies) {
        const path = joined(joined(this.#folder, folder), loaded.slice(this.#folder.length));
        const text = this.material.text(path);
        const settings = text === undefined ? undefined : globalSettings(text);
        if (!settings) continue;
        const usual = reads.map(({ from }) => from);
        const about = {
          path,
          object: settings.path,
          names: settings.names,
          bundle: name,
          reads: [...usual, `${settings.path}.*`],
        };
        this.undecided.push(finding('contract/undecided', 'page-settings', about, decidedAt({ path })));
      }
  }

  /** The directory below the package that has a file, or the file itself at the top. */
  #place(path: string): string {
    const [first = '', ...rest] = path.slice(this.#folder.length).split('/');
    return this.#folder + (rest.length > 0 ? first : path.slice(this.#folder.length));
  }

  #output(tool: Toolchain, settings: BuildSettings, root: string): string[] {
    if (settings.output !== undefined) return [settings.output].flat().map((path) => joined(root, path));
    const rule = tool.outputBy?.find(({ when }) => settings.mode === when || settings.imports.includes(when));
    const paths = (rule?.output ?? tool.output).map((path) => joined(root, path));
    // Alternatives of one tool: those that exist now, or whose directory does, or all that a build may write.
    const present = paths.filter(this.material.exists);
    if (present.length > 0) return present;
    const possible = paths.filter((path) => !path.includes('/') || this.material.exists(parentOf(path).slice(0, -1)));
    return possible.length > 0 ? possible : paths;
  }

  #reason(tool: Toolchain, settings: BuildSettings, shell: string | undefined): string {
    const config = this.#configOf(tool);
    const dependency = tool.detect.packages.find((name) => this.one.dependencies.includes(name));
    const path = config?.path ?? `${this.#folder}package.json`;
    return [
      config ? `${path} exists` : `${path} depends on ${dependency}`,
      shell && `runs in ${shell}`,
      settings.prefixes && `${path} sets the prefix`,
      settings.output !== undefined && `${path} sets the output`,
    ]
      .filter(Boolean)
      .join('; ');
  }
}

/** The program of a script's last command, or nothing if that is no name. Its arguments may hold a secret, and are never shown. */
function programOf(script: string): string {
  const last = script.split(/&&|;/).findLast((part) => part.trim() !== '') ?? '';
  const words = last.split(/\s+/).filter((word) => word !== '' && !/^\w+=/.test(word) && word !== 'npx');
  const [program = ''] = words;
  return isPlainName(program) ? program : '';
}

/** Programs that compile, copy, or run other scripts. */
const bundlesNothing =
  /^(tsc|tsup|swc|babel|node|deno|npm|pnpm|yarn|bun|turbo|nx|lerna|make|sh|bash|echo|rimraf|mkdir|cp|mv|exit|true)$/;

/** Where tools write what ships, if nothing says so. */
const usualOutputs = ['dist', 'build', 'out', '_site', 'www'];

/** Prefixes that some tool makes public. */
const knownPrefixes = [...new Set(Object.values(toolchains).flatMap(defaultPrefixes))];

/** `public.apiBase` of a runtime configuration is overridden by `NUXT_PUBLIC_API_BASE`. */
function overridesOf({ runtimePrefix }: Toolchain, { runtimeKeys }: BuildSettings): string[] {
  return runtimePrefix === undefined ? [] : runtimeKeys.map((key) => runtimePrefix + joinedName(key.split('.')));
}

function isToolConfig(path: string): boolean {
  return /\.[cm]?[jt]s$/.test(path) && isConfigOfTool(path);
}

/** The package's own build script, run by the package manager whose lock file exists. */
function buildCommand({ scripts, folder }: Package, exists: Material['exists'], name = 'build'): string | undefined {
  const script = scripts[name];
  const plain = folder.replace(/\/$/, '');
  if (script === undefined || /\badder\b/.test(script) || /[^\w@./-]/.test(plain)) return undefined;
  const has = (...names: string[]) => names.some((name) => exists(name) || exists(folder + name));
  if (has('pnpm-lock.yaml')) return `pnpm ${plain && `--dir ${plain} `}run ${name}`;
  if (has('yarn.lock')) return `yarn ${plain && `--cwd ${plain} `}run ${name}`;
  if (has('bun.lock', 'bun.lockb')) return `bun ${plain && `--cwd ${plain} `}run ${name}`;
  return `npm ${plain && `--prefix ${plain} `}run ${name}`;
}

/** A package's name without its scope, or its directory's, as the contract can have it. */
function labelOf({ name, folder }: Pick<Package, 'name' | 'folder'>): string {
  const last = name.replace(/^@[^/]+\//, '') || folder.split('/').filter(Boolean).at(-1) || 'app';
  return last.replace(/[^A-Za-z0-9._-]+/g, '-').replace(/^[^A-Za-z0-9]+/, '') || 'app';
}

function joined(folder: string, path: string): string {
  const parts: string[] = [];
  for (const part of `${folder}/${path}`.split('/')) {
    if (part === '..' && parts.length > 0) parts.pop();
    else if (part !== '.' && part !== '') parts.push(part);
  }
  return parts.join('/');
}
