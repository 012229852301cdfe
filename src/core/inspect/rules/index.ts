import type { ArtifactRule } from '../rule.js';
import { buildMachine } from './build-machine.js';
import { developmentBuilds } from './development-build.js';
import { envDumps } from './env-dump.js';
import { envFiles } from './env-file.js';
import { joinedValues } from './joined-values.js';
import { knownValues } from './known-values.js';
import { localAddresses } from './local-address.js';
import { serverNames } from './names.js';
import { spelledValues } from './number-lists.js';
import { privateFile } from './private-file.js';
import { randomText } from './random-text.js';
import { sourceInMap } from './source-in-map.js';
import { unknownTokens } from './token-shape.js';
import { unreplacedReads } from './unreplaced.js';

/** One line per rule. Later rules see the findings of earlier ones. */
export const artifactRules: readonly ArtifactRule[] = [
  knownValues,
  joinedValues,
  spelledValues,
  unknownTokens,
  randomText,
  envFiles,
  privateFile,
  envDumps,
  unreplacedReads,
  serverNames,
  buildMachine,
  sourceInMap,
  localAddresses,
  developmentBuilds,
];
