import { describeSource } from '../resolve/layer.js';
import { isUnknown, type Unset } from './environment.js';
import { fingerprint, type HeldPlace, type Receipt, rebuildCommand } from './receipt.js';
import { type GivenValue, servesBoth } from './serves-both.js';

/** A value that a build inlined, compared with the stage as it is now. */
export interface BuiltValue {
  variable: string;
  /** `withdrawn`: a build would no longer get the variable. `unknown`: its build's environment had it, and this one does not. */
  relation: 'same' | 'changed' | 'withdrawn' | 'unknown';
  /** Where the current value is. */
  current?: string;
  /** True if its places may be shown: the variable may have become secret since the build. */
  isPublic: boolean;
  /** True if the build alone should have had it, and inlined it. */
  isBuildValue: boolean;
  /** Where the output contained it right after the build. */
  places: HeldPlace[];
  modules: string[];
}

/** A receipt compared with the current values of a stage: plain data, without fingerprints of values. */
export interface BuildFacts {
  bundle: string;
  /** The stage that was built. */
  stage: string;
  /** ISO 8601, UTC. */
  builtAt: string;
  /** The receipt's path. */
  receipt: string;
  /** The command that builds the bundle for the stage of the comparison, as words. */
  rebuild: string[];
  /** The files of the output after the build. Untouched ones existed before the build, which did not write them. */
  files: { name: string; sha256: string; isUntouched?: true }[];
  values: BuiltValue[];
  /** Public variables that a build gets now and did not get then. */
  added: string[];
  /** True if the build is right for the stage of the comparison, although it was made for another one. */
  servesStage: boolean;
  /** True if the values cannot be compared, because the key of their fingerprints is on another machine; then `values` is empty. */
  isOfOtherKey?: true;
}

/** Compares a receipt with what a build of a stage would be given now. */
export function buildFacts(
  stage: string,
  receipt: Receipt,
  about: {
    /** The receipt's path, as reports show it. */
    path: string;
    /** The key of its fingerprints; absent if it is of another machine. */
    key: Uint8Array | undefined;
    given: ReadonlyMap<string, GivenValue>;
    /** Variables that the environment may give a build, and does not give here. */
    unset: Unset;
    /** The command that the contract has for the bundle. */
    build?: readonly string[] | undefined;
    /** True if builds of the two stages differ in nothing but values. */
    buildsAlike: boolean;
  },
): BuildFacts {
  const { bundle, stage: builtFor, builtAt, values } = receipt.predicate;
  const { given, key } = about;
  const untouched = new Set(receipt.predicate.untouched);
  const known = new Set(values.map(({ name }) => name));
  const added = [...given.values()].flatMap(({ variable: { name, reach, delivery } }) =>
    reach === 'public' && delivery !== 'runtime' && !known.has(name) ? [name] : [],
  );
  return {
    bundle,
    stage: builtFor,
    builtAt,
    receipt: about.path,
    rebuild: rebuildCommand(stage, receipt, about.build),
    files: receipt.subject.map(({ name, digest }) => ({
      ...{ name, sha256: digest.sha256 },
      ...(untouched.has(name) && { isUntouched: true as const }),
    })),
    values: (key ? values : []).flatMap((value): BuiltValue[] => {
      const now = given.get(value.name);
      // Most build values are in no artifact, and a running server reads its own: see changes.ts.
      const isInlined = value.reach === 'public' || value.places.length > 0;
      const isReadAtStart = value.isReadAtStart === true && value.places.length === 0;
      if (!isInlined || isReadAtStart || now?.variable.delivery === 'runtime') return [];
      const isSame = now && key && fingerprint(key, value.name, now.value) === value.fingerprint;
      return [
        {
          variable: value.name,
          relation: now ? (isSame ? 'same' : 'changed') : isUnknown(value, about.unset) ? 'unknown' : 'withdrawn',
          ...(now?.from?.path !== undefined && { current: describeSource(now.from) }),
          isPublic: now?.variable.reach === 'public',
          isBuildValue: value.reach === 'build',
          places: value.places,
          modules: value.modules ?? [],
        },
      ];
    }),
    added,
    servesStage:
      builtFor === stage || (key !== undefined && servesBoth({ receipt, given, key, buildsAlike: about.buildsAlike })),
    ...(!key && { isOfOtherKey: true }),
  };
}
