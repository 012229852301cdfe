import { lastName, parentOf } from '../files/directories.js';
import { scriptLanguage } from '../files/languages.js';
import type { Unread } from '../findings/check.js';
import type { Origin, RawFinding } from '../findings/finding.js';
import { placeBetween } from '../findings/place.js';
import { limits } from '../limits/index.js';
import { type ByteStrings, byteStrings } from '../needles/byte-strings.js';
import { Capture } from '../search/capture.js';
import { Locator } from '../search/locate.js';
import { type Mark, RUN } from '../search/marks.js';
import type { Matcher } from '../search/matcher.js';
import { matcherFor } from '../search/matcher-for.js';
import { Retained } from '../search/retained.js';
import type { Runs } from '../search/runs.js';
import { DATA_URI, type MarkHit, type Scan, ScanRecorder, settled } from '../search/scan.js';
import type { Window } from '../search/stretch.js';
import { ParserMissing } from '../syntax/parse.js';
import { hashed } from '../text/hash.js';
import type { Position } from '../text/positions.js';
import { dataUriMarks } from '../unpack/data-uri.js';
import { type Format, glimpseOf, glimpseOfBytes, type Member, type Stored, wholeOf } from '../unpack/format.js';
import { formatOf } from '../unpack/index.js';
import { Budget, Interrupted, type Limits, usualLimits } from '../unpack/limits.js';
import { memberAt } from '../unpack/member.js';
import { type Visitor, walkInside } from '../unpack/walk.js';
import type { Artifact, ArtifactSource, RelatedText } from './artifact.js';
import type { Content } from './content.js';
import { EXCERPT_BYTES, excerptAround } from './excerpt.js';
import { type ValueHit, valueHits, valuesIn, wholeForms } from './hits.js';
import { Masker } from './masked-text.js';
import type { SearchPlan } from './plan.js';
import type { ArtifactRule, Described, DescribedRange, FileNames, Inspected, Surroundings } from './rule.js';
import { artifactRules } from './rules/index.js';
import { ANCHOR, VALUE } from './rules/known-values.js';
import { TOKEN, tokenWindow } from './rules/token-shape.js';
import { inlineSourceMap, sourceMapAddress } from './source-map.js';
import { tokenRuns } from './token-runs.js';
import { Tracer } from './trace.js';

/** The marks of a plan and its rules, with the matcher that finds them. The plan's needles come first. */
export interface MarkTable {
  marks: ByteStrings;
  /** The kind of each, and of runs at the end. */
  kinds: readonly string[];
  /** The kinds of each rule's marks. */
  kindsOf: ReadonlyMap<ArtifactRule, ReadonlySet<string>>;
  /** What else the matcher reports. */
  runs: Runs | undefined;
  /** Its tables take longer to make than most searches, so it is shared. */
  matcher: Matcher;
}

/** Collects the marks of all rules, and those of data: URIs. @param inputBytes see {@link matcherFor} */
export function markTable(plan: SearchPlan, inputBytes?: number): MarkTable {
  const byRule = artifactRules.map((rule) => ({ rule, marks: rule.marks(plan) }));
  const ofUris = dataUriMarks.map((bytes): Mark => ({ kind: DATA_URI, bytes }));
  const others = [...byRule.flatMap(({ marks }) => marks), ...ofUris];
  const { needles } = plan;
  const marks = byteStrings(
    others.map(({ bytes }) => bytes),
    needles.strings,
  );
  const ofNeedles = Array<string>(needles.length).fill(VALUE).fill(ANCHOR, 0, needles.anchors.length);
  const runs = plan.unknownSecrets ? tokenRuns : undefined;
  return {
    marks,
    kinds: [...ofNeedles, ...others.map(({ kind }) => kind), RUN],
    kindsOf: new Map(
      byRule.map(({ rule, marks }) => [rule, new Set([...marks.map(({ kind }) => kind), ...(rule.kinds ?? [])])]),
    ),
    runs,
    matcher: matcherFor(marks, undefined, runs, inputBytes),
  };
}

