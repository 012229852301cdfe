import type { StartedAs } from '../reads/read.js';
import { joinWords } from '../text/nearest.js';
import { DEFINE_CONSTANTS } from './read-from.js';
import type { ConfigKeys } from './settings.js';

export const runsIn = ['browser', 'mobile', 'desktop', 'server'] as const;
export type RunsIn = (typeof runsIn)[number];

/**
 * How code can write a read, besides `object.NAME`: `object["NAME"]`, `const { NAME } = object`, `object?.NAME`,
 * `process["env"].NAME`, `(object).NAME`, and with comments or line breaks before the name.
 */
export type ReadForm =
  | 'brackets'
  /** A template without expressions in brackets. */
  | 'backticks'
  | 'destructuring'
  | 'optional'
  | 'object in brackets'
  | 'object in parentheses'
  | 'object in pieces'
  | 'object in optional'
  /** A pattern that names values and takes other things too: a computed key, an inner pattern, or one of an alias. */
  | 'destructuring in parts';

/** Ways to read a value that need knowledge of other code: by a constant key, through an alias, by a check, by a computed name. */
export type IndirectForm = 'key' | 'alias' | 'check' | 'computed';

/** One way in which a bundle's code reads a value. */
export interface WayToRead {
  /** An entry of the contract's `reads`: `import.meta.env`, `$env/static/public`, `useRuntimeConfig().public.*`. */
  from: string;
  /** Prefix of the names that this way exposes; empty if it exposes any name. */
  prefix: string;
  /** Where the reading code runs. */
  side: 'browser' | 'server' | 'any';
  /** Paths of code that does not have it. */
  except?: RegExp;
  /** When the value is read: the build inlines it, or the running app looks it up. */
  time: 'build' | 'run';
  /** Tells whether the tool also provides the object itself, with every public value in it. */
  inlinesObject?: true;
  /** Tool versions that also provide the whole object for `object && object.NAME`. */
  broughtByAnd?: string;
  /** Tells whether it does so beside the Adder plugin too, which keeps Vite from it. */
  inlinesObjectAnyway?: true;
  /** Forms that the tool replaces by the value alone, as `object.NAME`; {@link usualForms} if absent. */
  forms?: readonly ReadForm[];
  /** Forms that some versions or bundlers of the tool replace so, and others do not. */
  formsOfSomeVersions?: readonly (ReadForm | IndirectForm)[];
  /** Tells whether the tool leaves a read with a member after it: `object.NAME.length`. */
  leavesBeforeMember?: true;
  /** The module that code imports the object from, if it is no global. */
  importedFrom?: string;
  /** A function of the module that looks a name up. */
  lookup?: string;
}

/** Ways to write the object that most define options see through. */
export const objectForms: readonly ReadForm[] = [
  'object in brackets',
  'object in parentheses',
  'object in pieces',
  'object in optional',
];

/** Forms of a read that every define option replaces (measured with the bundlers of the tests, and Next). */
export const usualForms: readonly ReadForm[] = ['brackets', 'backticks', 'optional', ...objectForms];

/**
 * For brackets and destructuring, some versions of Vite inline the whole object (7 and 8 were measured). Versions before 7
 * leave `import.meta?.env`.
 */
export const viteForms: Pick<WayToRead, 'forms' | 'formsOfSomeVersions'> = {
  forms: ['optional', 'object in parentheses', 'object in pieces'],
  formsOfSomeVersions: ['brackets', 'backticks', 'destructuring', 'destructuring in parts', 'object in optional'],
};

/** Measured with Vite 5, 6, 7 and 8. Tests with `if`, `?.`, `!` or `typeof` do not inline the object. */
const broughtByAnd = 'Vite before 8';

/** How code that Vite builds reads names with a prefix. */
export function viteWay(prefix: string): WayToRead {
  return {
    from: 'import.meta.env',
    prefix,
    side: 'any',
    time: 'build',
    inlinesObject: true,
    broughtByAnd,
    ...viteForms,
  };
}

/** The env files that a tool loads itself. */
export interface OwnEnvFiles {
  /** The last one wins. `{mode}` is the mode of the build. */
  names: readonly string[];
  /** Tells whether every name in them enters the environment of the build process, with or without a prefix. */
  fillsEnvironment?: true;
  /** Ways to turn the loading off, as imperatives; absent if there is none. */
  turnOff?: readonly string[];
}

/** How a bundle's entry modules are found if neither the contract nor a page names them. */
export type EntryRule =
  /** Modules with the usual names, such as `main` and `index`, near the top of the code. */
  | 'usual names'
  /** Files below `pages/`, and modules that start with `"use client"`. */
  | 'pages and client modules'
  /** Components of one language, by file extension. */
  | { extension: string }
  /** Files that the framework loads by their paths; it loads others only through imports. */
  | { pattern: RegExp }
  /** The framework loads any file by its place, so every file is an entry. */
  | 'every file';

