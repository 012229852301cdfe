import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { parseContract } from '../../src/core/contract/parse.js';
import { parseEnvFile } from '../../src/core/envfile/parse.js';
import { Masker } from '../../src/core/inspect/masked-text.js';
import type { Owner } from '../../src/core/inspect/plan.js';
import { MaskingStream } from '../../src/core/mask/masking.js';
import { linesOf, wrappedForms } from '../../src/core/mask/wrapped.js';
import { needlesFor } from '../../src/core/needles/index.js';
import { AnchoredNeedles } from '../../src/core/needles/needle-set.js';
import { envExcerpt } from '../../src/core/resolve/env-findings.js';
import { readEnvFileLayer } from '../../src/core/resolve/layers.js';
import { resolveStage } from '../../src/core/resolve/resolve.js';
import { ferryContract } from '../support/adder.js';
import { SECRET } from '../support/broken.js';
import { contractOf } from '../support/contract.js';

/** Few in a run of all tests; `npm run fuzz` has a hundred thousand of each. */
const RUNS = Number(process.env.ADDER_FUZZ_RUNS ?? 400);
const long = RUNS * 10 + 60_000;

/** A secret that no name or word of the tests is near. */
const longSecret = SECRET + SECRET.toLowerCase() + SECRET.slice(3);

/** Eight characters of the secret in a row, if a text contains them. */
function pieceIn(text: string): string | undefined {
  for (let start = 0; start + 8 <= SECRET.length; start++)
    if (text.includes(SECRET.slice(start, start + 8))) return SECRET.slice(start, start + 8);
  return undefined;
}

const syntax = [
  '{',
  '}',
  '[',
  ']',
  ':',
  ',',
  '\n',
  '\n  ',
  '"',
  "'",
  '#',
  '&a ',
  '*a',
  '!x ',
  '|',
  '>',
  '-',
  '=',
  ' ',
  '\t',
  '$',
  '${',
  '\\',
  '`',
  '\0',
  '\x1b',
  '\ufeff',
  'export ',
  '<<: *a',
];

/** A text with pieces put in, taken out and doubled, and the secret somewhere in it. */
const damaged = (text: string) =>
  fc
    .record({
      edits: fc.array(
        fc.record({ at: fc.nat(text.length), remove: fc.nat(12), insert: fc.constantFrom('', ...syntax) }),
        { maxLength: 6 },
      ),
      at: fc.nat(text.length),
      before: fc.constantFrom('', ' ', '\n', '"', '=', ': ', '://u:', '--token='),
      after: fc.constantFrom('', ' ', '\n', '"', '=', '==', ':', '@h/d', ' x'),
    })
    .map(({ edits, at, before, after }) => {
      const edited = edits.reduce(
        (rest, edit) => rest.slice(0, edit.at) + edit.insert + rest.slice(edit.at + edit.remove),
        text,
      );
      return edited.slice(0, at) + before + SECRET + after + edited.slice(at);
    });

describe('fuzz: excerpts of broken files', () => {
  test(
    'contracts',
    () => {
      const contract = `${ferryContract}accept: [{ finding: leak/known-value, where: dist/*.js, because: x, until: 2027-03-01 }]\n`;
      fc.assert(
        fc.property(damaged(contract), (text) => {
          const { findings } = parseContract(text, 'adder.yaml');
          expect(pieceIn(JSON.stringify(findings)), text).toBeUndefined();
        }),
        { numRuns: RUNS },
      );
    },
    long,
  );

  test(
    'env files',
    () => {
      const contract = contractOf(ferryContract);
      const stage = contract.stages.get('production') ?? expect.unreachable();
      const facts = {
        isPublic: (name: string) => contract.variables.get(name)?.reach === 'public',
        isDeclared: (name: string) => contract.variables.has(name),
      };
      const env =
        'TIDE_CHART=true\nexport FARE_SIGNING_KEY="a b"\n# comment\nLEDGER_DATABASE_URL=\'x\'\nSTRAY=${TIDE_CHART:-x}\n';
      fc.assert(
        fc.property(damaged(env), (text) => {
          // The text on the line of a public variable is public.
          fc.pre(
            !/(FERRY_API_URL|TIDE_CHART|NOTICE_BANNER)[^\n]*$/m.test(text.slice(0, text.indexOf(SECRET))) &&
              !text.includes(`#`.concat(SECRET)),
          );
          const layer = readEnvFileLayer('.env', '.env', Buffer.from(text), facts);
          const { findings } = resolveStage(contract, stage, [layer]);
          const file = parseEnvFile(Buffer.from(text));
          const lines = text.split('\n').map((_, index) => envExcerpt(file, { line: index + 1, column: 1 }, 3, facts));
          const names = layer.offers.filter(({ name }) => pieceIn(name) !== undefined);
          // A piece that is a valid name of its own line cannot be told from one.
          fc.pre(names.length === 0);
          expect(pieceIn(JSON.stringify([layer.findings, findings, lines])), text).toBeUndefined();
        }),
        { numRuns: RUNS },
      );
    },
    long,
  );
});

