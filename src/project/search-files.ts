import { basename } from 'node:path';
import type { Origin, Place } from '../core/findings/finding.js';
import { placeBetween } from '../core/findings/place.js';
import { isPiece, type ValueHit, valueHits, valuesIn, wholeForms } from '../core/inspect/hits.js';
import { Masker } from '../core/inspect/masked-text.js';
import type { Owner, SearchPlan } from '../core/inspect/plan.js';
import type { LocatedHit } from '../core/inspect/rules.js';
import { limits } from '../core/limits/index.js';
import type { Needle } from '../core/needles/index.js';
import { Capture } from '../core/search/capture.js';
import { emptyLook, type FirstLook, feedLook, recorder, settled } from '../core/search/first-look.js';
import { Locator } from '../core/search/locate.js';
import type { Matcher, OnHit } from '../core/search/matcher.js';
import { matcherFor } from '../core/search/matcher-for.js';
import { byteSize } from '../core/text/display.js';
import type { Excerpt } from '../core/text/frame.js';
import { excerptOf } from '../core/text/frame.js';
import type { Position } from '../core/text/positions.js';
import { dataUriMarks } from '../core/unpack/data-uri.js';
import { type Member, type Stored, wholeOf } from '../core/unpack/format.js';
import { Budget, Interrupted, type Limits, usualLimits } from '../core/unpack/limits.js';
import { type Visitor, walkInside } from '../core/unpack/walk.js';
import { FileSource, readRange, streamFile } from '../host/files.js';
import type { LookAhead, Wanted } from '../host/look-ahead.js';
import type { ShownPaths } from './shown-paths.js';
import { sourcePath, Tracer } from './trace.js';

const EXCERPT_BYTES = 60;

/** What a search of one file, or of one member of a container, gave. */
export interface FileHits {
  /** From the container's member inwards; empty for the file itself. */
  inside: readonly string[];
  bytes: number;
  /** What must not be there, with its place in lines and columns. */
  hits: LocatedHit[];
  /** Public values of the stage, which may be there: only their offsets are worth the time. */
  present: ValueHit[];
  /** Occurrences of a value beyond the first {@link limits.placesPerValue.value}. */
  more: { owner: Owner; count: number }[];
}

/** A file with all that is in it. */
export interface DeepHits {
  /** The file first, then its members. */
  all: FileHits[];
  unread: { inside: readonly string[]; because: string }[];
}

/** Bytes that were looked at, for a closer look at some places of them. */
interface Inspected {
  path: string;
  inside: readonly string[];
  read(from: number, to: number): Uint8Array;
  positions(offsets: readonly number[]): Position[];
  /** Of a text in a source map: the path of the file that it was, as reports have it. */
  source?: string;
}

/** What a matcher of a plan looks for: its needles, behind them the marks of data: URIs, and then the fragments. */
export function wantedBy({ needles, fragments }: SearchPlan): Wanted {
  const all = [...needles.map(({ bytes }) => bytes), ...dataUriMarks, ...fragments];
  return { needles: all, kinds: { needles: needles.length, marks: dataUriMarks.length }, matcher: matcherFor(all) };
}

/** What is kept of a member that cannot be read to its end is what came until then. */
async function fill(capture: Capture, member: Member): Promise<void> {
  if (capture.isFull) return;
  try {
    for await (const chunk of member.chunks()) {
      capture.feed(chunk);
      if (capture.isFull) return;
    }
  } catch {
    // The walk has told it.
  }
}

/** A place in a text that a source map carries is one in its source. */
function originIn(source: string | undefined, { line, column }: Place): { origin?: Origin; excerpt?: Excerpt } {
  return source !== undefined && line !== undefined && column !== undefined
    ? { origin: { path: source, line, column } }
    : {};
}

function nothingIn({ bytes }: FirstLook): FileHits {
  return { inside: [], bytes, hits: [], present: [], more: [] };
}

/** Told why a closer look at something failed: what was found until then stays. */
type OnFailed = (because: string) => void;

const notJoined = 'values that it joins from pieces were not searched for';

/** What of it was read may be of neither version. */
const changed = { inside: [], because: 'was written to while it was read' };

