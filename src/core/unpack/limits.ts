import { limits } from '../limits/index.js';
import { byteSize } from '../text/display.js';

/** Limits of a look into containers. A file that a limit stopped is unread, and so never clean. */
export interface Limits {
  /** Containers inside one another. */
  depth: number;
  /** Members of one file, those of inner containers too. */
  members: number;
  /** Bytes of one member. */
  memberBytes: number;
  /** Bytes of all members of one file. */
  totalBytes: number;
  /** Bytes of a nested container, which must be in memory for random access. */
  innerBytes: number;
  /** Bytes of a source map that is unpacked; a larger one is only searched as text. */
  textBytes: number;
  /** How many times larger than the file all that is in it may be. */
  ratio: number;
  seconds: number;
  /** For one file, without its members. */
  fileSeconds: number;
  /** For the rules on one file or member. */
  checkSeconds: number;
  /** For all files of an inspection. */
  allSeconds: number;
}

export const usualLimits: Limits = {
  depth: limits.containerDepth.value,
  members: limits.members.value,
  memberBytes: limits.memberBytes.value,
  totalBytes: limits.totalBytes.value,
  innerBytes: limits.innerBytes.value,
  textBytes: limits.textBytes.value,
  ratio: limits.expansion.value,
  seconds: limits.unpackSeconds.value,
  fileSeconds: limits.fileSeconds.value,
  checkSeconds: limits.checkSeconds.value,
  allSeconds: limits.inspectSeconds.value,
};

/** Small things may expand as they like. */
const RATIO_FROM = 64 * 2 ** 20;

/** A limit that was met, as a phrase after a name. */
export class LimitReached extends Error {}

/** Stopped by Ctrl-C: what was reported so far stays true. */
export class Interrupted extends LimitReached {
  constructor() {
    super('was not read completely: interrupted');
  }
}

/** Use of the limits by one file and everything embedded in it. */
export class Budget {
  #members = 0;
  #total = 0;
  readonly #until: number;

  /** @param now milliseconds */
  constructor(
    readonly limits: Limits,
    readonly size: number,
    readonly now: () => number,
  ) {
    this.#until = now() + limits.seconds * 1000;
  }

  /** @throws LimitReached */
  member(): void {
    const { members } = this.limits;
    if (++this.#members > members) throw new LimitReached(`has more than ${members} embedded files`);
  }

  /** @param soFar bytes of the member with these @throws LimitReached */
  bytes(count: number, soFar: number): void {
    const { memberBytes, totalBytes, ratio, seconds } = this.limits;
    this.#total += count;
    if (soFar > memberBytes) throw new LimitReached(`is larger than ${byteSize(memberBytes)}`);
    if (this.#total > totalBytes) throw new LimitReached(`contains more than ${byteSize(totalBytes)}`);
    if (this.#total > RATIO_FROM && this.#total > ratio * this.size)
      throw new LimitReached(`expands to more than ${ratio} times its size`);
    if (this.now() > this.#until) throw new LimitReached(`takes longer than ${seconds} seconds to unpack`);
  }
}
