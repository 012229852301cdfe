import type { Code } from '../findings/codes.js';
import type { RawFinding } from '../findings/finding.js';

const onceForAll: ReadonlySet<Code> = new Set(['leak/setting', 'leak/name', 'leak/build-machine']);

/** A setting is ordinary text that may have many origins: one finding for each, with the number of its files. */
export function settingsOnce(findings: readonly RawFinding[]): RawFinding[] {
  const isSetting = ({ code }: RawFinding) => onceForAll.has(code);
  const byName = new Map<string, RawFinding[]>();
  for (const one of findings.filter(isSetting)) {
    const key = JSON.stringify([one.code, one.variable, one.bundle]);
    byName.set(key, [...(byName.get(key) ?? []), one]);
  }
  const settings = [...byName.values()].map(([first, ...others]) => {
    const one = first as RawFinding;
    return others.length === 0 ? one : { ...one, facts: { ...one.facts, files: others.length + 1 } };
  });
  return [...findings.filter((one) => !isSetting(one)), ...settings];
}
