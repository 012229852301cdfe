import { lastName, parentOf } from '../files/directories.js';
import { scriptLanguage } from '../files/languages.js';
import type { Unread } from '../findings/check.js';
import type { Origin, RawFinding } from '../findings/finding.js';
import { limits } from '../limits/index.js';
import { Capture } from '../search/capture.js';
import { Locator } from '../search/locate.js';
import type { Retained } from '../search/retained.js';
import type { MarkHit, Scan } from '../search/scan.js';
import { BinaryMissing } from '../syntax/binary-missing.js';
import { hashed } from '../text/hash.js';
import type { Position } from '../text/positions.js';
import { type Format, type Member, type Stored, wholeOf } from '../unpack/format.js';
import { Budget, type Limits } from '../unpack/limits.js';
import { memberAt } from '../unpack/member.js';
import { type Visitor, walkInside } from '../unpack/walk.js';
import { type Artifact, type ArtifactSource, type RelatedText, unlessChanged } from './artifact.js';
import type { Content } from './content.js';
import { Describer, positionsIn } from './describer.js';
import { EXCERPT_BYTES } from './excerpt.js';
import type { ValueHit } from './hits.js';
import type { MarkTable } from './mark-table.js';
import type { Masker } from './masked-text.js';
import type { SearchPlan } from './plan.js';
import type { ArtifactRule, DescribedRange, FileNames, Inspected, Surroundings } from './rule.js';
import { artifactRules } from './rules/index.js';
import type { Scanner, StreamScan } from './scanner.js';
import { inlineSourceMap, sourceMapAddress } from './source-map.js';

/** Result for one artifact and everything inside it. */
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

/** Parts of a search that a visit uses. */
export interface VisitedSearch {
  plan: SearchPlan;
  scanner: Scanner;
  masker: Masker;
  limits: Limits;
  /** All rules, with the kinds of the marks that each needs. */
  rules: MarkTable['kindsOf'];
  /** Bytes of scripts that were parsed for names. */
  parsed: { bytes: number };
  /** Milliseconds of a clock. */
  now(): number;
  /** Names of embedded files, as reports show them. */
  shownNames(this: void, inside: readonly string[]): string[];
  /** Opens the next artifact before its turn, so that it is inflated meanwhile. */
  begin(next: Artifact, format: Format): void;
}

/** One artifact on its way through unpacking and the rules. */
export class ArtifactVisit {
  readonly #result: ArtifactResult = emptyResult(0);
  readonly #describer: Describer;

  constructor(
    readonly search: VisitedSearch,
    readonly artifact: Artifact,
    readonly source: ArtifactSource,
    readonly inspected: Inspected,
    readonly next: Artifact | undefined,
  ) {
    const { masker, shownNames, parsed } = search;
    this.#describer = new Describer(artifact, masker, shownNames, parsed, (because) => this.#unread([], because));
  }

  /** @param format of the artifact; undefined if nothing can be unpacked in it */
  async visit(scan: Scan, format: Format | undefined): Promise<ArtifactResult> {
    await unlessChanged(this.source, () => this.#visit(scan, format));
    // Asked last, because a change at any time can hide what the scan found.
    if (this.source.hasChanged) this.#unread([], 'changed while it was read');
    return this.#result;
  }

  async #visit(scan: Scan, format: Format | undefined): Promise<void> {
    const { source, search, artifact } = this;
    const isWhole = scan.bytes >= source.size || source.hasChanged;
    if (!isWhole) this.#unread([], `takes longer than ${search.limits.fileSeconds} seconds to read`);
    const isPlain = scan.dataUris.length === 0 && format === undefined;
    if (format?.begin && this.next && endingOf(this.next) === endingOf(artifact)) search.begin(this.next, format);
    const stored = isWhole && !isPlain ? await this.#unpack(scan) : [];
    this.#result.bytes += scan.bytes;
    if (scan.hits.length === 0 && !isWanted(new ArtifactNames(artifact), this.inspected)) return;
    const found = await this.#checkSelf(this.#content(scan, stored));
    // A source map is opened only if something was found in it, whose place is then in one of its sources.
    if (!isWhole || !format?.isText || !scan.isEmpty || found === 0) return;
    Object.assign(this.#result, emptyResult(scan.bytes));
    const all = await this.#unpack({ ...scan, isEmpty: false });
    await this.#checkSelf(this.#content(scan, all));
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
    const budget = new Budget(search.limits, source.size, search.now);
    const visitor: Visitor<StreamScan> = {
      scan: (inside, chunks) => search.scanner.chunks(this.#hashed(inside, chunks)),
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
    const windows = scan.hits.map((hit) => this.search.scanner.windowOf(hit));
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
      // Findings in an embedded file are reported with that file.
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
    const values = search.scanner.valuesOf(content, content.read);
    const found: RawFinding[] = [];
    const surroundings: Surroundings = {
      plan: search.plan,
      content,
      found,
      inspected,
      values,
      describe: (ranges) => this.#describer.ranges(content, ranges),
      originalPath: (address) => this.artifact.original(address, '').path,
      sourceSizes: async () =>
        inside.length > 0 ? new Map() : (await this.#describer.trace()).sizes(await content.text()),
      valuesIn: (bytes) => search.scanner.valuesIn(bytes),
      unread: (because) => this.#result.unread.push({ path: this.artifact.name, inside, because }),
    };
    const until = search.now() + search.limits.checkSeconds * 1000;
    for (const [rule, kinds] of search.rules) {
      if (search.now() > until) {
        surroundings.unread(`takes longer than ${search.limits.checkSeconds} seconds to check`);
        break;
      }
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
    const described = await this.#describer.ranges(content, traced);
    const origins = new Map(traced.map((hit, index) => [hit, described[index]?.origin]));
    return present.map((hit) => {
      const origin = origins.get(hit);
      return { ...hit, inside, ...(origin && { origin }) };
    });
  }

  #unread(inside: readonly string[], because: string): void {
    this.#result.unread.push({ path: this.artifact.name, inside: this.search.shownNames(inside), because });
  }
}

/** Tells whether some rule checks a file because of its name. */
export function isWanted(names: FileNames, inspected: Inspected): boolean {
  return wanting.some((wants) => wants(names, inspected));
}

const wanting = artifactRules.flatMap(({ wants }) => wants ?? []);

/** The names of an artifact. The path is computed on demand: few rules need it, and it costs more than most rules. */
export class ArtifactNames implements FileNames {
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

/** The result of an artifact without hits. */
export function emptyResult(bytes: number): ArtifactResult {
  return { findings: [], present: [], members: 0, digests: [], bytes, unread: [] };
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
    if (!(error instanceof BinaryMissing)) throw error;
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
