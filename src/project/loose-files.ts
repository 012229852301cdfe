import { layersOf } from '../core/contract/scopes.js';
import { mayBeEnvLike, valueFileOf } from '../core/files/value-files.js';
import { within } from '../core/files/within.js';
import { limits } from '../core/limits/index.js';
import { noFacts } from '../core/resolve/env-findings.js';
import { literalValues } from '../core/resolve/layer.js';
import { readEnvFileLayer } from '../core/resolve/layers.js';
import type { NamedValue } from '../core/resolve/resolve.js';
import { describeFileError, isMissing } from '../host/files.js';
import { filesNamed, type NotRead } from '../host/walk.js';
import type { Project } from './open.js';

export interface LooseValues {
  values: NamedValue[];
  /** Files that this process cannot read. */
  unread: NotRead[];
}

/**
 * The values of env files below the contract's directory that no stage or bundle has as a layer: a tool may load such a file
 * itself and inline them. Values with references are skipped, because their expansion depends on the tool.
 */
export function looseValues({ contract, root, files }: Project): LooseValues {
  const isOutput = within([...contract.bundles.values()].flatMap(({ output }) => output));
  const listed = new Set(layersOf(contract).map(({ name }) => name.replace(/^\.\//, '')));
  const found: LooseValues = { values: [], unread: [] };
  const paths = filesNamed(files, root, mayBeEnvLike, isOutput, {
    onUnread: ({ path, because }) => found.unread.push({ path, because: `${because}, so env files in it are unknown` }),
  });
  for (const path of paths.filter((one) => !listed.has(one) && isEnvFile(one))) {
    try {
      found.values.push(...valuesIn(path, files.readRegular(files.path.join(root, path), limits.envFileBytes.value)));
    } catch (error) {
      if (isMissing(error)) continue;
      const because = describeFileError(error);
      found.unread.push({
        path: files.path.join(root, path),
        because: `${because}, so its values are not searched for`,
      });
    }
  }
  return found;
}

function isEnvFile(path: string): boolean {
  return /^(env|leftover)$/.test(valueFileOf(path)?.kind ?? '');
}

function valuesIn(path: string, bytes: Uint8Array): NamedValue[] {
  const { offers, rejected = [] } = readEnvFileLayer(path, path, bytes, noFacts);
  const ofRejected = rejected.flatMap(({ name, texts, source }) =>
    texts.map((value) => ({ name, value, from: source })),
  );
  return [...literalValues(offers), ...ofRejected];
}