/** A file with the applications of a workspace. */
export interface Workspace {
  file: string;
  applications(text: string): readonly WorkspaceApplication[];
  /** The command that builds one, and its option for a configuration. */
  command: { builds: RegExp; configuration: readonly string[] };
}

/** An application of a workspace, with paths relative to the workspace. */
export interface WorkspaceApplication {
  name: string;
  source: string;
  output: string;
  /** Names that its define option inlines. */
  defined: string[];
  /** The configurations of its build. */
  configurations: readonly string[];
  /** The configuration that a build without one takes. */
  usual?: string | undefined;
  /** By configuration: a file, and the one that replaces it. */
  replacements: readonly { configuration: string; replace: string; with: string }[];
  /** By configuration of its dev server, the usual one with an empty name: the configuration that it builds. */
  serves: readonly { configuration: string; builds: string }[];
}

/** Commands of a program that start a server: for development, and for a built app. */
export interface ServerCommands {
  dev: readonly string[];
  serve: readonly string[];
}

/** Tells whether a framework's app has a server. */
export interface ServerPart {
  /** Kinds of output in the settings (`output`) that have none. */
  notIn?: readonly string[];
  /** A line of the build's command after which there is none. */
  notAfter?: RegExp;
  /** Kinds of output that have one; absent if it is the default. */
  onlyIn?: readonly string[];
  /** Packages, such as adapters, with which there is none. */
  notWith?: readonly string[];
  /** Packages without which there is none; absent if the framework alone has one. */
  onlyWith?: readonly string[];
  /** Packages, such as adapters, with which there is one, whatever the kind of output. */
  alsoWith?: readonly string[];
  /** Files that answer requests. */
  routes?: RegExp;
}

/** Where some kinds of output, or adapters, write what ships. */
export interface OutputRule {
  /** The word of the setting `output`, or a package that the configuration imports. */
  when: string;
  output: readonly string[];
}

/** A build tool or framework. One file per tool, one line in index.ts. Paths are relative to the tool's directory. */
export interface Toolchain {
  /** The word of the contract's `toolchain`. */
  name: string;
  /** How a project's use of the tool is detected. */
  detect: {
    /** Any of these npm packages. */
    packages: readonly string[];
    /** The name of its configuration file. */
    config?: RegExp;
    /** The only directories that it is in, if not in the package's own. */
    configIn?: readonly string[];
    /** The configuration file alone does not tell: other tools have it too. */
    needsPackage?: true;
  };
  runs: RunsIn;
  /** Where its source files usually are. */
  code: readonly string[];
  /** The part of `code` that runs on the server only. */
  serverCode?: readonly string[];
  /** Paths of the part of `code` that Node.js runs in the installed app: its `process.env` is that of the user's machine. */
  nodeCode?: RegExp;
  /** The directory of `$lib` or a similar alias that the framework defines, below the first code directory. */
  aliases?: Readonly<Record<string, string>>;
  entries: EntryRule;
  /** The scripts that it bundles where code starts them by their addresses; it copies others. Absent if that is not known. */
  bundlesStarted?: readonly StartedAs[];
  /** Tells whether its loaders, and so the Adder plugin, see the scripts that it copies. */
  loadsCopies?: true;
  /** Tells whether pages are also rendered on a server, where every variable of the process can be read. */
  rendersOnServer?: true;
  /** Tells whether a browser that runs its output has no `process`, so that code behind `typeof process` does not run. */
  lacksProcess?: true;
  /** The ways in which code reads values, the usual one first. The first one's prefix is the default of the contract. */
  reads: readonly WayToRead[];
  /** Objects that some versions replace as well. */
  objectsOfSomeVersions?: readonly string[];
  /** It inlines only the names that its configuration lists. How one is added there, as an imperative. */
  listName?: (name: string, read: string) => string;
  /** The names that its configuration files use. */
  settings?: ConfigKeys;
  /** Files of settings that are data: the applications of a workspace, each a bundle. */
  workspace?: Workspace;
  /** A key of its settings whose values ship only where a query of the code names them (measured with Gatsby 5). */
  queried?: string;
  /** The module of the Adder plugin for it; absent if there is none. */
  plugin?: string;
  /** Exported functions whose result the framework sends to the browser, and wrappers that make one of any function. */
  handlers?: readonly string[];
  handlerWrappers?: readonly string[];
  /** Programs of its command line, with the commands that start a server: `''` stands for no command. */
  programs?: Readonly<Record<string, ServerCommands>>;
  /** The prefix of names with a package that sets the tool up. */
  prefixWith?: { package: string; prefix: string };
  /** The kind of debugger that starts its apps in an editor, if its values come from a file of definitions. */
  launches?: string;
  envFiles?: OwnEnvFiles;
  /** Directories that its build copies into the output as they are, by default; absent if nothing or anything may be one. */
  copies?: readonly string[];
  /** Where it usually writes what ships. */
  output: readonly string[];
  /** Other places, by settings; the first that applies counts. */
  outputBy?: readonly OutputRule[];
  /** The part of `output` that never reaches a browser. */
  serverOutput?: readonly string[];
  /** Entries of the built app besides pages, unless its settings name others. */
  server?: ServerPart;
  /** The option that builds without a cache outside the project, which does not notice changed values. */
  uncached?: string;
  /** How it makes a build that ships, as an imperative; if absent, by NODE_ENV. */
  productionBuild?: string;
  /**
   * The property or variable of the page's own scripts with the values that its server fills in when it starts, and the script that
   * prerendered pages load them from.
   */
  startedIn?: { property: string; file?: string };
  /** The prefix of names that override keys of its runtime configuration. */
  runtimePrefix?: string;
  /** Options of its program that say where it writes, a directory or a file, and for which platform. */
  options?: { program: RegExp; folder?: readonly string[]; file?: readonly string[]; platform?: readonly string[] };
  /** Names that it sets itself in code, besides NODE_ENV. */
  sets?: readonly string[];
  /** Cache directories, which contain values. */
  caches?: readonly string[];
}

