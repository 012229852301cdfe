import type { Contract } from '../../contract/contract.js';
import type { PastValue } from '../../history/history.js';
import { type Owner, wholeNeedles } from '../../inspect/plan.js';
import { pastToSeek, type RecordedValues, recordedHits } from '../../inspect/recorded.js';
import type { WholeNeedle } from '../../needles/index.js';
import type { Resolution } from '../../resolve/resolve.js';
import { findAll, type Matcher } from '../../search/matcher.js';
import { matcherFor } from '../../search/matcher-for.js';

/** Searches bytes for whole secrets: those of the stages, and those that the history alone has. */
export class WholeValues {
  readonly #needles: readonly WholeNeedle<Owner>[];
  readonly #recorded: RecordedValues | undefined;
  readonly #matcher: Matcher | undefined;

  /** @param past recorded values; public ones and values in use are not searched for */
  constructor(contract: Contract, stages: readonly Resolution[], past: readonly PastValue[]) {
    this.#needles = wholeNeedles(contract, stages);
    const secrets = past.filter(
      ({ variable, reach, entry }) => entry.windows && (contract.variables.get(variable)?.reach ?? reach) !== 'public',
    );
    this.#recorded = pastToSeek(contract, secrets, new Set()).recorded;
    if (this.isEmpty) return;
    const bytes = this.#needles.map((one) => one.bytes);
    this.#matcher = matcherFor(bytes, undefined, undefined, undefined, this.#recorded?.search.windows);
  }

  get isEmpty(): boolean {
    return this.#needles.length === 0 && !this.#recorded;
  }

  /** All occurrences, by their offset in bytes. */
  in(content: Uint8Array): { owner: Owner; start: number }[] {
    const hits = this.#matcher ? findAll(this.#matcher, content) : [];
    const present = hits.flatMap(({ needle, start }) =>
      (this.#needles[needle]?.owners ?? []).map((owner) => ({ owner, start })),
    );
    if (!this.#recorded) return present;
    // The number after the last needle is that of runs.
    const first = this.#needles.length + 1;
    const past = recordedHits(this.#recorded, hits, first, (from, to) => content.subarray(from, to));
    return [...present, ...past.filter(({ owner }) => !owner.part)].sort((a, b) => a.start - b.start);
  }
}
