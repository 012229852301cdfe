import { givenValues } from '../core/build/environment.js';
import type { Bundle } from '../core/contract/contract.js';
import { lastName } from '../core/files/directories.js';
import { privateDirectory } from '../core/files/private-files.js';
import {
  type CheckResult,
  type Coverage,
  type Doubt,
  type Question,
  questions,
  type Unread,
  type Unsought,
} from '../core/findings/check.js';
import type { CheckedFile, ContainedValue, Contents } from '../core/findings/contents.js';
import { finding, type Place, type RawFinding } from '../core/findings/finding.js';
import { nothingUnsettled, type PartNumber, type Unsettled } from '../core/findings/part.js';
import type { Audience } from '../core/inspect/artifact.js';
import { bundleFacts } from '../core/inspect/bundle-facts.js';
import { containedValues } from '../core/inspect/contained.js';
import { isFoldable, missingValue, untraceable } from '../core/inspect/expected.js';
import type { BundleFacts, Inspected } from '../core/inspect/rule.js';
import { privateFinding } from '../core/inspect/rules/private-file.js';
import type { ArtifactResult, ArtifactSearch } from '../core/inspect/search.js';
import { settingsOnce } from '../core/inspect/settings.js';
import { limits } from '../core/limits/index.js';
import { findPastValue, type PastPlace, pastValues } from '../core/receipt/past.js';
import { fingerprint } from '../core/receipt/receipt.js';
import { type GivenValue, stalenessFindings } from '../core/receipt/staleness.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { runtimeVariables } from '../core/runtime/runtime.js';
import { ParserMissing } from '../core/syntax/parse.js';
import { count } from '../core/text/display.js';
import { textPlaces } from '../core/text/positions.js';
import { toolchainOf } from '../core/toolchains/index.js';
import { Interrupted } from '../core/unpack/limits.js';
import { FileArtifact } from '../host/file-artifact.js';
import { describeFileError } from '../host/files.js';
import type { ScanAheadOfTime } from '../host/scan-ahead.js';
import type { ShownPaths } from '../host/shown-paths.js';
import { allReceipts, type StoredReceipt } from '../host/state.js';
import type { NotRead } from '../host/walk.js';
import type { Work } from '../host/work.js';
import type { ArtifactGroup } from './artifacts.js';
import { BuiltFiles, type Member } from './built-files.js';
import { BundleOutput } from './bundle-output.js';
import { LastBuilds, untouchedFiles } from './last-build.js';
import type { Project } from './open.js';
import { OwnLiterals } from './own-literals.js';
import type { StageResolver } from './resolve.js';

/** Everything that an inspection works with. */
export interface InspectionParts {
  project: Project;
  resolution: Resolution;
  /** The other stages. */
  others: readonly Resolution[];
  search: ArtifactSearch;
  paths: ShownPaths;
  work: Work;
  /** Whether the result lists files and public values. */
  withContents: boolean;
  /** If other machines inspect the other parts. */
  part?: PartNumber;
  ahead: ScanAheadOfTime | undefined;
  /** The variables that a bundle's code reads at build time, with one place of each. */
  readPlaces(bundle: Bundle): Promise<ReadonlyMap<string, Place>>;
}

/** What is not searched for, and what is therefore unknown. */
export interface Unknown {
  notSearched: readonly Unsought[];
  doubts: readonly Doubt[];
}

/** What an inspection returns. `unsettled`: what only all parts together can settle. */
export type InspectedResult = CheckResult & { coverage: Coverage; unsettled?: Unsettled };

/** Values that the output contained after its build: their absence is reported by the receipt. */
function seenAtBuild(stored: StoredReceipt | undefined): { bundle?: string; variable?: string }[] {
  const { bundle, values = [] } = stored?.receipt.predicate ?? {};
  return values
    .filter(({ places }) => places.length > 0)
    .map(({ name }) => ({ variable: name, ...(bundle !== undefined && { bundle }) }));
}

