import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { Artifact } from '../../../src/core/inspect/artifact.js';
import { memoryArtifact } from '../../../src/core/inspect/memory-artifact.js';
import { planSearch } from '../../../src/core/inspect/plan.js';
import { ArtifactSearch } from '../../../src/core/inspect/search.js';
import { noFacts } from '../../../src/core/resolve/env-findings.js';
import { readEnvFileLayer } from '../../../src/core/resolve/layers.js';
import { resolveStage } from '../../../src/core/resolve/resolve.js';
import { contractOf } from '../../support/contract.js';
import { runs } from '../../support/runs.js';

const secret = 'made-up-fare-signing-key-0001';
const contract = contractOf(`adder: 1
stages: { production: { layers: [.env] } }
variables: { URL: public, KEY: server }
`);
const layer = readEnvFileLayer('.env', '.env', Buffer.from(`URL=https://a.example\nKEY=${secret}\n`), noFacts);
const stage = contract.stages.get('production') ?? expect.unreachable();
const plan = planSearch(contract, 'production', [resolveStage(contract, stage, [layer])]);

/** A file that another program truncates after some reads. */
function truncated(content: Buffer, reads: number, left: number): Artifact {
  const artifact = memoryArtifact('dist/a.js', content, 'browser');
  return {
    ...artifact,
    open: () => {
      const whole = artifact.open();
      const rest = memoryArtifact('dist/a.js', content.subarray(0, left), 'browser').open();
      let made = 0;
      const now = () => (made++ < reads ? whole : rest);
      return {
        ...whole,
        read: (offset, length) => now().read(offset, length),
        readInto: (buffer, offset) => now().readInto(buffer, offset),
        chunks: () => now().chunks(),
        get hasChanged() {
          return made > reads;
        },
      };
    },
  };
}

const pieces = fc.array(
  fc.constantFrom(
    `const a = "${secret}";\n`,
    `"${Buffer.from(secret).toString('base64')}"`,
    `"${secret.slice(0, 20)}"`,
    '"https://a.example"',
    'process.env.KEY;',
    '//# sourceMappingURL=a.js.map\n',
    ' '.repeat(200),
    '🚢',
  ),
  { minLength: 1, maxLength: 12 },
);

test('a file that is truncated at any time is reported as changed, and breaks nothing', async () => {
  await fc.assert(
    fc.asyncProperty(pieces, fc.nat(12), fc.double({ min: 0, max: 1, noNaN: true }), async (texts, reads, share) => {
      const content = Buffer.from(texts.join(''));
      const left = Math.floor(content.length * share);
      const about = { stage: 'production', audience: 'browser' } as const;
      const whole = await new ArtifactSearch(plan).search(memoryArtifact('dist/a.js', content, 'browser'), about);
      const result = await new ArtifactSearch(plan).search(truncated(content, reads, left), about);
      const isReported = result.unread.some(({ because }) => because === 'changed while it was read');
      // Whatever is not found as in the whole file was read too late.
      expect(isReported || result.findings.length === whole.findings.length).toBe(true);
    }),
    { numRuns: runs(600) },
  );
});
