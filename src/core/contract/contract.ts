import type { Acceptance } from '../findings/acceptance.js';
import type { Levels } from '../findings/judge.js';
import type { Reach } from '../findings/reach.js';
import type { Form } from '../forms/index.js';
import type { Secret } from '../secrets/secret.js';
import type { Position } from '../text/positions.js';
import type { RunsIn } from '../toolchains/toolchain.js';
import type { Host } from './hosts.js';
import type { FitsPattern } from './pattern.js';
import type { SiteAccess } from './site-access.js';

/** How a public value reaches the code: at build time, or when the app loads. */
export const deliveries = ['inline', 'runtime'] as const;

/** Tells whether inspect searches for a value: `auto` excludes values that occur in any bundle. */
export const searches = ['auto', 'always', 'never'] as const;

/** Values of NODE_ENV: whether the build ships. */
export const buildModes = ['production', 'development'] as const;

/** Tells whether a bundle's source maps may ship. */
export const mapRules = ['allowed', 'forbidden'] as const;

export const slashRules = ['never', 'always'] as const;

/** One place that values come from. A stage has an ordered list of them, and a later one wins. */
export type Layer =
  | { kind: 'file'; name: string; mustExist: boolean; key?: string }
  | { kind: 'process'; name: 'process' }
  | { kind: 'command'; name: string; command: readonly string[]; seconds: number };

/** The environment that values are for. */
export interface Stage {
  name: string;
  layers: readonly Layer[];
  /** The bundle whose own layers are among them. */
  bundle?: string;
  /** NODE_ENV of its builds; if absent, the tools decide. */
  buildAs?: (typeof buildModes)[number];
}

/** One thing that is built and shipped. Paths are relative to the contract's directory. */
export interface Bundle {
  name: string;
  /** The server part of a framework's app, while one process serves both; never in a contract. */
  serverPart?: Bundle;
  runs: RunsIn;
  toolchain: string;
  code: readonly string[];
  /** Entry files of the bundle; if empty, `adder lint` detects them. */
  entry: readonly string[];
  /** Parts of `code` that never reach the browser. */
  serverCode: readonly string[];
  output: readonly string[];
  /** Parts of `output` that never reach the browser; the toolchain's usual ones if absent. */
  serverOutput?: readonly string[];
  /** True if source maps must not be in `output`. */
  forbidsMaps: boolean;
  /** Prefixes of public variables' names in this bundle's code, the usual one first; none if any name is inlined. */
  prefixes: readonly string[];
  /** The objects that its code reads values from, such as `import.meta.env`; the toolchain's usual ones if absent. */
  reads?: readonly string[];
  /** Layers that only this bundle has, by stage: they win over the stage's files. */
  layers: ReadonlyMap<string, readonly Layer[]>;
  /** The command that builds it, as words. */
  build?: readonly string[];
  /** Sites by stage. */
  served: Readonly<Record<string, ServedSite>>;
}

/** A served site with its access settings. */
export interface ServedSite extends SiteAccess {
  /** The URL of its first page. */
  url: string;
  /** Requests of an API whose answers are checked too, as `[METHOD] PATH [@FILE]`. */
  also: readonly string[];
}

/** Destination of a bundle's code, as a phrase after it. */
export function whereCodeGoes({ runs }: Bundle): string {
  return runs === 'browser' ? 'reaches the browser' : 'ships in the app';
}

/** One named value of the contract. */
export interface Variable {
  name: string;
  reach: Reach;
  form: Form;
  about?: string;
  /** All stages, none, or the named ones. */
  required: boolean | readonly string[];
  default?: Secret;
  example?: string;
  min?: number;
  max?: number;
  pattern?: { source: string; fits: FitsPattern };
  /** Where a URL must be https: all stages, none, or the named ones. */
  https: boolean | readonly string[];
  /** Tells whether the value ends with a slash. */
  slash?: (typeof slashRules)[number];
  /** No two stages may share a value. If absent, shared secrets are a warning. */
  distinct?: boolean;
  /** All stages must share a value. */
  same: boolean;
  /** The bundles that get it; all if absent. */
  bundles?: readonly string[];
  delivery: (typeof deliveries)[number];
  /** Bundle to the name that its code reads, if it differs. */
  names: Readonly<Record<string, string>>;
  /** Older names that layers may still use. */
  aka: readonly string[];
  secretParts: boolean;
  search: (typeof searches)[number];
  /** Where the contract declares it. */
  at: Position;
}

/** A contract that was understood in full. Maps keep the order of the file. */
export interface Contract {
  /** The path as findings name it. */
  path: string;
  stages: ReadonlyMap<string, Stage>;
  /** The stage of a dev server or test run that is started without `adder with`. */
  defaultStage?: string;
  bundles: ReadonlyMap<string, Bundle>;
  variables: ReadonlyMap<string, Variable>;
  /** Names of the parent's environment that builds get besides the short list. */
  passes: readonly string[];
  levels: Levels;
  accept: readonly Acceptance[];
  /** Platforms on which values are set. */
  hosts: ReadonlyMap<string, Host>;
  history: HistoryRules;
}

/** Rules of the contract for the history of values. */
export interface HistoryRules {
  /** Days after which a value that was replaced is forgotten; absent if never. */
  keepDays?: number;
  /** True if a check without it is incomplete. */
  isRequired: boolean;
}

/** Tells whether a setting applies to a stage: it names stages, or says yes or no for all. */
export function holdsIn(setting: boolean | readonly string[], stage: string): boolean {
  return typeof setting === 'boolean' ? setting : setting.includes(stage);
}

export function isRequired({ required }: Variable, stage: string): boolean {
  return holdsIn(required, stage);
}
