import { type Format, glimpseOf, glimpseOfBytes } from '../unpack/format.js';
import { formatOf } from '../unpack/index.js';
import { Interrupted, type Limits, usualLimits } from '../unpack/limits.js';
import { type Artifact, type ArtifactSource, unlessChanged } from './artifact.js';
import { describeRange } from './describer.js';
import type { ValueHit } from './hits.js';
import { type MarkTable, markTable } from './mark-table.js';
import { Masker } from './masked-text.js';
import type { SearchPlan } from './plan.js';
import type { Described, Inspected } from './rule.js';
import { Scanner } from './scanner.js';
import {
  ArtifactNames,
  type ArtifactResult,
  ArtifactVisit,
  emptyResult,
  isWanted,
  type VisitedSearch,
} from './visit.js';

export interface SearchOptions {
  table?: MarkTable;
  limits?: Limits;
  /** Asked after each chunk, with its size; true stops the search. */
  isStopped?: (bytes: number) => Promise<boolean>;
  /** Milliseconds of a clock. Without one, no limit of time applies. */
  now?: () => number;
  /** Masks names of embedded files. */
  mask?: (name: string) => string;
}

/** Searches artifacts, and everything that is embedded in them, in memory that does not grow with their size. */
export class ArtifactSearch implements VisitedSearch {
  readonly masker: Masker;
  readonly limits: Limits;
  readonly scanner: Scanner;
  readonly rules: MarkTable['kindsOf'];
  readonly parsed = { bytes: 0 };
  readonly now: () => number;
  readonly shownNames: (inside: readonly string[]) => string[];
  readonly #isStopped: (bytes: number) => Promise<boolean>;
  /** The next artifact, if it was opened before its turn. */
  #begun: { artifact: Artifact; source: ArtifactSource } | undefined;

  constructor(
    readonly plan: SearchPlan,
    { table = markTable(plan), limits = usualLimits, ...options }: SearchOptions = {},
  ) {
    const { isStopped = async () => false, now = () => 0, mask = (name) => name } = options;
    this.masker = new Masker(plan);
    this.limits = limits;
    this.rules = table.kindsOf;
    this.now = now;
    this.shownNames = (inside) => inside.map(mask);
    this.#isStopped = isStopped;
    this.scanner = new Scanner(plan, table, this.masker, { limits, isStopped, now });
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
      const scan = await this.scanner.source(source);
      // A small file is still in memory, so recognising its format needs no second read.
      const bytes = this.scanner.inMemory(scan, source);
      const glimpse = bytes ? glimpseOfBytes(bytes) : glimpseOf(source);
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
      const hits = await unlessChanged(source, async () => {
        const scan = await this.scanner.source(source);
        return this.scanner.valuesOf(scan, (from, to) => source.read(from, to - from));
      });
      return (hits ?? []).filter(({ owner }) => owner.role === 'present');
    } finally {
      source.close();
    }
  }

  /** Describes a byte range of an artifact. */
  describe(artifact: Artifact, offset: number, length: number): Described {
    return describeRange(artifact, this.masker, offset, length);
  }

  /** Values in bytes in memory. */
  valuesIn(bytes: Uint8Array): ValueHit[] {
    return this.scanner.valuesIn(bytes);
  }
}