/** What the files of a group have in common. */
interface InspectedGroup {
  parts: InspectionParts;
  builds: LastBuilds;
  bundle: Bundle | undefined;
  facts: BundleFacts | undefined;
  /** Files that the bundle's build left as they were, to their digests. */
  untouched: ReadonlyMap<string, string>;
}

/** What rules know about a file. */
class InspectedFile implements Inspected {
  readonly stage: string;
  readonly audience: Audience;
  readonly bundle?: string;
  readonly facts?: BundleFacts;
  readonly withOrigins: boolean;
  readonly #artifact: FileArtifact;
  readonly #group: InspectedGroup;

  constructor(artifact: FileArtifact, group: InspectedGroup) {
    const { parts, bundle, facts } = group;
    this.stage = parts.resolution.stage.name;
    this.audience = artifact.audience;
    if (bundle) this.bundle = bundle.name;
    if (facts) this.facts = facts;
    this.withOrigins = parts.withContents;
    this.#artifact = artifact;
    this.#group = group;
  }

  withDigests(): boolean {
    return this.#group.builds.any;
  }

  leftOver(): string | undefined {
    const { bundle, untouched, parts } = this.#group;
    const digest = untouched.get(this.#artifact.name);
    if (!bundle || digest === undefined) return undefined;
    return digest === parts.project.files.digest(this.#artifact.path) ? bundle.output.join(', ') : undefined;
  }
}

/** The search through all artifacts of one run, with what it found so far. */
export class Inspection {
  #findings: RawFinding[] = [];
  readonly #asked = new Set<Question>(['nothingLeaked']);
  readonly #doubts: Doubt[] = [];
  readonly #coverage = { files: 0, members: 0, bytes: 0, unread: [] as Unread[], skipped: [] as Unread[] };
  readonly #unsettled = nothingUnsettled();
  readonly #files: CheckedFile[] = [];
  readonly #contained: ContainedValue[] = [];
  readonly builds: LastBuilds;
  readonly #literals: OwnLiterals;
  readonly #until = Date.now() + limits.inspectSeconds.value * 1000;

  constructor(readonly parts: InspectionParts) {
    this.builds = new LastBuilds(parts.project);
    this.#literals = new OwnLiterals(parts.project, parts.others);
  }

  /** @param unknown values that are unknown here or not searched for */
  result({ notSearched, doubts }: Unknown): InspectedResult {
    const coverage = { ...this.#coverage, unread: [...this.#coverage.unread, ...this.builds.unread] };
    const { part } = this.parts;
    return {
      findings: part ? this.#findings : settingsOnce(this.#findings),
      ...(part && { unsettled: this.#unsettled }),
      coverage: { ...coverage, ...(notSearched.length > 0 && { notSearched: [...notSearched] }) },
      verdict: { asked: [...this.#asked], doubts: [...doubts, ...this.#doubts] },
      ...(this.parts.withContents && { contents: this.#contents() }),
      groups: this.#coverage.unread.length > 0 ? [] : ['leak/', 'stale/', 'stage/', 'read/'],
    };
  }

  #contents(): Contents {
    const variables = [...this.parts.project.contract.variables.values()].map(({ name, reach }) => ({ name, reach }));
    return { variables, files: this.#files, values: this.#contained };
  }

  /** Values that are unknown, and so are not searched for. */
  notSearched(layers: StageResolver['unread'], files: readonly NotRead[]): void {
    for (const { stage, layer, because } of layers)
      this.#coverage.unread.push({ path: layer, inside: [], because: `is a layer of ${stage}: ${because}` });
    this.#coverage.unread.push(...files.map((one) => this.#unread(one)));
  }

  async group(group: ArtifactGroup): Promise<void> {
    const { bundle, files, elsewhere = [], unread, skipped, isWhole } = group;
    // The first part reports what is about no single file.
    const isFirst = (this.parts.part?.part ?? 1) === 1;
    if (isFirst) this.#coverage.unread.push(...unread.map((one) => this.#unread(one)));
    if (isFirst) this.#coverage.skipped.push(...skipped.map((one) => this.#unread(one)));
    const stored = bundle && this.builds.receiptOf(bundle);
    const present = new Set<string>();
    const members: Member[] = [];
    const ofGroup: InspectedGroup = {
      parts: this.parts,
      builds: this.builds,
      bundle,
      facts: bundle && bundleFacts(bundle),
      untouched: untouchedFiles(stored?.receipt),
    };
    let next = this.#artifactOf(files[0]);
    for (const [index, { path, audience, bytes }] of files.entries()) {
      if (this.parts.work.isStopped || Date.now() > this.#until)
        return this.#leftOut(
          files.slice(index).map((one) => one.path),
          bundle,
        );
      this.parts.work.begin(bytes);
      const artifact = next as FileArtifact;
      next = this.#artifactOf(files[index + 1]);
      const inspected = new InspectedFile(artifact, ofGroup);
      const result = await this.#artifact(artifact, inspected, next);
      if (result && this.parts.withContents) this.#list(artifact, bundle, { ...result, bytes });
      if (audience === 'cache') continue;
      for (const { owner } of result?.present ?? []) present.add(owner.variable);
      for (const { inside, sha256 } of result?.digests ?? []) members.push({ path, inside, sha256 });
    }
    this.parts.search.forget();
    this.#fileNames(files, bundle);
    if (isFirst) this.#repositories(skipped, bundle);
    if (bundle) this.#dropOwnLiterals(bundle, present);
    const shippedPaths = [...files, ...elsewhere]
      .flatMap(({ path, audience }) => (audience === 'cache' ? [] : path))
      .sort();
    if (shippedPaths.length === 0) return;
    const shipped = () => new Map(shippedPaths.map((path) => [this.parts.paths.of(path), path]));
    const whole = bundle && isWhole ? bundle : undefined;
    const isBuilt = this.builds.key && (!whole || stored || members.length > 0);
    const aboutValues = async (seen: ReadonlySet<string>) => {
      if (whole) await this.#expectedValues(whole, seen, { stored, paths: shippedPaths });
    };
    const aboutBuild = async (seen: ReadonlySet<string>) => {
      if (isBuilt) await this.#builtFiles(group, stored, shipped(), seen);
    };
    if (isBuilt) await this.#earlierBuilds(group, stored, shipped(), members);
    if (whole && isFirst) for (const question of questions) this.#asked.add(question);
    if (!this.parts.part) {
      await aboutValues(present);
      await aboutBuild(present);
    } else if (isFirst) {
      await this.#unlessPresent(aboutValues, present, true);
      await this.#unlessPresent(aboutBuild, present);
    }
    if (whole && isFirst) await this.#loadTimeValues(whole, shipped);
  }

  /**
   * Runs a check of the whole output, whose findings depend on the public values that other parts may contain: once as if there were no
   * others, and once as if every value were there.
   */
  async #unlessPresent(
    check: (seen: ReadonlySet<string>) => Promise<void>,
    present: ReadonlySet<string>,
    unlessReported = false,
  ): Promise<void> {
    const run = async (seen: ReadonlySet<string>) => {
      const before = this.#findings.length;
      await check(seen);
      return this.#findings.splice(before);
    };
    const alone = await run(present);
    const anyway = new Set(
      (await run(new Set(this.parts.project.contract.variables.keys()))).map((one) => JSON.stringify(one)),
    );
    for (const finding of alone) {
      if (anyway.has(JSON.stringify(finding))) this.#unsettled.whole.push(finding);
      else {
        const isMissing = unlessReported && finding.code === 'stale/missing-value';
        this.#unsettled.unlessPresent.push({ finding, ...(isMissing && { unlessReported: true }) });
      }
    }
  }

  /** Secrets in the names of files; all names are searched at once, because most have none. */
  #fileNames(files: ArtifactGroup['files'], bundle: Bundle | undefined): void {
    const { search, paths, project, resolution } = this.parts;
    const isBelow = (path: string) => path.startsWith(project.root);
    // A directory above the project is not part of what ships. No file name contains a NUL, but some contain line breaks.
    const text = Buffer.from(files.map(({ path }) => path.slice(isBelow(path) ? project.root.length : 0)).join('\0'));
    const hits = search.valuesIn(text).filter(({ owner }) => owner.role === 'secret');
    const reported = new Set<string>();
    for (const { owner, start } of hits) {
      const index = text.subarray(0, start).filter((byte) => byte === 0).length;
      const { path, audience } = files[index] as ArtifactGroup['files'][number];
      const key = JSON.stringify([path, owner.variable]);
      if (audience !== 'browser' || reported.has(key)) continue;
      reported.add(key);
      const { variable, reach } = owner;
      const about = { stage: resolution.stage.name, ...(bundle && { bundle: bundle.name }) };
      const place = { path: paths.of(path), inside: [] };
      this.#findings.push(finding('leak/known-value', 'file-name', { variable, reach }, { ...about, place }));
    }
  }

  /** Repositories are not searched, but must not ship. */
  #repositories(skipped: readonly NotRead[], bundle: Bundle | undefined): void {
    const inspected = { stage: this.parts.resolution.stage.name, audience: 'browser' as const };
    for (const { path } of skipped) {
      const name = this.parts.paths.of(path);
      const found = bundle && privateDirectory(name);
      if (!found) continue;
      const exposed = privateFinding(
        found,
        lastName(name),
        { path: name, inside: [] },
        { ...inspected, bundle: bundle.name },
      );
      this.#findings.push(exposed);
    }
  }

  #artifactOf(file: ArtifactGroup['files'][number] | undefined): FileArtifact | undefined {
    return file && new FileArtifact(file.path, file.audience, this.parts.paths, this.parts.ahead);
  }

  async #artifact(
    artifact: FileArtifact,
    inspected: Inspected,
    next: FileArtifact | undefined,
  ): Promise<ArtifactResult | undefined> {
    const { search } = this.parts;
    try {
      const result = await search.search(artifact, inspected, next);
      this.#findings.push(...result.findings);
      this.#coverage.files++;
      this.#coverage.members += result.members;
      this.#coverage.bytes += result.bytes;
      this.#coverage.unread.push(...result.unread);
      return result;
    } catch (error) {
      const because = error instanceof Interrupted ? error.message : artifact.describeError(error);
      this.#coverage.unread.push({ path: artifact.name, inside: [], because });
      return undefined;
    }
  }

  #list(
    { name, audience }: FileArtifact,
    bundle: Bundle | undefined,
    { bytes, members, present }: ArtifactResult,
  ): void {
    const about = bundle && { bundle: bundle.name };
    this.#files.push({ path: name, bytes, members, ...about, for: audience });
    const shown = (inside: readonly string[]) => this.parts.search.shownNames(inside);
    this.#contained.push(...containedValues(present, { ...about, path: name }, shown));
  }

  /**
   * What the source code itself contains is a matter of lint, not another stage's value, unless this stage's own value is
   * missing.
   */
  #dropOwnLiterals(bundle: Bundle, present: ReadonlySet<string>): void {
    const isMissing = (variable: string) =>
      this.parts.resolution.values.get(variable)?.value !== undefined && !present.has(variable);
    this.#findings = this.#findings.filter((finding) => {
      const { code, variable = '', bundle: name } = finding;
      if (code !== 'stage/foreign-value' || name !== bundle.name || !this.#literals.has(bundle, variable)) return true;
      if (!isMissing(variable)) return false;
      if (this.parts.part) this.#unsettled.unlessPresent.push({ finding });
      return !this.parts.part;
    });
  }

  /** Public values that the output should contain, because the code reads them. */
  async #expectedValues(
    bundle: Bundle,
    present: ReadonlySet<string>,
    { stored, paths }: { stored: StoredReceipt | undefined; paths: readonly string[] },
  ): Promise<void> {
    if (bundle.runs === 'server') return;
    const { project, resolution } = this.parts;
    const given = [...givenValues(project.contract, bundle, resolution).values()];
    const unseen = given.filter(({ variable: { name, reach } }) => reach === 'public' && !present.has(name));
    if (unseen.length === 0) return;
    const stage = resolution.stage.name;
    this.#pastValues(
      bundle,
      unseen.filter((one) => !isFoldable(one)),
      paths,
    );
    const reported = new Set(
      [...this.#findings, ...seenAtBuild(stored)].flatMap((one) =>
        one.bundle === bundle.name ? (one.variable ?? []) : [],
      ),
    );
    const missing = unseen.filter((one) => !isFoldable(one) && !reported.has(one.variable.name));
    const traceless = stored ? [] : unseen.filter(isFoldable);
    // Reading the code takes longer than the search, and most outputs have every value.
    if (missing.length + traceless.length === 0) return;
    const places = await this.#readPlaces(bundle);
    if (!places) return;
    const { uncached } = toolchainOf(bundle);
    for (const one of missing) {
      const place = places.get(one.variable.name);
      const about = { stage, bundle: bundle.name, uncached };
      if (place) this.#findings.push(missingValue('in-output', one, about, place));
    }
    const read = traceless.filter(({ variable }) => places.has(variable.name));
    const names = read.map(({ variable }) => variable.name);
    if (!this.parts.part) this.#doubts.push(...untraceable(bundle.name, stage, names));
    else this.#unsettled.traceless.push(...names.map((variable) => ({ bundle: bundle.name, stage, variable })));
  }

  /** Undefined if the code cannot be parsed on this machine, which is reported: what it reads is unknown then. */
  async #readPlaces(bundle: Bundle): Promise<ReadonlyMap<string, Place> | undefined> {
    try {
      return await this.parts.readPlaces(bundle);
    } catch (error) {
      if (!(error instanceof ParserMissing)) throw error;
      for (const path of bundle.code) this.#coverage.unread.push({ path, inside: [], because: error.message });
      return undefined;
    }
  }

  /** Values that a rebuild should have replaced: the output has an earlier one instead of the current one. */
  #pastValues(bundle: Bundle, unseen: readonly GivenValue[], paths: readonly string[]): void {
    const { project, resolution } = this.parts;
    const { key } = this.builds;
    const receipts = key && unseen.length > 0 ? allReceipts(project, bundle.name).map(({ receipt }) => receipt) : [];
    const [newest] = receipts;
    if (!key || !newest) return;
    for (const { variable, value } of unseen) {
      const { name } = variable;
      const built = newest.predicate.values.find((one) => one.name === name);
      // Without a build for the current value, the receipt reports what is old.
      if (built?.fingerprint !== fingerprint(key, name, value)) continue;
      const past = pastValues(receipts, name, value, key);
      const found = past.size > 0 ? this.#findPast(paths, (text) => findPastValue(text, name, past, key)) : undefined;
      if (!found) continue;
      const origin = {
        source: this.#literals.placeOf(bundle, found.place.text),
        uncached: toolchainOf(bundle).uncached,
        caches: new BundleOutput(project, bundle).caches.map((path) => project.files.shown(path, project.root)),
      };
      const about = { bundle: bundle.name, variable: name, builtAt: found.place.builtAt, ...origin };
      const place = { path: this.parts.paths.of(found.path), inside: [], ...found.position };
      const stage = resolution.stage.name;
      this.#findings.push(finding('stale/past-value', 'not-replaced', about, { stage, place }));
    }
  }

  /** The first file of the output with a past value. */
  #findPast(paths: readonly string[], find: (text: string) => PastPlace | undefined) {
    const { files } = this.parts.project;
    for (const path of paths) {
      if (!/\.([cm]?js|html?|json|css|bundle)$/.test(path)) continue;
      const text = files.readIfPossible(path, limits.scriptBytes.value)?.toString();
      const place = text === undefined ? undefined : find(text);
      if (text !== undefined && place) return { path, place, position: textPlaces(text)(place.start) };
    }
    return undefined;
  }

  /** Files that were not read because the work was stopped, in one line. */
  #leftOut([first = '', ...others]: readonly string[], bundle: Bundle | undefined): void {
    const rest = `and ${count(others.length, 'more file')}${bundle ? ` of ${bundle.name}` : ''} were`;
    const because = `${others.length === 0 ? 'was' : rest} not read`;
    this.parts.search.forget();
    this.#coverage.unread.push(this.#unread({ path: first, because }));
  }

  /** Files of earlier builds: named ones, and those in archives. */
  async #earlierBuilds(
    { isWhole }: ArtifactGroup,
    stored: StoredReceipt | undefined,
    shipped: ReadonlyMap<string, string>,
    members: readonly Member[],
  ): Promise<void> {
    const built = new BuiltFiles(this.parts, this.builds);
    const files = isWhole ? [] : [...shipped].map(([name, path]) => ({ name, path }));
    const found = await built.recognise(
      { files, members },
      // Files of the output's own build are not reported twice.
      isWhole ? stored : undefined,
    );
    this.#findings.push(...found.findings);
    if (!isWhole && found.isComplete) this.#asked.add('current');
  }

  /** What the receipt of the last build tells of the whole output. */
  async #builtFiles(
    { bundle, isWhole }: ArtifactGroup,
    stored: StoredReceipt | undefined,
    shipped: ReadonlyMap<string, string>,
    seen: ReadonlySet<string>,
  ): Promise<void> {
    if (!bundle || !isWhole || !stored) return;
    const facts = await new BuiltFiles(this.parts, this.builds).factsOf(bundle, stored, shipped, seen);
    this.#findings.push(...stalenessFindings(this.parts.resolution.stage.name, facts));
  }

  /** Values that the app reads when it loads. @param shipped name in reports to absolute path */
  async #loadTimeValues(bundle: Bundle, shippedFiles: () => ReadonlyMap<string, string>): Promise<void> {
    const { project, resolution, others } = this.parts;
    // The code that reads pages is loaded only if there is something to check.
    if (runtimeVariables(project.contract, bundle).length === 0) return;
    const shipped = shippedFiles();
    const { runtimeFindings } = await import('../core/runtime/check.js');
    const found = runtimeFindings({
      contract: project.contract,
      bundle,
      resolution,
      others,
      files: new Set(shipped.keys()),
      read: (path) => this.#pageText(path, shipped.get(path) ?? path),
    });
    // Reported once, with the remedy that fits: no rebuild is needed.
    const reported = new Set(found.map(({ place, variable }) => `${place?.path} ${variable}`));
    this.#findings = this.#findings.filter(
      ({ code, place, variable }) => code !== 'stage/foreign-value' || !reported.has(`${place?.path} ${variable}`),
    );
    if (!this.parts.part) this.#findings.push(...found);
    else {
      this.#unsettled.whole.push(...found);
      this.#unsettled.explained.push(
        ...found.flatMap(({ place, variable }) => (place && variable ? [{ path: place.path, variable }] : [])),
      );
    }
  }

  /** A page that is too large is reported: its script tags are not checked. Other large files contain no load-time values. */
  #pageText(name: string, path: string): string | undefined {
    try {
      return this.parts.project.files.readRegular(path, limits.pageBytes.value).toString();
    } catch (error) {
      const because = `${describeFileError(error)}, so its load-time values were not checked`;
      if (/\.html?$/.test(name)) this.#coverage.unread.push({ path: name, inside: [], because });
      return undefined;
    }
  }

  #unread({ path, because }: NotRead): Unread {
    return { path: this.parts.paths.of(path), inside: [], because };
  }
}
