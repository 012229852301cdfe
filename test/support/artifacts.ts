import type { Contract } from '../../src/core/contract/contract.js';
import type { RawFinding } from '../../src/core/findings/finding.js';
import type { Artifact, Audience } from '../../src/core/inspect/artifact.js';
import { memoryArtifact } from '../../src/core/inspect/memory-artifact.js';
import { planSearch } from '../../src/core/inspect/plan.js';
import type { BundleFacts } from '../../src/core/inspect/rule.js';
import { ArtifactSearch } from '../../src/core/inspect/search.js';
import { resolutionOf } from './contract.js';

export function artifactOf(bytes: Uint8Array, fileName: string, audience: Audience = 'browser'): Artifact {
  return { ...memoryArtifact(fileName, bytes, audience), fileName };
}

export interface How {
  /** The env file of the stage. */
  env?: string;
  fileName?: string;
  audience?: Audience;
  directories?: readonly string[];
  hostNames?: readonly string[];
  /** The contract's settings of the bundle. */
  facts?: BundleFacts | undefined;
  /** Source that a source map maps the text to. */
  map?: string;
}

/** Findings of a search of an artifact, for the stage `production` of a contract. */
export async function findingsIn(
  contract: Contract,
  text: string | Uint8Array,
  { env = '', fileName = 'app.js', audience = 'browser', directories = [], hostNames = [], facts, map }: How = {},
): Promise<RawFinding[]> {
  const resolution = resolutionOf(contract, 'production', env);
  const search = new ArtifactSearch(planSearch(contract, 'production', [resolution], { directories, hostNames }));
  const artifact = artifactOf(Buffer.from(text), fileName, audience);
  if (map !== undefined) artifact.sourceMap = async () => ({ location: 'app.js.map', text: map });
  const { findings } = await search.search(artifact, {
    stage: 'production',
    audience,
    ...(facts && { bundle: 'web', facts }),
  });
  return findings;
}
