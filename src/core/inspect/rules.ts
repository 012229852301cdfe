import type { Finding, Origin, Place, RawFinding } from '../findings/finding.js';
import { count } from '../text/display.js';
import type { ValueHit } from './hits.js';
import type { Owner } from './plan.js';

/** A value's occurrence with all that could be learnt about its place. */
export interface LocatedHit extends Pick<ValueHit, 'owner' | 'encoding'> {
  place: Place;
  origin?: Origin;
  excerpt?: Finding['excerpt'];
}

/** Who gets a file of a build: everybody, those who have the server's files, or those who get the tool's cache. */
export type Part = 'browser' | 'server' | 'cache';

/** Where hits were found. */
export interface FoundIn {
  /** The stage that is inspected. */
  stage: string;
  bundle?: string;
  part: Part;
  /** Where the last build did not write the file: what to empty before the next one. */
  leftOver?: string;
}

/** What occurrences of secrets and of other stages' values amount to. */
export function hitFindings(hits: readonly LocatedHit[], where: FoundIn): RawFinding[] {
  return hits.flatMap((hit) => {
    const said = saidOf(hit.owner, where);
    if (!said) return [];
    const { owner, encoding, place, origin, excerpt } = hit;
    return [
      {
        ...said,
        variable: owner.variable,
        ...(owner.stage && { stage: owner.stage }),
        ...(where.bundle && { bundle: where.bundle }),
        place,
        encoding: [...encoding],
        ...(origin && { origin }),
        ...(excerpt && { excerpt }),
      },
    ];
  });
}

/** The places beyond those that are told one by one. */
export function manyMoreFinding(owner: Owner, place: Place, more: number, where: FoundIn): RawFinding[] {
  const said = saidOf(owner, where);
  if (!said) return [];
  const message = `${said.message}, in ${count(more, 'more place')} of this file`;
  return [
    {
      ...said,
      message,
      variable: owner.variable,
      ...(owner.stage && { stage: owner.stage }),
      ...(where.bundle && { bundle: where.bundle }),
      place,
    },
  ];
}

type Said = Pick<RawFinding, 'code' | 'level' | 'message' | 'remedy'>;

/** A cache has values of earlier builds by its nature: only what nobody may have is told of it. */
function saidOf(owner: Owner, where: FoundIn): Said | undefined {
  const said = saidAnywhere(owner, where);
  if (!said || where.leftOver === undefined || where.part === 'cache') return said;
  const then = owner.role === 'secret' ? '; then change the value, as it must be taken as known' : '';
  const remedy = `left over from an earlier build, as the last one did not write this file: empty ${where.leftOver} and build again${then}`;
  return { ...said, remedy };
}

function saidAnywhere(owner: Owner, { stage, part }: FoundIn): Said | undefined {
  if (owner.role === 'secret') return part === 'browser' ? leak(owner) : keptLeak(owner, part);
  return owner.role === 'foreign' && part !== 'cache' ? foreign(owner, stage) : undefined;
}

/** `the value of KEY`, `its beginning`, of which the variable is named. */
function whatOf({ variable, part, file }: Owner): string {
  const whole = `the value of ${variable}${file ? ` in ${file} (no layer of any stage)` : ''}`;
  return part ? `${part.is} (of ${whole})` : whole;
}

/** No browser gets these files, so it is no error; but whoever gets them has the value. */
function keptLeak(owner: Owner, part: 'server' | 'cache'): Said {
  const where = part === 'server' ? "is in the server's own files" : 'is in what the tool keeps for its next build';
  const remedy =
    part === 'server'
      ? 'let the server read it from its environment as it starts, so that no file of the build has it'
      : 'empty the folder, and keep it out of what a pipeline stores between its runs';
  return {
    code: codeOf(owner),
    level: 'warning',
    message: `${where}: ${whatOf(owner)}, which is for the ${owner.reach} alone`,
    remedy,
  };
}

function codeOf({ part }: Owner): Said['code'] {
  return part ? 'leak/part-of-value' : 'leak/known-value';
}

function leak(owner: Owner): Said {
  const { reach } = owner;
  const forWhom = reach === 'build' ? 'for the build alone' : 'for the server alone';
  const remedy =
    reach === 'build'
      ? 'use it in the scripts of the build only; then change it, as it must be taken as known'
      : 'read it in a server route; then change it, as it must be taken as known';
  return { code: codeOf(owner), message: `holds ${whatOf(owner)}, which is ${forWhom}`, remedy };
}

function foreign({ variable, stage }: Owner, inspected: string): Said {
  return {
    code: 'stage/foreign-value',
    message: `holds the value that ${variable} has in ${stage}, not the one of ${inspected}`,
    remedy: `build it for ${inspected}: adder with ${inspected} -- COMMAND`,
  };
}
