// The search of `adder inspect` in one process, over a folder: with all rules, or for the values of the contract alone.
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { parseContract } from '../src/core/contract/parse.js';
import { planSearch } from '../src/core/inspect/plan.js';
import { ArtifactSearch } from '../src/core/inspect/search.js';
import { TextMask } from '../src/core/mask/text-mask.js';
import { readProcessLayer } from '../src/core/resolve/layers.js';
import { resolveStage } from '../src/core/resolve/resolve.js';
import { matcherFor } from '../src/core/search/matcher-for.js';
import { FileArtifact } from '../src/host/file-artifact.js';
import { Files } from '../src/host/files.js';
import { ShownPaths } from '../src/host/shown-paths.js';

const [which, folder = '', count = '300'] = process.argv.slice(2);
const values = Object.fromEntries(
  Array.from({ length: Number(count) }, (_, index) => [
    `SECRET_${index}`,
    Buffer.from(`made-up ${index * 7919} value`).toString('base64url'),
  ]),
);
const { contract } = parseContract(
  `adder: 1\nstages: { production: { layers: [process] } }\nvariables:\n${Object.keys(values)
    .map((name) => `  ${name}: server\n`)
    .join('')}`,
  'adder.yaml',
);
const stage = contract?.stages.get('production');
if (!contract || !stage) throw new Error('the contract of this bench is wrong');
const plan = planSearch(contract, 'production', [
  resolveStage(contract, stage, [readProcessLayer(values, Object.keys(values))]),
]);
const anchors = {
  ...plan,
  unknownSecrets: false,
  names: [],
  serverNames: [],
  reads: [],
  fragments: [],
  directories: [],
  ships: false,
};
const search = new ArtifactSearch(which === 'all' ? plan : anchors);
const paths = new ShownPaths(new Files(), folder, new TextMask(matcherFor([]), () => false));
let findings = 0;
for (const name of readdirSync(folder)) {
  const artifact = new FileArtifact(join(folder, name), 'browser', paths);
  const result = await search.search(artifact, { stage: 'production', audience: 'browser' });
  findings += result.findings.length;
}
console.log(findings);
