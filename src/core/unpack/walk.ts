import { byteSize } from '../text/display.js';
import {
  type Format,
  HEAD_BYTES,
  isUnreadable,
  type Member,
  type Source,
  type Stored,
  type Unreadable,
} from './format.js';
import { formatOf } from './index.js';
import { type Budget, LimitReached } from './limits.js';

/** What is done with the members of a container, and those of containers in it. */
export interface Visitor<Found> {
  /**
   * Goes through the bytes of a member once.
   * @param inside names from the outermost container's member inwards
   */
  look(inside: readonly string[], chunks: AsyncIterable<Uint8Array>): Promise<Found>;
  /**
   * Called when a member and all that is in it were gone through.
   * @param stored what of its bytes was told as an inner member's
   */
  done(inside: readonly string[], member: Member, found: Found, stored: readonly Stored[]): Promise<void>;
  /** @param because a phrase behind the name */
  unread(inside: readonly string[], because: string): void;
}

/**
 * Goes through all members of a container, containers in it included. Nothing is written anywhere, and nothing is thrown for what
 * is damaged: what could not be read is told.
 * @param name of the container
 * @param inside where it stands itself
 * @returns what of its bytes is a member's that was read to its end; undefined where it is no container
 */
export async function walkContainer<Found>(
  source: Source,
  name: string,
  inside: readonly string[],
  budget: Budget,
  visitor: Visitor<Found>,
): Promise<Stored[] | undefined> {
  const format = formatOf(source.read(0, HEAD_BYTES), name);
  return (
    format && walkMembers(format.members(source, name), `a damaged ${format.name} container`, inside, budget, visitor)
  );
}

/**
 * The same for members that somebody else found.
 * @param damaged what it is where they end early
 */
export async function walkMembers<Found>(
  members: AsyncIterable<Member | Unreadable> | Iterable<Member | Unreadable>,
  damaged: string,
  inside: readonly string[],
  budget: Budget,
  visitor: Visitor<Found>,
): Promise<Stored[]> {
  const stored: Stored[] = [];
  if (inside.length >= budget.limits.depth) {
    visitor.unread(inside, `is ${inside.length + 1} containers deep`);
    return stored;
  }
  try {
    for await (const member of members) {
      const path = member.name === '' ? [...inside] : [...inside, member.name];
      if (isUnreadable(member)) visitor.unread(path, member.because);
      else if ((await visit(member, path, budget, visitor)) && member.stored) stored.push(member.stored);
    }
  } catch (error) {
    visitor.unread(inside, error instanceof LimitReached ? error.message : `is ${damaged}`);
    // What stops one member stops all that follows.
    if (error instanceof LimitReached && inside.length > 0) throw error;
  }
  return stored;
}

/** @returns whether all of it was read @throws LimitReached */
async function visit<Found>(
  member: Member,
  path: readonly string[],
  budget: Budget,
  visitor: Visitor<Found>,
): Promise<boolean> {
  budget.member();
  const tap = new Tap(member, path, budget);
  let found: Found;
  try {
    found = await visitor.look(path, tap.chunks());
  } catch (error) {
    if (error instanceof LimitReached) throw error;
    visitor.unread(path, 'is damaged');
    return false;
  }
  const inner = tap.inner();
  let stored: Stored[] | undefined;
  if (inner === 'too large')
    visitor.unread(path, `is a container larger than ${byteSize(budget.limits.innerBytes)} in another one`);
  else if (inner) stored = await walkContainer(inner, path.at(-1) ?? '', path, budget, visitor);
  await visitor.done(path, member, found, stored ?? []);
  return true;
}

/** Hands a member's bytes on, counts them, and keeps those of a container. */
class Tap {
  #head = Buffer.alloc(0);
  #kept: Buffer[] | undefined;
  #size = 0;

  constructor(
    readonly member: Member,
    readonly path: readonly string[],
    readonly budget: Budget,
  ) {}

  async *chunks(): AsyncIterable<Uint8Array> {
    for await (const chunk of this.member.chunks()) {
      this.#size += chunk.length;
      this.budget.bytes(chunk.length, this.#size);
      this.#keep(chunk);
      yield chunk;
    }
    if (this.#kept === undefined && this.#isKept()) this.#kept = [this.#head];
  }

  /** The member as a container; undefined where it is none. */
  inner(): Source | 'too large' | undefined {
    const format = this.#format();
    if (!format) return undefined;
    if (format.streams) return streamedSource(this.member, this.#head, this.#size);
    if (this.#size > this.budget.limits.innerBytes) return 'too large';
    return memorySource(Buffer.concat(this.#kept ?? []));
  }

  #format(): Format | undefined {
    return formatOf(this.#head, this.path.at(-1) ?? '');
  }

  #isKept(): boolean {
    const format = this.#format();
    return format !== undefined && !format.streams;
  }

  /** The first bytes tell whether the rest has to be kept. */
  #keep(chunk: Uint8Array): void {
    if (this.#kept) {
      if (this.#size <= this.budget.limits.innerBytes) this.#kept.push(Buffer.from(chunk));
      else this.#kept = [];
    } else if (this.#head.length < HEAD_BYTES) {
      this.#head = Buffer.concat([this.#head, chunk]);
      if (this.#head.length >= HEAD_BYTES && this.#isKept()) this.#kept = [this.#head];
      else if (this.#head.length >= HEAD_BYTES) this.#head = this.#head.subarray(0, HEAD_BYTES);
    }
  }
}

/** A member that can be read from its beginning alone. */
function streamedSource(member: Member, head: Uint8Array, size: number): Source {
  return {
    size,
    read: (offset, length) => head.subarray(offset, offset + length),
    chunks: () => member.chunks(),
  };
}

/** Bytes in memory. */
export function memorySource(bytes: Uint8Array): Source {
  return {
    size: bytes.length,
    read: (offset, length) => bytes.subarray(offset, offset + length),
    chunks: () => [bytes],
  };
}
