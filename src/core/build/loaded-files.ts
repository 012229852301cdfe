import type { Bundle, Contract, Stage } from '../contract/contract.js';
import { valueFileOf } from '../files/value-files.js';
import type { Place } from '../findings/finding.js';
import { finding, type RawFinding } from '../findings/finding.js';
import { Names } from '../lint/names.js';
import type { GivenValue } from '../receipt/serves-both.js';
import type { ReadLayer } from '../resolve/layer.js';
import { readName } from './environment.js';

/** An env file that a build's configuration or command loads. */
export interface LoadedFile {
  layer: ReadLayer;
  /** The file or command that loads it, as messages name it. */
  by: string;
  /** Absent for the command of a call. */
  place?: Place;
}

/** A build as far as the env files are concerned that its configuration loads. */
export interface LoadedFilesOf {
  contract: Contract;
  bundle: Bundle;
  stage: Stage;
  given: ReadonlyMap<string, GivenValue>;
  files: readonly LoadedFile[];
}

/**
 * Reports what a build gets from env files that its own configuration loads: values of another stage, and what `adder with` keeps
 * from it. The environment wins over such a file, so names that Adder gives are safe.
 */
export function loadedFileFindings({ contract, bundle, stage, given, files }: LoadedFilesOf): RawFinding[] {
  const names = new Names(contract, bundle);
  const isGiven = new Set([...given.values()].flatMap(({ variable }) => [variable.name, readName(bundle, variable)]));
  return files.flatMap(({ layer, by, place }): RawFinding[] => {
    const { path = '' } = layer;
    const added = [...new Set(layer.offers.map(({ name }) => name))].filter((name) => !isGiven.has(name));
    const hidden = added.filter((name) => !/^(public|misnamed|elsewhere)$/.test(names.meaning(name).kind));
    const stages = stagesOf(contract, path);
    const more = { bundle: bundle.name, ...(place && { place }) };
    const about = { by, path, stage: stage.name };
    if (stages.length > 0 && !stages.includes(stage.name) && added.length > 0) {
      const level = hidden.length > 0 ? ('error' as const) : ('warning' as const);
      return [finding('file/read-by-tool', 'other-stage', { ...about, stages, names: added }, { ...more, level })];
    }
    if (hidden.length === 0) return [];
    return [finding('file/read-by-tool', 'loaded', { ...about, names: hidden }, more)];
  });
}

/** The stages whose values a file has: by the contract, or else by its name. */
function stagesOf({ stages }: Contract, path: string): string[] {
  const owners = [...stages.values()].filter(({ layers }) =>
    layers.some(({ kind, name }) => kind === 'file' && name === path),
  );
  const named = valueFileOf(path)?.stage;
  return owners.length > 0 || named === undefined ? owners.map(({ name }) => name) : [named];
}

/** Env files that a command of Node.js loads: `--env-file=PATH`, also `--env-file-if-exists`. */
export function envFileOptions(line: string): string[] {
  return [...line.matchAll(/--env-file(?:-if-exists)?[=\s]+(['"]?)([^\s'"]+)\1/g)].map(([, , path = '']) => path);
}
