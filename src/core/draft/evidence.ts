import type { FileSide } from '../files/side.js';
import type { Read } from '../reads/read.js';
import type { NamedValue } from '../resolve/resolve.js';
import type { DraftBundle } from './bundles.js';
import type { ValueFile } from './material.js';
import type { SeenName } from './seen.js';
import type { DraftStage } from './stages.js';

/** Where a source file runs; unknown outside the code of all bundles. */
export type Side = FileSide | 'unknown';

/** A read of a variable, under whatever name. */
export interface Use {
  path: string;
  line: number;
  column: number;
  side: Side;
  read: Read;
  bundle?: DraftBundle;
}

/** Value of a name in a stage. */
export interface StageValue {
  stage: string;
  /** The package whose layers have it; empty for what all bundles share. */
  owner: string;
  text: string;
  from: NamedValue['from'];
}

/** Evidence for a name before anything is guessed. */
export interface Evidence {
  name: string;
  stages: readonly DraftStage[];
  bundles: readonly DraftBundle[];
  /** Its values in all stages, the empty ones too. */
  values: readonly StageValue[];
  /** Its values without empty ones. */
  present: readonly StageValue[];
  uses: readonly Use[];
  /** Lines that set it and give no value, with the reason: `.env:4 cannot be parsed`. */
  broken: readonly string[];
  /** The files that make it a constant of the app's own code. */
  constants: readonly string[];
  /** The names whose values refer to it. */
  partOf: readonly string[];
  /** The first place in a file of another language that names it. */
  namedAt?: string;
  /** The evidence of trial builds; absent without a trial. */
  seen?: SeenName;
  /** Files that say what is set, without values. */
  examples: readonly ValueFile[];
}

export function placeOf({ path, line }: Pick<Use, 'path' | 'line'>): string {
  return `${path}:${line}`;
}