function isOfValue({ kind }: Pick<Mark, 'kind'>): boolean {
  return kind === VALUE || kind === ANCHOR;
}

/** A piece of a value that a script joins is reported with the whole. */
function withoutPiecesOfJoined(findings: readonly RawFinding[]): RawFinding[] {
  const joined = findings.filter(({ encoding }) => encoding?.[0] === 'joined');
  const isPiece = ({ code, variable, place }: RawFinding) =>
    code === 'leak/part-of-value' &&
    joined.some(
      ({ variable: name, place: { offset = 0, length = 0 } = {} }) =>
        name === variable && place?.offset !== undefined && offset <= place.offset && place.offset < offset + length,
    );
  return joined.length === 0 ? [...findings] : findings.filter((one) => !isPiece(one));
}

/** What was found in one artifact and everything inside it. */
export interface ArtifactResult {
  findings: RawFinding[];
  /** Public values of the stage, which may be there. Offsets are those of the artifact or the embedded file. */
  present: PresentValue[];
  members: number;
  /** SHA-256 of embedded files in hexadecimal, if they were asked for. */
  digests: { inside: readonly string[]; sha256: string }[];
  bytes: number;
  unread: Unread[];
}

/** A public value that is there. `origin` is the source that brought it, if contents were asked for. */
export type PresentValue = ValueHit & { inside: readonly string[]; origin?: Origin };

/** The scan of a stream, with the bytes around its hits. */
interface StreamScan extends Scan {
  retained: Retained;
}

export interface SearchOptions {
  table?: MarkTable;
  limits?: Limits;
  /** Asked after each chunk, with its size; true stops the search. */
  isStopped?: (bytes: number) => Promise<boolean>;
  /** Masks names of embedded files. */
  mask?: (name: string) => string;
}

/** Searches artifacts, and everything that is embedded in them, in memory that does not grow with their size. */
export class ArtifactSearch {
  readonly #table: MarkTable;
  readonly #limits: Limits;
  readonly #isStopped: (bytes: number) => Promise<boolean>;
  readonly #mask: (name: string) => string;
  readonly #masker: Masker;
  /** Bytes of scripts that were parsed for names. */
  #parsed = 0;
  /** Bytes of the last read of a scan, which are still in the matcher's window. */
  #lastRead = 0;
  /** The next artifact, if it was opened before its turn. */
  #begun: { artifact: Artifact; source: ArtifactSource } | undefined;

  constructor(
    readonly plan: SearchPlan,
    options: SearchOptions = {},
  ) {
    this.#table = options.table ?? markTable(plan);
    this.#limits = options.limits ?? usualLimits;
    this.#isStopped = options.isStopped ?? (async () => false);
    this.#mask = options.mask ?? ((name) => name);
    this.#masker = new Masker(plan);
  }

