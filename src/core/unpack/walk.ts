import { byteSize } from '../text/display.js';
import { around, dataUris, inOrder } from './data-uri.js';
import { WHOLE_INFLATED } from './decompress.js';
import {
  type ByteSource,
  type Format,
  type Glimpse,
  glimpseOf,
  glimpseOfHead,
  HEAD_BYTES,
  isUnreadable,
  type Member,
  memorySource,
  SAMPLE_BYTES,
  type Stored,
  TAIL_BYTES,
  type Unreadable,
  wholeOf,
} from './format.js';
import { formatOf } from './index.js';
import { type Budget, LimitReached } from './limits.js';

/** Result of a scan that decides about unpacking the bytes. */
export interface Interest {
  /** True if nothing was found but data: URIs. Formats whose text holds their content are then not unpacked. */
  isEmpty: boolean;
  /** Offsets at which the content of data: URIs starts. */
  dataUris: readonly number[];
}

/** Callbacks for the members of a container, and of containers in it. */
export interface Visitor<Seen extends Interest> {
  /**
   * Goes through the bytes of a member once, as far as they can be read.
   * @param inside names from the outermost container's member inwards
   */
  scan(inside: readonly string[], chunks: AsyncIterable<Uint8Array>): Promise<Seen>;
  /**
   * Called when a member and all that is in it were gone through.
   * @param stored which of its bytes were read as an inner member
   */
  done(inside: readonly string[], member: Member, found: Seen, stored: readonly Stored[]): Promise<void>;
  /** @param because a phrase after the name */
  unread(inside: readonly string[], because: string): void;
}

/**
 * Goes through all that is in some bytes: the members of a container, the texts of a source map, data: URIs; and all that is in those.
 * Writes nothing to disk. Damaged content does not throw: it is reported after what could be read.
 * @param name of the container
 * @param inside its own place
 * @param interest what a look at the bytes gave
 * @returns which of its bytes belong to a member that was read completely
 */
export async function walkInside<Seen extends Interest>(
  source: ByteSource,
  name: string,
  inside: readonly string[],
  interest: Interest,
  budget: Budget,
  visitor: Visitor<Seen>,
): Promise<Stored[]> {
  const format = formatOf(source.glimpse ?? glimpseOf(source), name);
  const starts = format && !format.isText ? [] : interest.dataUris;
  if (!format && starts.length === 0) return [];
  const { innerBytes, textBytes, depth } = budget.limits;
  const uris = () => dataUris(source.isStream ? inOrder(source.chunks()) : around(source, starts), starts, innerBytes);
  const isText = !format || (format.isText && source.size > textBytes);
  const stored: Stored[] = [];
  try {
    const isFree = format?.isText && interest.isEmpty && !isText && !(await holdsMore(uris(), inside, visitor));
    if (isFree) return [];
    const members = isText ? uris() : format.members(source, name);
    for await (const member of members) {
      if (inside.length >= depth) {
        visitor.unread(inside, `is nested ${inside.length + 1} containers deep`);
        return [];
      }
      const path = member.name === '' ? [...inside] : [...inside, member.name];
      if (isUnreadable(member)) visitor.unread(path, member.because);
      else if ((await visit(member, path, budget, visitor)) && member.stored) stored.push(member.stored);
    }
  } catch (error) {
    const damaged = format ? `is a damaged ${format.name} file` : 'is damaged';
    visitor.unread(inside, error instanceof LimitReached ? error.message : damaged);
    // A limit that stops one member stops all that follow.
    if (error instanceof LimitReached && inside.length > 0) throw error;
  }
  return stored;
}

/** Tells whether one of the members has something in it. */
async function holdsMore<Seen extends Interest>(
  members: AsyncIterable<Member | Unreadable>,
  inside: readonly string[],
  visitor: Visitor<Seen>,
): Promise<boolean> {
  for await (const member of members) {
    if (isUnreadable(member)) return true;
    let head: Uint8Array = new Uint8Array(0);
    const chunks = async function* () {
      for await (const chunk of member.chunks()) {
        if (head.length === 0) head = chunk.slice(0, HEAD_BYTES);
        yield chunk;
      }
    };
    const { isEmpty, dataUris: starts } = await visitor.scan([...inside, member.name], chunks());
    if (!isEmpty || starts.length > 0 || formatOf(glimpseOfHead(head), member.name)) return true;
  }
  return false;
}

/** @returns whether all of it was read @throws LimitReached */
async function visit<Seen extends Interest>(
  given: Member,
  path: readonly string[],
  budget: Budget,
  visitor: Visitor<Seen>,
): Promise<boolean> {
  budget.member();
  const member = remembered(given);
  const tap = new Tap(member, path, budget);
  const found = await visitor.scan(path, tap.chunks());
  if (tap.stopped) {
    await visitor.done(path, member, found, []);
    if (tap.stopped instanceof LimitReached) throw tap.stopped;
    visitor.unread(path, 'is damaged');
    return false;
  }
  const inner = await tap.inner(found);
  const name = path.at(-1) ?? '';
  if (inner === 'too large')
    visitor.unread(path, `is a nested container larger than ${byteSize(budget.limits.innerBytes)}`);
  const stored = typeof inner === 'object' ? await walkInside(inner, name, path, found, budget, visitor) : [];
  await visitor.done(path, member, found, stored);
  return true;
}