/** Searches files for the needles of a plan, in memory that does not grow with them. */
export class FileSearcher {
  readonly #matcher: Matcher;
  readonly #masker: Masker;
  readonly #buffer = new Uint8Array(256 * 1024);

  /** @param wanted of {@link wantedBy} @param isStopped asked after each piece of so many bytes @param ahead of the same files */
  constructor(
    readonly plan: SearchPlan,
    readonly paths: ShownPaths,
    readonly wanted = wantedBy(plan),
    readonly isStopped: (bytes: number) => Promise<boolean> = async () => false,
    readonly ahead?: LookAhead,
    readonly limits: Limits = usualLimits,
  ) {
    this.#matcher = wanted.matcher;
    this.#masker = new Masker(plan.masked);
  }

  /** The file's own bytes alone. @throws the file system's error where the file cannot be read */
  async search(path: string): Promise<FileHits> {
    const source = new FileSource(path);
    try {
      return this.#closer(this.#file(path), await this.#lookAt(source), [], () => undefined);
    } finally {
      source.close();
    }
  }

  /**
   * The file, and where it is a container all that is in it.
   * @throws the file system's error where it cannot be read, Interrupted where the work is to stop
   */
  async searchDeep(path: string): Promise<DeepHits> {
    const ahead = await this.ahead?.take(path, this.isStopped);
    if (await this.isStopped(0)) throw new Interrupted();
    if (ahead?.look.isDull && ahead.look.marks.length === 0 && !ahead.isContainer)
      return { all: [nothingIn(ahead.look)], unread: [] };
    const source = new FileSource(path);
    try {
      const isSame = ahead?.written === source.written && ahead.look.bytes === source.size;
      if (isSame) return await this.#inside(path, source, ahead.look);
      // A file without blocks is a hole: it contains only zeros.
      if (source.isHole) return { all: [nothingIn({ ...emptyLook(), bytes: source.size })], unread: [] };
      const look = await this.#lookAt(source);
      const { fileSeconds } = this.limits;
      return look.bytes < source.size && !source.hasChanged
        ? this.#stopped(path, look, `takes longer than ${fileSeconds} seconds to read`)
        : await this.#inside(path, source, look);
    } finally {
      source.close();
    }
  }