  /**
   * Searches an artifact and everything embedded in it.
   * @param next the artifact that will be searched next, whose content may begin to be inflated meanwhile
   * @throws Interrupted if the search is stopped; the provider's error if the artifact cannot be read
   */
  async search(artifact: Artifact, inspected: Inspected, next?: Artifact): Promise<ArtifactResult> {
    const ahead = await artifact.scanAhead?.(this.#isStopped);
    if (await this.#isStopped(0)) throw new Interrupted();
    const isDone =
      !isWanted(new ArtifactNames(artifact), inspected) &&
      ahead?.scan.hits.length === 0 &&
      ahead.scan.dataUris.length === 0 &&
      ahead.holds !== 'files';
    if (isDone) return emptyResult(ahead.scan.bytes);
    const source = this.#open(artifact);
    try {
      const isCurrent = ahead?.version === source.version && ahead.scan.bytes === source.size;
      if (!isCurrent && source.isHole) return emptyResult(source.size);
      const visit = new ArtifactVisit(this, artifact, source, inspected, next);
      if (isCurrent)
        return await visit.visit(
          ahead.scan,
          ahead.holds === 'nothing' ? undefined : formatOf(glimpseOf(source), artifact.fileName),
        );
      const scan = await this.#scan(source);
      const { window } = this.#table.matcher;
      // A small file is still in memory, so recognising its format needs no second read.
      const isInMemory = scan.bytes === source.size && scan.bytes === this.#lastRead;
      const glimpse = isInMemory ? glimpseOfBytes(window.subarray(0, scan.bytes)) : glimpseOf(source);
      return await visit.visit(scan, formatOf(glimpse, artifact.fileName));
    } finally {
      source.close();
    }
  }

  /** Compressed twins of a build's files follow each other, so one is inflated while the one before it is searched. */
  begin(next: Artifact, format: Format): void {
    try {
      const source = next.open();
      this.#begun = { artifact: next, source };
      format.begin?.(source);
    } catch {
      // Reported at its turn.
    }
  }

  /** Closes what was begun and will not be searched. */
  forget(): void {
    this.#begun?.source.close();
    this.#begun = undefined;
  }

  #open(artifact: Artifact): ArtifactSource {
    const begun = this.#begun;
    if (begun?.artifact !== artifact) {
      this.forget();
      return artifact.open();
    }
    this.#begun = undefined;
    return begun.source;
  }

  /** The public values in the artifact's own bytes, without unpacking it. */
  async presentIn(artifact: Artifact): Promise<ValueHit[]> {
    const source = artifact.open();
    try {
      const hits = this.valuesOf(await this.#scan(source), (from, to) => source.read(from, to - from));
      return hits.filter(({ owner }) => owner.role === 'present');
    } finally {
      source.close();
    }
  }

  /** Describes a byte range of an artifact. */
  describe(artifact: Artifact, offset: number, length: number): Described {
    const source = artifact.open();
    try {
      const read = (from: number, to: number) => source.read(from, to - from);
      const [start, end] = positionsIn(source.chunks() as Iterable<Uint8Array>, [offset, offset + length]);
      if (!start || !end) return { place: { path: artifact.name, inside: [] } };
      const excerpt = excerptAround(read, this.#masker, start.line, { start: offset, end: offset + length });
      return { place: placeBetween({ path: artifact.name }, start, end), ...(excerpt && { excerpt }) };
    } finally {
      source.close();
    }
  }

  get masker(): Masker {
    return this.#masker;
  }

  get limits(): Limits {
    return this.#limits;
  }

  /** Names of embedded files, as reports show them. */
  shownNames(inside: readonly string[]): string[] {
    return inside.map(this.#mask);
  }

  /** All rules, with the kinds of the marks that each needs. */
  get rules(): MarkTable['kindsOf'] {
    return this.#table.kindsOf;
  }

  /** Names around places of a script. The parser is loaded when it is needed, and many large scripts are not all parsed. */
  async namesAround({ fileName, size, text }: Content): Promise<(at: Position) => string[]> {
    const language = scriptLanguage(fileName);
    if (!language || size > limits.scriptBytes.value || this.#parsed > limits.parsedBytes.value) return () => [];
    this.#parsed += size;
    const { enclosingNames } = await import('./enclosing.js');
    return enclosingNames(await text(), language);
  }

  /** Values among the hits of a scan. @param read bytes of the scanned input */
  valuesOf({ hits }: Pick<Content, 'hits'>, read: (from: number, to: number) => Uint8Array): ValueHit[] {
    const { needles } = this.plan;
    const values = hits.filter(isOfValue);
    return valueHits(wholeForms(values, needles, read), needles);
  }

  /** Values in bytes in memory. */
  valuesIn(bytes: Uint8Array): ValueHit[] {
    return valuesIn(this.#table.matcher, this.plan.needles, bytes);
  }

  /** Reads straight into the matcher's memory, up to the time limit of one artifact. */
  async #scan(source: ArtifactSource): Promise<Scan> {
    const recorder = this.#start();
    const { matcher } = this.#table;
    const until = Date.now() + this.#limits.fileSeconds * 1000;
    for (;;) {
      const length = source.readInto(matcher.window, recorder.scan.bytes);
      if (length > 0) {
        this.#lastRead = length;
        await this.#feed(recorder, length);
      }
      const isAtEnd = length === 0 || (length < matcher.window.length && recorder.scan.bytes >= source.size);
      if (isAtEnd || Date.now() > until) return settled(recorder.scan);
    }
  }

  /** The byte range around a hit of an embedded file that the rules read. */
  windowOf({ needle, kind, start, end }: MarkHit): Window {
    if (kind === RUN || kind === TOKEN) return tokenWindow({ kind, start, end });
    if (kind !== VALUE && kind !== ANCHOR) return { from: start - RULE_REACH, to: end + RULE_REACH };
    const { unbroken, anchor } = this.plan.needles.at(needle) ?? {};
    const around = Math.max(EXCERPT_BYTES + this.#masker.margin, 2 * (unbroken?.length ?? 0), anchor?.value.reach ?? 0);
    return { from: start - around, to: end + around };
  }

  /** Scans bytes that are streamed. */
  async scanChunks(chunks: AsyncIterable<Uint8Array>): Promise<StreamScan> {
    const recorder = this.#start();
    const retained = new Retained();
    const { window } = this.#table.matcher;
    for await (const chunk of chunks) {
      const before = recorder.scan.hits.length;
      for (let at = 0; at < chunk.length; at += window.length) {
        const piece = chunk.subarray(at, at + window.length);
        window.set(piece);
        await this.#feed(recorder, piece.length);
      }
      retained.add(
        chunk,
        recorder.scan.hits.slice(before).map((hit) => this.windowOf(hit)),
      );
    }
    return { ...settled(recorder.scan), retained };
  }

  #start(): ScanRecorder {
    this.#table.matcher.start();
    return new ScanRecorder(this.#table.kinds);
  }

  async #feed(recorder: ScanRecorder, length: number): Promise<void> {
    if (await this.#isStopped(length)) throw new Interrupted();
    recorder.feed(this.#table.matcher, length, recorder.scan.bytes);
    recorder.scan.bytes += length;
  }
}

/** So much around a hit of an embedded file is kept for the rules. */
const RULE_REACH = 16 * 1024;

/** One artifact on its way through unpacking and the rules. */
class ArtifactVisit {
  readonly #result: ArtifactResult = emptyResult(0);
  #tracer: Promise<Tracer> | undefined;

  constructor(
    readonly search: ArtifactSearch,
    readonly artifact: Artifact,
    readonly source: ArtifactSource,
    readonly inspected: Inspected,
    readonly next: Artifact | undefined,
  ) {}

  /** @param format of the artifact; undefined if nothing can be unpacked in it */
  async visit(scan: Scan, format: Format | undefined): Promise<ArtifactResult> {
    const { source, search, artifact } = this;
    const isWhole = scan.bytes >= source.size || source.hasChanged;
    if (!isWhole) this.#unread([], `takes longer than ${search.limits.fileSeconds} seconds to read`);
    const isPlain = scan.dataUris.length === 0 && format === undefined;
    if (format?.begin && this.next && endingOf(this.next) === endingOf(artifact)) search.begin(this.next, format);
    const stored = isWhole && !isPlain ? await this.#unpack(scan) : [];
    if (source.hasChanged) this.#unread([], 'changed while it was read');
    this.#result.bytes += scan.bytes;
    if (scan.hits.length === 0 && !isWanted(new ArtifactNames(artifact), this.inspected)) return this.#result;
    const found = await this.#checkSelf(this.#content(scan, stored));
    // A source map is opened only if something was found in it, whose place is then in one of its sources.
    if (!isWhole || !format?.isText || !scan.isEmpty || found === 0) return this.#result;
    Object.assign(this.#result, emptyResult(scan.bytes));
    const all = await this.#unpack({ ...scan, isEmpty: false });
    if (source.hasChanged) this.#unread([], 'changed while it was read');
    await this.#checkSelf(this.#content(scan, all));
    return this.#result;
  }

  /** Checks the artifact itself, whose findings come before those of embedded files. @returns the number of its findings */
  async #checkSelf(content: Content): Promise<number> {
    const { findings } = this.#result;
    const embedded = findings.splice(0);
    await this.#check(content);
    const found = findings.length;
    findings.push(...embedded);
    return found;
  }

  #content(scan: Scan, stored: readonly Stored[]): Content {
    const { source, artifact } = this;
    return {
      ...this.#base(scan, [], stored),
      fileName: artifact.fileName,
      read: (from, to) => source.read(from, to - from),
      positions: async (offsets) => positionsIn(source.chunks() as Iterable<Uint8Array>, offsets),
      text: async () => (await wholeOf(source.chunks())).toString(),
    };
  }

  async #unpack(scan: Scan): Promise<Stored[]> {
    const { search, source, artifact } = this;
    const budget = new Budget(search.limits, source.size, Date.now);
    const visitor: Visitor<StreamScan> = {
      scan: (inside, chunks) => search.scanChunks(this.#hashed(inside, chunks)),
      done: (inside, member, found, stored) => this.#member(inside, member, found, stored),
      unread: (inside, because) => this.#unread(inside, because),
    };
    return walkInside(source, artifact.fileName, [], scan, budget, visitor);
  }

  #hashed(inside: readonly string[], chunks: AsyncIterable<Uint8Array>): AsyncIterable<Uint8Array> {
    if (!this.inspected.withDigests?.()) return chunks;
    return hashed(chunks, (sha256) => this.#result.digests.push({ inside, sha256 }));
  }

  async #member(inside: readonly string[], member: Member, scan: StreamScan, stored: readonly Stored[]): Promise<void> {
    this.#result.members++;
    this.#result.bytes += scan.bytes;
    const around = await this.#around(member, scan);
    const original = this.#originalOf(inside, member);
    await this.#check({
      ...this.#base(scan, inside, stored),
      fileName: inside.at(-1) ?? '',
      read: (from, to) => around.read(from, to),
      positions: async (offsets) => positionsInStream(member, offsets),
      text: async () => (await wholeOf(member.chunks())).toString(),
      readAround: (ranges) => this.#readAround(member, ranges),
      sourceMap: () => this.#mapOf(inside, member),
      ...(original !== undefined && { original }),
    });
  }

  /** The bytes around hits. Streams the embedded file again if they exceed what is retained. */
  async #around(member: Member, scan: StreamScan): Promise<Pick<Retained, 'read'>> {
    const windows = scan.hits.map((hit) => this.search.windowOf(hit));
    if (windows.every((one) => scan.retained.covers(one))) return scan.retained;
    const capture = new Capture(windows);
    await fill(capture, member);
    return capture;
  }

  /** The source map of an embedded script or style. */
  async #mapOf(inside: readonly string[], member: Member): Promise<RelatedText | undefined> {
    const name = inside.at(-1) ?? '';
    if (!scriptLanguage(name) && !name.endsWith('.css')) return undefined;
    const address = sourceMapAddress((await wholeOf(member.chunks())).toString()) ?? `${lastName(name)}.map`;
    const inline = inlineSourceMap(address);
    if (inline !== undefined) return { location: name, text: inline };
    const beside = `${parentOf(name)}${address}`.split('/').filter((part) => part !== '.');
    const path = [...inside.slice(0, -1), beside.join('/')];
    const bytes = await memberAt(this.source, this.artifact.fileName, path, limits.tracedBytes.value);
    return bytes && { location: path.at(-1) ?? '', text: bytes.toString() };
  }

  async #readAround(member: Member, ranges: readonly DescribedRange[]): Promise<Content['read']> {
    const around = EXCERPT_BYTES + this.search.masker.margin;
    const capture = new Capture(ranges.map(({ start, end }) => ({ from: start - around, to: end + around })));
    await fill(capture, member);
    return (from, to) => capture.read(from, to);
  }

