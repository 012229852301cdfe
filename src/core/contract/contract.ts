import type { Levels } from '../findings/finding.js';
import type { Form } from '../forms/index.js';
import type { Secret } from '../secret.js';
import type { Position } from '../text/positions.js';

export const reaches = ['public', 'build', 'server'] as const;

/** Who may read a variable's value. From the widest to the narrowest. */
export type Reach = (typeof reaches)[number];

export const runsIn = ['browser', 'mobile', 'desktop', 'server'] as const;
export type RunsIn = (typeof runsIn)[number];

/** One place that values come from. A stage has an ordered list of them, and a later one wins. */
export type Layer = { kind: 'file'; name: string } | { kind: 'process'; name: 'process' };

/** The environment that values are for. */
export interface Stage {
  name: string;
  layers: readonly Layer[];
}

/** One thing that is built and shipped. Paths are relative to the contract's folder. */
export interface Bundle {
  name: string;
  runs: RunsIn;
  toolchain: string;
  code: readonly string[];
  output: readonly string[];
  /** Stands before a public variable's name where this bundle's code reads it. */
  prefix: string;
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
  min?: number;
  /** The bundles that get it; all where it is absent. */
  bundles?: readonly string[];
  /** Where the contract declares it. */
  at: Position;
}

/** A contract that was understood in full. Maps keep the order of the file. */
export interface Contract {
  /** As findings name the file. */
  path: string;
  stages: ReadonlyMap<string, Stage>;
  bundles: ReadonlyMap<string, Bundle>;
  variables: ReadonlyMap<string, Variable>;
  /** Names of the parent's environment that builds get besides the short list. */
  passes: readonly string[];
  levels: Levels;
}

/** Of two reaches, the one that lets fewer people read. */
export function narrower(a: Reach, b: Reach): Reach {
  return reaches.indexOf(a) >= reaches.indexOf(b) ? a : b;
}

export function isRequired(variable: Variable, stage: string): boolean {
  return typeof variable.required === 'boolean' ? variable.required : variable.required.includes(stage);
}