/** Maximum size of a member whose bytes are kept for later reads. Smaller members are inflated into memory anyway. */
const REMEMBERED = WHOLE_INFLATED;

function remembered(member: Member): Member {
  let kept: Uint8Array[] | undefined;
  return {
    ...member,
    async *chunks() {
      if (kept) {
        yield* kept;
        return;
      }
      const pieces: Uint8Array[] = [];
      let size = 0;
      for await (const chunk of member.chunks()) {
        size += chunk.length;
        if (size <= REMEMBERED) pieces.push(chunk);
        yield chunk;
      }
      if (size <= REMEMBERED) kept = pieces;
    },
  };
}

/** Hands a member's bytes on, counts them, and keeps those of a container. */
class Tap {
  /** Why the bytes ended before their end. */
  stopped: unknown;
  /** The first {@link HEAD_BYTES}. */
  #head: Uint8Array = new Uint8Array(0);
  /** The chunks of the head, until it tells whether all are kept. */
  #first: Uint8Array[] = [];
  #kept: Uint8Array[] | undefined;
  #size = 0;
  #tail: Uint8Array[] = [];
  #tailSize = 0;

  constructor(
    readonly member: Member,
    readonly path: readonly string[],
    readonly budget: Budget,
  ) {}

  async *chunks(): AsyncIterable<Uint8Array> {
    try {
      for await (const chunk of this.member.chunks()) {
        this.#size += chunk.length;
        this.budget.bytes(chunk.length, this.#size);
        this.#keep(chunk);
        this.#keepTail(chunk);
        yield chunk;
      }
    } catch (error) {
      this.stopped = error;
    }
    if (this.#kept === undefined && this.#first.length > 0 && this.#isKept()) this.#kept = this.#first;
  }

  /** The member as something that others are in; undefined if nothing is. */
  async inner({ isEmpty, dataUris: starts }: Interest): Promise<ByteSource | 'too large' | undefined> {
    const glimpse = this.#glimpse();
    const format = formatOf(glimpse, this.path.at(-1) ?? '');
    const { innerBytes, textBytes } = this.budget.limits;
    if (format && !format.isText && !format.streams) {
      if (this.#size > innerBytes) return 'too large';
      // A container that is recognised by its end was not kept.
      return memorySource(this.#kept ? Buffer.concat(this.#kept) : await wholeOf(this.member.chunks()));
    }
    if (starts.length === 0 && (!format || (format.isText && isEmpty))) return undefined;
    if (!format?.isText || this.#size > textBytes) return streamedSource(this.member, glimpse);
    return memorySource(await wholeOf(this.member.chunks()));
  }

  #format(): Format | undefined {
    return formatOf(glimpseOfHead(this.#head), this.path.at(-1) ?? '');
  }

  /** The glimpse of the whole member, known after its last chunk. */
  #glimpse(): Glimpse {
    const [only, ...more] = this.#tail;
    const tail = only && more.length === 0 ? only : Buffer.concat(this.#tail);
    const end = tail.subarray(Math.max(0, tail.length - TAIL_BYTES));
    const head = this.#head;
    return {
      head,
      tail: end,
      samples: this.#size <= end.length ? [end] : [head, end.subarray(-SAMPLE_BYTES)],
      size: this.#size,
    };
  }

  /** The last chunks, as many as hold the end that tells a format. */
  #keepTail(chunk: Uint8Array): void {
    this.#tail.push(chunk);
    this.#tailSize += chunk.length;
    while (this.#tail.length > 1 && this.#tailSize - (this.#tail[0] as Uint8Array).length >= TAIL_BYTES)
      this.#tailSize -= (this.#tail.shift() as Uint8Array).length;
  }

  /** A text is read again when it is opened, because most are not. */
  #isKept(): boolean {
    const format = this.#format();
    return format !== undefined && !format.streams && !format.isText;
  }

  /** The first bytes decide whether to keep the rest. */
  #keep(chunk: Uint8Array): void {
    if (this.#kept) {
      if (this.#size <= this.budget.limits.innerBytes) this.#kept.push(chunk);
      else this.#kept = [];
    } else if (this.#head.length < HEAD_BYTES) {
      this.#first.push(chunk);
      const rest = chunk.subarray(0, HEAD_BYTES - this.#head.length);
      this.#head = this.#head.length === 0 ? rest : Buffer.concat([this.#head, rest]);
      if (this.#head.length < HEAD_BYTES) return;
      if (this.#isKept()) this.#kept = this.#first;
      this.#first = [];
    }
  }
}

/** A member that can be read from its beginning alone. */
function streamedSource(member: Member, glimpse: Glimpse): ByteSource {
  return {
    size: glimpse.size,
    isStream: true,
    glimpse,
    read: (offset, length) => glimpse.head.subarray(offset, offset + length),
    chunks: () => member.chunks(),
  };
}
