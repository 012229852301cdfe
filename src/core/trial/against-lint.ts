import { finding, type RawFinding } from '../findings/finding.js';
import type { KeptTrial } from './kept.js';

/** Findings of lint that say a browser gets no value at a place. */
const saysAbsent = /^code\/(unreachable-read|unset|unknown-name)$/;

/**
 * Findings of lint with what trial builds show: a read whose value arrived from that very line is not undefined, and what arrives or
 * is absent against the contract is added.
 */
export function againstTrials(findings: readonly RawFinding[], trials: readonly KeptTrial[]): RawFinding[] {
  const refuted = new Map(findings.map((one) => [one, refutation(one, trials)]));
  const own = trials.flatMap((trial) =>
    trial.findings.filter(({ code, variable }) =>
      code === 'trial/absent'
        ? !findings.some((one) => saysAbsent.test(one.code) && one.variable === variable)
        : code !== 'trial/unused' && code !== 'trial/asked',
    ),
  );
  return [...findings.map((one) => refuted.get(one) ?? one), ...own];
}

/** The note in the place of a finding that a trial proves wrong. */
function refutation(said: RawFinding, trials: readonly KeptTrial[]): RawFinding | undefined {
  const { place, bundle } = said;
  if (!saysAbsent.test(said.code) || place?.line === undefined) return undefined;
  const source = `${place.path}:${place.line}`;
  const named = [said.variable, said.facts.name].filter((one) => typeof one === 'string');
  for (const trial of trials) {
    if (bundle !== undefined && trial.bundle !== bundle) continue;
    const rows = trial.rows.filter(({ name, variable }) => named.some((one) => one === name || one === variable));
    // Two names may be in one line, and only one of them arrived.
    const arrival = rows
      .flatMap(({ arrivesIn }) => arrivesIn)
      .find((one) => one.source === source && one.audience === 'browser');
    if (arrival) return refuted(said, trial, arrival.path);
  }
  return undefined;
}

function refuted({ variable, place }: RawFinding, trial: KeptTrial, path: string): RawFinding {
  const { stage, bundle } = trial;
  const about = { name: variable ?? '', path, stage };
  return finding('trial/refutes', 'read', about, {
    bundle,
    stage,
    ...(variable && { variable }),
    ...(place && { place }),
  });
}