  /** What was found until a limit stopped the look at a file. */
  #stopped(path: string, look: FirstLook, because: string): DeepHits {
    const unread: DeepHits['unread'] = [{ inside: [], because }];
    const failed: OnFailed = (why) => void unread.push({ inside: [], because: why });
    return { all: [this.#closer(this.#file(path), look, [], failed)], unread };
  }

  async #inside(path: string, source: FileSource, look: FirstLook): Promise<DeepHits> {
    const unread: DeepHits['unread'] = [];
    const members: FileHits[] = [];
    const budget = new Budget(this.limits, source.size, Date.now);
    const visitor: Visitor<FirstLook> = {
      look: (_, chunks) => this.#lookInside(chunks),
      done: async (inside, member, found, inner) => {
        const failed: OnFailed = (because) => void unread.push({ inside, because });
        members.push(await this.#member(path, inside, member, found, inner, failed));
      },
      unread: (inside, because) => void unread.push({ inside, because }),
    };
    const stored = await walkInside(source, basename(path), [], look, budget, visitor);
    if (source.hasChanged) unread.push(changed);
    const file = this.#file(path);
    const failed: OnFailed = (because) => void unread.push({ inside: [], because });
    const own = this.#closer(file, look, stored, failed);
    own.hits.push(...(await this.#joined(basename(path), file, look, own.hits, () => source.chunks(), failed)));
    return { all: [own, ...members], unread };
  }

  /** The place of a stretch of a file, and how it looks. */
  place(path: string, offset: number, length: number): { place: Place; excerpt?: Excerpt } {
    const file = this.#file(path);
    const [start, end] = file.positions([offset, offset + length]);
    const where = { path: this.paths.of(path) };
    if (!start || !end) return { place: { ...where, inside: [] } };
    const excerpt = this.#excerpt(file, start.line, offset, offset + length);
    return { place: placeBetween(where, start, end), ...(excerpt && { excerpt }) };
  }

  /** Straight into the matcher's memory. */
  async #lookAt(source: FileSource): Promise<FirstLook> {
    const look = emptyLook();
    const record = recorder(look, this.wanted.kinds);
    const { window } = this.#matcher;
    const until = Date.now() + this.limits.fileSeconds * 1000;
    this.#matcher.start();
    for (;;) {
      const length = source.readInto(window, look.bytes);
      if (length === 0 || Date.now() > until) return settled(look);
      if (await this.isStopped(length)) throw new Interrupted();
      this.#feed(length, look, record);
    }
  }

  async #lookInside(chunks: AsyncIterable<Uint8Array>): Promise<FirstLook> {
    const look = emptyLook();
    const record = recorder(look, this.wanted.kinds);
    const { window } = this.#matcher;
    this.#matcher.start();
    for await (const chunk of chunks) {
      if (await this.isStopped(chunk.length)) throw new Interrupted();
      for (let at = 0; at < chunk.length; at += window.length) {
        const piece = chunk.subarray(at, at + window.length);
        window.set(piece);
        this.#feed(piece.length, look, record);
      }
    }
    return settled(look);
  }

  #feed(length: number, look: FirstLook, record: OnHit): void {
    feedLook(look, this.#matcher, length, look.bytes, record);
    look.bytes += length;
  }

  /** @param stored what of the bytes is told as an inner member's */
  #closer(
    inspected: Inspected,
    { hits, perNeedle, bytes }: FirstLook,
    stored: readonly Stored[],
    failed: OnFailed,
  ): FileHits {
    const { needles } = this.plan;
    const own = hits.filter(
      ({ start, end }) => !stored.some(({ offset, length }) => offset <= start && end <= offset + length),
    );
    const found = valueHits(
      wholeForms(own, needles, (from, to) => inspected.read(from, to)),
      needles,
    );
    const isPresent = ({ owner }: ValueHit) => owner.role === 'present';
    return {
      inside: inspected.inside,
      bytes,
      hits: this.#located(
        inspected,
        found.filter((hit) => !isPresent(hit)),
        failed,
      ),
      present: found.filter(isPresent),
      more: stored.length > 0 ? [] : this.#more(perNeedle),
    };
  }

  #file(path: string): Inspected {
    return {
      path,
      inside: [],
      read: (from, to) => readRange(path, from, to),
      positions: (offsets) => {
        const locator = new Locator(offsets);
        streamFile(path, this.#buffer, (chunk) => {
          locator.feed(chunk);
          return locator.done;
        });
        return locator.positions;
      },
    };
  }

  /** Whole secrets in a text, each once. */
  #secretsIn(text: string): ValueHit[] {
    const found = valuesIn(this.#matcher, this.plan.needles, Buffer.from(text));
    const secrets = found.filter(({ owner }) => owner.role === 'secret' && !owner.part);
    return [...new Map(secrets.map((hit) => [hit.owner, hit])).values()];
  }

  /** A member with hits is gone through once more, to keep what stands around them. */
  async #member(
    path: string,
    inside: readonly string[],
    member: Member,
    look: FirstLook,
    stored: readonly Stored[],
    failed: OnFailed,
  ): Promise<FileHits> {
    const reach = EXCERPT_BYTES + this.#masker.margin;
    const windows = look.hits.map(({ needle, start, end }) => {
      const around = Math.max(reach, 2 * (this.plan.needles[needle]?.unbroken?.length ?? 0));
      return { from: start - around, to: end + around };
    });
    const capture = new Capture(windows);
    await fill(capture, member);
    const source = member.address === undefined ? undefined : this.#sourceOf(path, inside, member.address);
    const inspected: Inspected = {
      path,
      inside,
      read: (from, to) => capture.read(from, to),
      positions: (offsets) => offsets.map((offset) => capture.position(offset)),
      ...(source !== undefined && { source }),
    };
    const found = this.#closer(inspected, look, stored, failed);
    const joined = await this.#joined(inside.at(-1) ?? '', inspected, look, found.hits, () => member.chunks(), failed);
    found.hits.push(...joined);
    return found;
  }

  /** Of a map that is a file, or in one, the path of a source; one that is in an archive was made who knows where. */
  #sourceOf(path: string, inside: readonly string[], address: string): string | undefined {
    const isOwn = inside.slice(0, -1).every((name) => name.startsWith('data:'));
    return isOwn ? sourcePath(address, path, this.paths) : undefined;
  }

  /** What a script puts together, where a fragment of a secret is in it. */
  async #joined(
    name: string,
    { path, inside, source }: Inspected,
    { hasFragment, bytes }: FirstLook,
    known: readonly LocatedHit[],
    chunks: () => AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
    failed: OnFailed,
  ): Promise<LocatedHit[]> {
    if (!hasFragment) return [];
    // The parser is loaded where the first fragment is met.
    const { joinedSecrets, mayHaveScripts } = await import('./joined.js');
    if (!mayHaveScripts(name)) return [];
    if (bytes > limits.scriptBytes.value) {
      failed(`has a piece of a secret and is larger than ${byteSize(limits.scriptBytes.value)}: ${notJoined}`);
      return [];
    }
    try {
      const text = (await wholeOf(chunks())).toString();
      const where = { path: this.paths.of(path), inside: this.paths.inside(inside) };
      const hits = joinedSecrets(text, name, where, known, (folded) => this.#secretsIn(folded));
      return hits.map((hit) => ({ ...hit, ...originIn(source, hit.place) }));
    } catch {
      failed(`has a piece of a secret and could not be parsed: ${notJoined}`);
      return [];
    }
  }

  #more(perNeedle: ReadonlyMap<number, number>): FileHits['more'] {
    // Of a value, the forms and pieces of it that overlap are one occurrence.
    const all = [...perNeedle].flatMap(([needle, number]) => {
      const { owners, unbroken } = this.plan.needles[needle] as Needle<Owner>;
      if (unbroken !== undefined) return [];
      const told = owners.filter(({ role }) => role !== 'present' && number > limits.placesPerValue.value);
      return told.map((owner) => ({ owner, count: number - limits.placesPerValue.value }));
    });
    const whole = all.filter((one) => !isPiece(one));
    const most = new Map<Owner, { owner: Owner; count: number }>();
    for (const { owner, count } of whole.length > 0 ? whole : all)
      if (count > (most.get(owner)?.count ?? 0)) most.set(owner, { owner, count });
    return [...most.values()];
  }

  #located(inspected: Inspected, hits: readonly ValueHit[], failed: OnFailed): LocatedHit[] {
    if (hits.length === 0) return [];
    const { path, inside, source } = inspected;
    const offsets = [...new Set(hits.flatMap(({ start, end }) => [start, end]))].sort((a, b) => a - b);
    const found = inspected.positions(offsets);
    const positions = new Map(offsets.map((offset, index) => [offset, found[index] as Position]));
    const where = { path: this.paths.of(path), inside: this.paths.inside(inside) };
    const tracer =
      inside.length === 0 ? new Tracer(path, this.paths, this.plan, this.#masker, this.#matcher, failed) : undefined;
    return hits.map(({ owner, encoding, start, end }) => {
      const [first, last] = [positions.get(start) as Position, positions.get(end) as Position];
      const place = placeBetween(where, first, last);
      const traced = tracer?.trace(owner, place) ?? originIn(source, place);
      const excerpt = traced.excerpt ?? this.#excerpt(inspected, first.line, start, end);
      return { owner, encoding, place, ...traced, ...(excerpt && { excerpt }) };
    });
  }

  /** The surroundings of a hit, masked; nothing where they are not text. */
  #excerpt(inspected: Inspected, line: number, start: number, end: number): Excerpt | undefined {
    const { margin } = this.#masker;
    const from = Math.max(0, start - EXCERPT_BYTES - margin);
    const bytes = inspected.read(from, end + EXCERPT_BYTES + margin);
    const lineStart = bytes.subarray(0, start - from).lastIndexOf(0x0a) + 1;
    const feed = bytes.indexOf(0x0a, end - from);
    const pieceStart = Math.max(lineStart, start - from - EXCERPT_BYTES, 0);
    const pieceEnd = Math.min(feed < 0 ? bytes.length : feed, end - from + EXCERPT_BYTES);
    const piece = this.#masker.piece(bytes, pieceStart, pieceEnd, { start: start - from, end: end - from });
    return piece && excerptOf(line, piece.text, piece.start + 1, piece.end - piece.start);
  }
}