  #base({ bytes, hits, counts }: Scan, inside: readonly string[], stored: readonly Stored[]) {
    const isEmbedded = ({ start, end }: { start: number; end: number }) =>
      stored.some(({ offset, length }) => offset <= start && end <= offset + length);
    return {
      where: { path: this.artifact.name, inside: this.search.shownNames(inside) },
      size: bytes,
      // What an embedded file contains is reported there.
      hits: hits.filter((hit) => !isEmbedded(hit)),
      counts: stored.length > 0 ? new Map<number, number>() : counts,
    };
  }

  /** Only for maps that are artifacts, or data: URIs in them: the origin of a map in an archive is unknown. */
  #originalOf(inside: readonly string[], { address }: Member): string | undefined {
    const isOwn = inside.slice(0, -1).every((name) => name.startsWith('data:'));
    return address !== undefined && isOwn ? this.artifact.original(address, '').path : undefined;
  }

  async #check(content: Content): Promise<void> {
    const { search, inspected } = this;
    const names = namesIn(content);
    if (content.hits.length === 0 && !isWanted(names, inspected)) return;
    const { inside } = content.where;
    const values = search.valuesOf(content, content.read);
    const found: RawFinding[] = [];
    const surroundings: Surroundings = {
      plan: search.plan,
      content,
      found,
      inspected,
      values,
      describe: (ranges) => this.#describe(content, ranges),
      originalPath: (address) => this.artifact.original(address, '').path,
      sourceSizes: async () => (inside.length > 0 ? new Map() : (await this.#trace()).sizes(await content.text())),
      valuesIn: (bytes) => search.valuesIn(bytes),
      unread: (because) => this.#result.unread.push({ path: this.artifact.name, inside, because }),
    };
    for (const [rule, kinds] of search.rules) {
      const hits = content.hits.filter(({ kind }) => kinds.has(kind));
      if (hits.length > 0 || rule.wants?.(names, inspected)) found.push(...(await checked(rule, hits, surroundings)));
    }
    this.#result.present.push(...(await this.#present(values, content)));
    this.#result.findings.push(...withoutPiecesOfJoined(found));
  }

  /** The first of each value is traced, if contents were asked for. */
  async #present(values: readonly ValueHit[], content: Content): Promise<PresentValue[]> {
    const { inside } = content.where;
    const present = values.filter(({ owner }) => owner.role === 'present');
    if (!this.inspected.withOrigins) return present.map((hit) => ({ ...hit, inside }));
    const first = new Map(present.toReversed().map((hit) => [hit.owner.variable, hit]));
    const traced = [...first.values()].sort((a, b) => a.start - b.start);
    const described = await this.#describe(content, traced);
    const origins = new Map(traced.map((hit, index) => [hit, described[index]?.origin]));
    return present.map((hit) => {
      const origin = origins.get(hit);
      return { ...hit, inside, ...(origin && { origin }) };
    });
  }

  async #describe(content: Content, ranges: readonly DescribedRange[]): Promise<Described[]> {
    if (ranges.length === 0) return [];
    const offsets = [...new Set(ranges.flatMap(({ start, end }) => [start, end]))].sort((a, b) => a - b);
    const found = await content.positions(offsets);
    const positions = new Map(offsets.map((offset, index) => [offset, found[index] as Position]));
    const isTraced = ranges.some(({ isBrief }) => !isBrief);
    const tracer = isTraced ? await this.#tracerOf(content) : undefined;
    const read = (await content.readAround?.(ranges)) ?? content.read;
    const { masker } = this.search;
    const all = ranges.map(({ start, end, isBrief = false, locate }) => {
      const [first, last] = [positions.get(start) as Position, positions.get(end) as Position];
      const place = placeBetween(content.where, first, last);
      const traced = (isBrief ? undefined : tracer?.trace(place, locate)) ?? originIn(content, first);
      const excerpt = traced.excerpt ?? excerptAround(read, masker, first.line, { start, end });
      return { described: { place, ...traced, ...(excerpt && { excerpt }) }, first, isBrief };
    });
    const isUntraced = ({ described: { origin }, isBrief }: (typeof all)[number]) => !origin && !isBrief;
    if (!all.some(isUntraced)) return all.map(({ described }) => described);
    const namesAround = await this.search.namesAround(content);
    return all.map((one) => {
      const names = isUntraced(one) ? namesAround(one.first).map((name) => masker.text(name)) : [];
      return { ...one.described, ...(names.length > 0 && { within: names }) };
    });
  }

  /** A map in a container may have any origin: no file of the project is opened because of it. */
  async #tracerOf({ where, sourceMap, size }: Content): Promise<Tracer | undefined> {
    if (where.inside.length === 0) return this.#trace();
    if (!sourceMap || size > limits.scriptBytes.value) return undefined;
    const original = (reference: string) => ({
      path: this.search.shownNames([reference.replace(/^[a-z-]+:\/\/[^/]*\//i, '')])[0] ?? '',
      text: () => undefined,
    });
    return Tracer.of({ sourceMap, original }, this.search.masker, () => undefined);
  }

  #trace(): Promise<Tracer> {
    const failed = (because: string) => this.#unread([], because);
    this.#tracer ??= Tracer.of(this.artifact, this.search.masker, failed);
    return this.#tracer;
  }

  #unread(inside: readonly string[], because: string): void {
    this.#result.unread.push({ path: this.artifact.name, inside: this.search.shownNames(inside), because });
  }
}

