import type { RawFinding } from '../../findings/finding.js';
import { limits } from '../../limits/index.js';
import type { Needles } from '../../needles/needle-set.js';
import { WINDOW } from '../../search/marks.js';
import { grouped } from '../../text/display.js';
import { isPartial, type ValueHit } from '../hits.js';
import type { Owner } from '../plan.js';
import type { ArtifactRule, Described, Inspected, Surroundings } from '../rule.js';
import { statementFor } from './statements.js';

/** The kind of marks that are values of variables. */
export const VALUE = 'value';

/** The kind of marks that show where a value may be. */
export const ANCHOR = 'anchor';

/** Values of this and other stages: secrets anywhere, and values that belong to another stage. */
export const knownValues: ArtifactRule = {
  codes: ['leak/known-value', 'leak/part-of-value', 'leak/setting', 'stage/foreign-value', 'stale/past-value'],
  // Its marks are the plan's needles.
  marks: () => [],
  kinds: [ANCHOR, VALUE, WINDOW],
  async check(_, surroundings) {
    const { listed: hits, beyond } = listedHits(surroundings.values.filter(({ owner }) => owner.role !== 'present'));
    const described = await surroundings.describe(
      hits.map(({ owner, start, end }) => ({
        start,
        end,
        isBrief: owner.role === 'setting',
        locate: (line) => surroundings.valuesIn(line).find((one) => one.owner === owner),
      })),
    );
    const findings = hits.flatMap((hit, index) =>
      valueFinding(hit, described[index] as Described, surroundings.inspected),
    );
    // Source text of a map need not be in the code that runs.
    const isSource = surroundings.content.original !== undefined;
    const leveled = findings.map((one) =>
      isSource && one.code === 'stage/foreign-value' ? { ...one, level: 'warning' as const } : one,
    );
    reportUncompared(surroundings);
    return [...leveled, ...uncountedFindings(surroundings, beyond)];
  },
};

/** One occurrence of a value as a finding; none if the value may be there. */
export function valueFinding(
  { owner, encoding }: Pick<ValueHit, 'owner' | 'encoding'>,
  described: Described,
  inspected: Inspected,
): RawFinding[] {
  const statement = statementFor(owner, inspected, described.place);
  if (!statement) return [];
  return [{ ...statement, ...subjectOf(owner, inspected), ...described, encoding: [...encoding] }];
}

/** Reports a secret whose anchor occurs more often than places are compared, unless the secret was found anyway. */
function reportUncompared({ plan, content, values, unread }: Surroundings): void {
  const found = new Set(values.filter((hit) => !isPartial(hit)).map(({ owner }) => owner));
  const most = limits.anchorPlaces.value;
  const reported = new Set<string>();
  for (const [needle, number] of content.counts) {
    const { anchor, owners = [] } = plan.needles.at(needle) ?? {};
    const secret = owners.find((owner) => owner.role === 'secret' && !found.has(owner));
    // A value with a short anchor was searched for in each encoding too.
    if (!anchor || anchor.isShort || number <= most || !secret || reported.has(secret.variable)) continue;
    reported.add(secret.variable);
    unread(
      `has ${grouped(number)} places that may be the value of ${secret.variable}; the first ${grouped(most)} were compared with it`,
    );
  }
}

/** The first occurrences of each value, and how many there are beyond. */
function listedHits(hits: readonly ValueHit[]): { listed: ValueHit[]; beyond: { owner: Owner; more: number }[] } {
  const counts = new Map<Owner, number>();
  const settings = new Set<Owner>();
  const listed = hits.filter(({ owner }) => {
    if (owner.role === 'setting') {
      // Reported once for all files, so one place in each is enough.
      const isFirst = !settings.has(owner);
      settings.add(owner);
      return isFirst;
    }
    const whole = owner.part?.of ?? owner;
    counts.set(whole, (counts.get(whole) ?? 0) + 1);
    return (counts.get(whole) as number) <= limits.placesPerValue.value;
  });
  const beyond = [...counts].map(([owner, number]) => ({ owner, more: number - limits.placesPerValue.value }));
  return { listed, beyond: beyond.filter(({ more }) => more > 0) };
}

/** Occurrences beyond those that are listed one by one. */
function uncountedFindings(
  { plan, content, inspected }: Surroundings,
  beyond: readonly { owner: Owner; more: number }[],
): RawFinding[] {
  // Several values may begin alike, so parts are counted only if no whole value is.
  const others = uncounted(plan.needles, content.counts).filter((one) => beyond.length === 0 || !isPartial(one));
  return [...others, ...beyond].flatMap(({ owner, more }) => {
    const statement = statementFor(owner, inspected, content.where, more);
    if (!statement) return [];
    return [{ ...statement, ...subjectOf(owner, inspected), place: { ...content.where } }];
  });
}

/** Counts the most frequent of overlapping forms and parts of one value; parts count only if the whole value is rare. */
function uncounted(needles: Needles<Owner>, counts: ReadonlyMap<number, number>): { owner: Owner; more: number }[] {
  const listed = limits.placesPerValue.value;
  const all = [...counts].flatMap(([needle, number]) => {
    const { owners, unbroken, anchor } = needles.at(needle) ?? { owners: [] };
    // Most hits of an anchor may be other texts.
    if (unbroken !== undefined || anchor || number <= listed) return [];
    const counted = owners.filter(({ role }) => role !== 'present' && role !== 'setting');
    return counted.map((owner) => ({ owner, more: number - listed }));
  });
  const whole = all.filter((one) => !isPartial(one));
  const most = new Map<Owner, { owner: Owner; more: number }>();
  for (const one of whole.length > 0 ? whole : all)
    if (one.more > (most.get(one.owner)?.more ?? 0)) most.set(one.owner, one);
  return [...most.values()];
}

function subjectOf(
  { variable, stage }: Owner,
  { bundle }: Inspected,
): Pick<RawFinding, 'variable' | 'stage' | 'bundle'> {
  return { variable, ...(stage && { stage }), ...(bundle && { bundle }) };
}