/** The way of a tool that replaces `process.env.NAME` only through a define option. */
export const processEnv: WayToRead = { from: 'process.env', prefix: '', side: 'any', time: 'build' };

/** A global constant through a define option; the tool replaces no object. */
export const defined: WayToRead = { from: DEFINE_CONSTANTS, prefix: '', side: 'any', time: 'build' };

/** `import.meta.env.NAME` through a define option. */
export const importMetaEnv: WayToRead = { from: 'import.meta.env', prefix: '', side: 'any', time: 'build' };

/** How a name is added to a define option. @param read the expression that code has */
export function defineOption(name: string, read: string): string {
  return `add '${read}': JSON.stringify(process.env.${name}) to its \`define\``;
}

/** How a name is added to a plugin that replaces texts. */
export function replacedText(name: string, read: string): string {
  return `add '${read}': JSON.stringify(process.env.${name}) to the values of its plugin \`replace\``;
}

/** Env files by mode; local ones win over shared ones of the same mode only. */
export const modeFiles = ['.env', '.env.local', '.env.{mode}', '.env.{mode}.local'] as const;

/** Env files by mode; local ones win over all shared ones. */
export const localLast = ['.env', '.env.{mode}', '.env.local', '.env.{mode}.local'] as const;

/** Handlers of files whose exports are named after methods of HTTP. */
export const httpMethods = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'] as const;

/** Scripts that Vite bundles where code starts them: a service worker is copied (7 and 8 were measured). */
export const viteStarts: readonly StartedAs[] = ['worker'];

/** Tools like webpack bundle service workers too, and their loaders see what is copied (webpack 5 and Rspack 2 were measured). */
export const webpackStarts: Pick<Toolchain, 'bundlesStarted' | 'loadsCopies'> = {
  bundlesStarted: ['worker', 'service worker'],
  loadsCopies: true,
};

/** Names that Vite itself defines in `import.meta.env`. */
export const viteSets = ['MODE', 'BASE_URL', 'PROD', 'DEV', 'SSR'] as const;

export const packageCache = 'node_modules/.cache';
export const viteCache = 'node_modules/.vite';

/** The default of the contract's `prefix`: the prefixes of all ways that are open to browser code, the usual one first. */
export function defaultPrefixes({ reads }: Toolchain): string[] {
  const found = reads.filter(({ side, prefix }) => side !== 'server' && prefix !== '').map(({ prefix }) => prefix);
  return reads[0]?.prefix === '' ? [] : [...new Set(found)];
}

/** How to turn the loading of Vite's env files off. Frameworks that load them by themselves need more. */
export const viteOff: readonly string[] = [
  'set `envDir: false` in the configuration of Vite',
  'add the Adder plugin to the build, which does the same',
];

/** How to keep a tool from loading a line of an env file, as a remedy. */
export function keepFromLoading({ name, envFiles }: Toolchain, path: string): string {
  const ways = [
    `remove the line from ${path}`,
    ...(envFiles?.turnOff ?? [`move it to a file that ${name} does not load`]),
  ];
  return joinWords(ways, 'or');
}