describe('fuzz: masks', () => {
  const owner: Owner = { role: 'secret', variable: 'FARE_SIGNING_KEY', reach: 'server', stage: 'production' };
  const needles = needlesFor([{ value: longSecret, owner }]);
  const forms: ((text: string) => string)[] = [
    (text) => text,
    (text) => Buffer.from(text).toString('base64'),
    (text) => Buffer.from(`xy${text}z`).toString('base64url'),
    (text) => Buffer.from(text).toString('hex'),
    (text) => encodeURIComponent(text),
    (text) => JSON.stringify(JSON.stringify(text)),
  ];
  const noise = fc.string({
    maxLength: 60,
    unit: fc.constantFrom(...'abcxyz0189 \n\t=+/"\\[]{}<>', longSecret.slice(0, 3), longSecret.slice(0, 20)),
  });

  test(
    'a stream: no form of a value comes through, wherever it is cut and wrapped',
    () => {
      const bytes = needles.filter(({ unbroken }) => unbroken === undefined).map((needle) => needle.bytes);
      const wrapped = wrappedForms(longSecret);
      fc.assert(
        fc.property(
          noise,
          noise,
          fc.nat(forms.length - 1),
          fc.array(fc.integer({ min: 1, max: 90 }), { maxLength: 6 }),
          fc.boolean(),
          (before, after, which, sizes, isWrapped) => {
            const form = (forms[which] as (text: string) => string)(longSecret);
            const printed = isWrapped && which < 4 ? (form.match(/.{1,40}/g) ?? []).join('\n') : form;
            const source = Buffer.from(`${before}|${printed}|${after}`);
            const stream = new MaskingStream(
              [...bytes, ...linesOf(longSecret).map((line) => Buffer.from(line))],
              wrapped,
            );
            let shown = '';
            for (let at = 0, index = 0; at < source.length; index++) {
              const size = sizes[index] ?? source.length;
              shown += stream.push(source.subarray(at, at + size)).toString();
              at += size;
            }
            shown += stream.end().toString();
            const rest = shown.replace(before, '').replace(after, '').replace(/\s/g, '');
            const seen = form.replace(/\s/g, '');
            for (let start = 4; start + 16 <= seen.length - 4; start += 3)
              expect(rest.includes(seen.slice(start, start + 16)), shown).toBe(false);
          },
        ),
        { numRuns: RUNS },
      );
    },
    long,
  );

  test(
    'an excerpt: neither whole values nor pieces of them',
    () => {
      const masker = new Masker({ masked: () => needles, anchoredSecrets: () => new AnchoredNeedles([]) });
      fc.assert(
        fc.property(noise, fc.nat(longSecret.length), fc.nat(200), (around, cut, focus) => {
          const text = `${around}"${longSecret.slice(0, cut)}" + "${longSecret.slice(cut)}"${around}`;
          const bytes = Buffer.from(text);
          const at = Math.min(focus, bytes.length - 1);
          const piece = masker.piece(bytes, 0, bytes.length, { start: at, end: at + 1 });
          for (let start = 0; start + 8 <= longSecret.length; start++)
            expect(piece?.text.includes(longSecret.slice(start, start + 8)), text).toBe(false);
        }),
        { numRuns: RUNS },
      );
    },
    long,
  );
});
