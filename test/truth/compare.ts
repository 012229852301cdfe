import type { Facts, Fixed, Outcome, Said } from './measure.js';
import type { Program } from './program.js';

/** Something that Adder says or does, and that is not so. */
export type Difference =
  | 'lint is silent, and the read fails'
  | 'lint reports a read that works'
  | 'lint is silent, and another value ships'
  | 'the plugin changes what the program does'
  | 'the plugin brings a value that the code does not read'
  | 'the plugin refuses a read that it could replace'
  | 'with the plugin, lint is silent, and the build stops'
  | 'with the plugin, lint is silent, and the read fails'
  | 'with the plugin, lint reports a read that works'
  | 'a trial says that a value arrives, and it does not'
  | 'a trial misses a value that arrives'
  | 'inspect is silent, and the program throws'
  | 'a fix changes what the program does'
  | 'a fix does not help'
  | 'a fix breaks the build';

/** Codes of findings that say what happens to a read. */
const ofReads = /^code\/(unreachable-read|whole-object|unknown-name|server-read|server-value-flow)$/;

/** The object that stands for the tool's is in texts too. */
const asWritten = ({ seen }: Outcome) =>
  JSON.stringify(seen).replaceAll(/\b(import\.meta|process)\b/g, 'globalThis.made');

const sameAs = (one: Outcome | undefined, other: Outcome) =>
  one !== undefined && asWritten(one) === asWritten(other) && (one.error !== undefined) === (other.error !== undefined);

/** Findings about some versions of a tool may be about another one than this. */
const isHedged = ({ message }: Said) =>
  /\b(some|other) (versions|builds)\b|not every version|only where there is a `process`|\bmay be undefined/.test(
    message,
  );

/** Positions in which a program does not see what it read. */
const blind: readonly Program['position'][] = [
  'nothing',
  'statement',
  'startOfLine',
  'startOfLineMember',
  'afterArray',
  'afterStep',
];

/** Positions in which a program cannot distinguish a fallback from the value. */
const coarse: readonly Program['position'][] = ['condition', 'ternary', 'negated', 'and', 'switched', 'typeOf'];
const hasFallback = /Default$/;

/** Reads of a name that the program writes, which the plugin refuses. */
const isWrite = /^(written|deleted)/;

/** Compares what was measured with what Adder says of it. */
export function differencesOf({
  program,
  isOfBundle: isPublic,
  ideal,
  plain,
  plugged,
  lint,
  pluggedLint,
  inspect,
  arrived,
  fixed,
}: Facts): Difference[] {
  const found: Difference[] = [];
  // Lint reads the project's own code. Reads that packages leave are for the build and `inspect`.
  const isOwn = program.place !== 'package';
  const said = lint.filter(({ code }) => ofReads.test(code));
  const works = plain.failed === undefined && sameAs(plain.outcome, ideal);
  const hedged = said.some(isHedged);
  const isBlind =
    blind.includes(program.position) ||
    (program.position === 'equal' && program.name !== 'read') ||
    (hasFallback.test(program.read) && coarse.includes(program.position));
  const isClean = works && isPublic && !plain.carriesUnread && !isBlind;
  if (isOwn && !works && said.length === 0) found.push('lint is silent, and the read fails');
  if (isClean && said.length > 0 && !hedged) found.push('lint reports a read that works');
  if (isOwn && works && isPublic && plain.carriesUnread && said.length === 0)
    found.push('lint is silent, and another value ships');

  const { inBuild, inTrial } = arrived;
  // A trial also sets names that the build does not have. If such a name is assigned, Vite keeps the whole object.
  const isGiven = isWrite.test(program.read) && !isPublic;
  if (!isGiven && inTrial.some((name) => !inBuild.includes(name)))
    found.push('a trial says that a value arrives, and it does not');
  if (inBuild.some((name) => !inTrial.includes(name))) found.push('a trial misses a value that arrives');

  const isLeft = inspect.some(({ code }) => code === 'read/unreplaced');
  if (plain.outcome?.error === 'ReferenceError' && !isLeft) found.push('inspect is silent, and the program throws');

  const stopped = plugged.failed !== undefined;
  const pluggedSaid = pluggedLint.filter(({ code }) => ofReads.test(code));
  // A use of the whole object is a finding, whatever the program makes of it.
  const ofOne = pluggedSaid.filter((one) => one.code !== 'code/whole-object' && !isHedged(one));
  const pluggedWorks = !stopped && sameAs(plugged.outcome, ideal);
  const isAsPlain = !stopped && plain.outcome !== undefined && sameAs(plugged.outcome, plain.outcome);
  if (!stopped && !pluggedWorks && !isAsPlain && plugged.warnings.length === 0)
    found.push('the plugin changes what the program does');
  if (!stopped && plugged.carriesUnread) found.push('the plugin brings a value that the code does not read');
  if (isOwn && stopped && isClean && !isWrite.test(program.read))
    found.push('the plugin refuses a read that it could replace');
  if (isOwn && stopped && pluggedSaid.length === 0) found.push('with the plugin, lint is silent, and the build stops');
  if (isOwn && !stopped && !pluggedWorks && pluggedSaid.length === 0)
    found.push('with the plugin, lint is silent, and the read fails');
  if (pluggedWorks && isPublic && !isBlind && !plugged.carriesUnread && ofOne.length > 0)
    found.push('with the plugin, lint reports a read that works');
  return fixed ? [...found, ...differencesOfFix(fixed, ideal)] : found;
}

/** @param before what the program did before the fix, which is right if its name was not corrected */
function differencesOfFix({ expected, ideal, plain, lint }: Fixed, before: Outcome): Difference[] {
  if (plain.failed !== undefined || ideal.failed !== undefined) return ['a fix breaks the build'];
  if (!sameAs(ideal.outcome, expected) && !sameAs(ideal.outcome, before))
    return ['a fix changes what the program does'];
  const isDone = lint.every(({ code }) => !ofReads.test(code));
  return isDone && (!sameAs(plain.outcome, expected) || plain.carriesUnread) ? ['a fix does not help'] : [];
}