/** Whether some rule checks a file because of its name. */
function isWanted(names: FileNames, inspected: Inspected): boolean {
  return wanting.some((wants) => wants(names, inspected));
}

const wanting = artifactRules.flatMap(({ wants }) => wants ?? []);

/** The names of an artifact. The path is computed on demand: few rules need it, and it costs more than most rules. */
class ArtifactNames implements FileNames {
  readonly fileName: string;
  readonly #artifact: Artifact;

  constructor(artifact: Artifact) {
    this.fileName = artifact.fileName;
    this.#artifact = artifact;
  }

  get path(): string {
    return this.#artifact.name;
  }
}

function endingOf({ fileName }: Artifact): string {
  return fileName.slice(fileName.lastIndexOf('.'));
}

function namesIn({ fileName, where }: Content): FileNames {
  return { fileName, path: [where.path, ...where.inside].join('/') };
}

function emptyResult(bytes: number): ArtifactResult {
  return { findings: [], present: [], members: 0, digests: [], bytes, unread: [] };
}

/** A place in a source that a map embeds is a place in the original file. */
function originIn({ original }: Content, { line, column }: Position): Omit<Described, 'place'> {
  return original === undefined ? {} : { origin: { path: original, line, column } };
}

function positionsIn(chunks: Iterable<Uint8Array>, offsets: readonly number[]): Position[] {
  const locator = new Locator(offsets);
  for (const chunk of chunks) {
    locator.feed(chunk);
    if (locator.done) break;
  }
  return locator.positions;
}

/** Positions in an embedded file, which is streamed again for them. Only findings need positions. */
async function positionsInStream(member: Member, offsets: readonly number[]): Promise<Position[]> {
  const locator = new Locator(offsets);
  try {
    for await (const chunk of member.chunks()) {
      locator.feed(chunk);
      if (locator.done) break;
    }
  } catch {
    // The walk reports the damage, and all hits precede it.
  }
  return locator.positions;
}

/** Runs a rule. On a machine without the parser, a rule that needs it is listed. */
async function checked(rule: ArtifactRule, hits: readonly MarkHit[], at: Surroundings): Promise<RawFinding[]> {
  try {
    return await rule.check(hits, at);
  } catch (error) {
    if (!(error instanceof ParserMissing)) throw error;
    at.unread(error.message);
    return [];
  }
}

/** Keeps what was read before a failure, which the walk has reported. */
async function fill(capture: Capture, member: Member): Promise<void> {
  if (capture.isFull) return;
  try {
    for await (const chunk of member.chunks()) {
      capture.feed(chunk);
      if (capture.isFull) return;
    }
  } catch {
    // Reported by the walk.
  }
}
