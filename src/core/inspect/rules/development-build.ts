import { isPage, type ScriptLanguage, scriptLanguage } from '../../files/languages.js';
import { finding, type RawFinding } from '../../findings/finding.js';
import { limits } from '../../limits/index.js';
import type { MarkHit } from '../../search/scan.js';
import { textPositions } from '../../text/positions.js';
import { type ArtifactRule, type Surroundings, subject } from '../rule.js';
import { marksFor } from '../token-runs.js';

/** The kinds of marks that are checks of NODE_ENV, and texts of development builds. */
const [CHECK, TEXT] = ['node-env', 'development-text'];

/** Texts that only a development build has, and whose it is. One line per text. */
const texts: readonly (readonly [text: string, of: string])[] = [
  ['Download the React DevTools for a better development experience', 'React'],
  ['Extraneous non-props attributes (', 'Vue'],
  ['Extraneous non-props event listeners (', 'Vue'],
  ['Angular is running in development mode.', 'Angular'],
  ['Lit is in dev mode. Not recommended for production!', 'Lit'],
  ['You appear to have multiple instances of Solid.', 'Solid'],
  ['ATTENTION: The "eval" devtool has been used', 'webpack (modules in `eval`)'],
  ['ATTENTION: An "eval-source-map" devtool has been used.', 'webpack (modules in `eval`)'],
  ['/@vite/client"', 'the dev server of Vite'],
];

const moduleOfDevelopment =
  /(^|\/)node_modules\/(?:.*\/node_modules\/)?((?:@[^/]+\/)?[^/]+)\/(?:.*\/)?(?:[\w.-]+\.development\.|development\/|dev\/|dev\.)/;

/** The code of a desktop app may check NODE_ENV when it runs, as it has a process; libraries leave more than this. */
const LEAST_OF_LIBRARY = 10_000;

const usualRemedy = 'build with NODE_ENV=production (`build-as: production` for the stage in the contract)';

/** Builds for developers: larger and slower, and they explain errors to strangers. */
export const developmentBuilds: ArtifactRule = {
  codes: ['stage/development-build'],
  marks: ({ ships }) =>
    ships
      ? [
          ...marksFor(CHECK, ['process.env.NODE_ENV']),
          ...marksFor(
            TEXT,
            texts.map(([text]) => text),
          ),
        ]
      : [],
  async check(hits, surroundings) {
    const { content, inspected } = surroundings;
    const { fileName, size, original } = content;
    const language = scriptLanguage(fileName);
    // Packages check NODE_ENV by design, and have files for development; the output of a bundle does not.
    const isCode = inspected.bundle !== undefined && (language !== undefined || isPage(fileName));
    const isShipped = inspected.audience === 'browser' && inspected.facts?.isLibrary !== true;
    if (!isShipped || !isCode || original !== undefined || size > limits.scriptBytes.value) return [];
    const checks = hits.filter(({ kind }) => kind === CHECK);
    const left = checks.length > 0 && language ? await leftChecks(checks, language, surroundings) : [];
    return left.length > 0 ? left : ofDevelopment(hits, surroundings);
  },
};

/** Measuring parses a file, which takes longer than all else. A build that left the checks in leaves them everywhere. */
const MOST_MEASURED = 20;

/** Number of files that were measured, by bundle. */
const measured = new WeakMap<object, number>();

/** Tells whether a file of a bundle is measured; the checks of all others are counted. */
function isMeasured({ facts }: Surroundings['inspected']): boolean {
  if (!facts) return true;
  const number = measured.get(facts) ?? 0;
  measured.set(facts, number + 1);
  return number < MOST_MEASURED;
}

/** The build replaced nothing: libraries check the environment when they run, and contain both of their versions. */
async function leftChecks(
  hits: readonly MarkHit[],
  language: ScriptLanguage,
  surroundings: Surroundings,
): Promise<RawFinding[]> {
  const { content, describe } = surroundings;
  if (!isMeasured(surroundings.inspected)) return countedChecks(hits, surroundings);
  // The parser is loaded when it is needed.
  const { checksOfNodeEnv } = await import('../development-code.js');
  const text = await content.text();
  const found = checksOfNodeEnv(text, language);
  const isOfApp = surroundings.inspected.facts?.runs === 'desktop' && (found?.removable ?? 0) < LEAST_OF_LIBRARY;
  if (!found || isOfApp) return [];
  const positionOf = textPositions(text);
  const { offset: start, line, column } = positionOf(found.first.start);
  const [described] =
    content.where.inside.length > 0
      ? []
      : await describe([{ start, end: positionOf(found.first.end).offset, isBrief: true }]);
  const place = described ?? { place: { ...content.where, line, column } };
  const facts = { checks: found.checks, removable: found.removable, bytes: content.size, fix: fixOf(surroundings) };
  return [finding('stage/development-build', 'checks', facts, { ...subject(surroundings.inspected), ...place })];
}

/** Checks as the text has them, comparisons alone: what they keep in the file is not measured. */
function countedChecks(hits: readonly MarkHit[], surroundings: Surroundings): RawFinding[] {
  const { content, inspected } = surroundings;
  const isComparison = ({ end }: MarkHit) =>
    /^\s*[!=]==?/.test(Buffer.from(content.read(end, end + 8)).toString('latin1'));
  const checks = hits.filter(isComparison).length;
  if (checks === 0 || inspected.facts?.runs === 'desktop') return [];
  const more = { ...subject(inspected), place: { ...content.where } };
  const facts = { checks, measured: MOST_MEASURED, fix: fixOf(surroundings) };
  return [finding('stage/development-build', 'more-checks', facts, more)];
}

/** The build was made for developers. */
async function ofDevelopment(hits: readonly MarkHit[], surroundings: Surroundings): Promise<RawFinding[]> {
  const { content, describe, sourceSizes } = surroundings;
  const own = hits.filter(({ kind }) => kind === TEXT);
  const [first] = own;
  if (!first) return [];
  const read = new Set(own.map(({ start, end }) => Buffer.from(content.read(start, end)).toString()));
  const names = [...new Set(texts.flatMap(([text, of]) => (read.has(text) ? [of] : [])))];
  const [described] = await describe([{ start: first.start, end: first.end, isBrief: true }]);
  const { excerpt: _, ...place } = described ?? { place: { ...content.where } };
  const facts = { of: names, ...developmentModules(await sourceSizes()), fix: fixOf(surroundings) };
  return [finding('stage/development-build', 'code', facts, { ...subject(surroundings.inspected), ...place })];
}

/** The size of modules that packages have for development alone. */
function developmentModules(sizes: ReadonlyMap<string, number>): { bytes: number; packages: string[] } {
  const ofPackages = new Map<string, number>();
  for (const [source, size] of sizes) {
    const name = moduleOfDevelopment.exec(source)?.[2];
    if (name) ofPackages.set(name, (ofPackages.get(name) ?? 0) + size);
  }
  const bytes = [...ofPackages.values()].reduce((sum, size) => sum + size, 0);
  return { bytes, packages: [...ofPackages.keys()] };
}

/** Remedies that make a production build. */
function fixOf({ inspected: { facts } }: Surroundings): string {
  return facts?.productionBuild ?? usualRemedy;
}
