import { givenValues } from '../core/build/environment.js';
import { type Facts, looseOutput, type OutputFacts, type PastValue } from '../core/conclude/facts.js';
import type { Bundle } from '../core/contract/contract.js';
import { packageEntries } from '../core/files/package-entry.js';
import { within } from '../core/files/within.js';
import type { Unread } from '../core/findings/check.js';
import type { CheckedFile, ContainedValue } from '../core/findings/contents.js';
import { finding, type Place, type RawFinding } from '../core/findings/finding.js';
import type { Audience } from '../core/inspect/artifact.js';
import { bundleFacts } from '../core/inspect/bundle-facts.js';
import { containedValues } from '../core/inspect/contained.js';
import { isFoldable } from '../core/inspect/expected.js';
import type { WithHistory } from '../core/inspect/past-coverage.js';
import type { BundleFacts, Inspected } from '../core/inspect/rule.js';
import type { ArtifactSearch } from '../core/inspect/search.js';
import type { ArtifactResult } from '../core/inspect/visit.js';
import { limits } from '../core/limits/index.js';
import { findPastValue, type PastPlace, pastValues } from '../core/receipt/past.js';
import { fingerprint } from '../core/receipt/receipt.js';
import type { GivenValue } from '../core/receipt/serves-both.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { valuesFileVariables } from '../core/runtime/runtime.js';
import { BinaryMissing } from '../core/syntax/binary-missing.js';
import { count } from '../core/text/display.js';
import { textPlaces } from '../core/text/positions.js';
import { toolchainOf } from '../core/toolchains/index.js';
import { Interrupted } from '../core/unpack/limits.js';
import { FileArtifact } from '../host/file-artifact.js';
import { describeFileError } from '../host/files.js';
import type { ScanAheadOfTime } from '../host/scan-ahead.js';
import type { ShownPaths } from '../host/shown-paths.js';
import { allReceipts } from '../host/state.js';
import type { NotRead } from '../host/walk.js';
import type { Work } from '../host/work.js';
import type { ArtifactGroup } from './artifacts.js';
import { type ArchivedFile, BuiltFiles } from './built-files.js';
import { BundleOutput } from './bundle-output.js';
import type { WrittenText } from './expected.js';
import { LastBuilds, untouchedFiles } from './last-build.js';
import { type Project, packageFolder } from './open.js';
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
  /** True if the result lists files and public values. */
  withContents: boolean;
  ahead: ScanAheadOfTime | undefined;
  /** The names of all files that are inspected, here or by other machines, without their directories. */
  fileNames: ReadonlySet<string>;
  /** The variables that a bundle's code reads at build time, with one place of each. */
  readPlaces(bundle: Bundle): Promise<ReadonlyMap<string, Place>>;
  /** Finds some texts in strings of a bundle's code. */
  writtenText(bundle: Bundle, texts: readonly string[]): Promise<WrittenText | undefined>;
}

/** Properties that all files of a group share. */
interface InspectedGroup {
  parts: InspectionParts;
  builds: LastBuilds;
  bundle: Bundle | undefined;
  facts: BundleFacts | undefined;
  /** Digests of the files that the bundle's build did not write, by path. */
  untouched: ReadonlyMap<string, string>;
}

/** Facts about a file for the rules. */
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

/** Collects the facts of all artifacts of one run. It concludes nothing. */
export class Inspection {
  readonly #outputs: OutputFacts[] = [];
  readonly #coverage = { files: 0, members: 0, bytes: 0, unread: [] as Unread[], skipped: [] as Unread[] };
  readonly #files: CheckedFile[] = [];
  readonly #contained: ContainedValue[] = [];
  readonly builds: LastBuilds;
  readonly #literals: OwnLiterals;
  readonly #until = Date.now() + limits.inspectSeconds.value * 1000;

  constructor(readonly parts: InspectionParts) {
    this.builds = new LastBuilds(parts.project);
    this.#literals = new OwnLiterals(parts.project);
  }

  /** Files of the history that cannot be used. */
  unreadEntries(entries: readonly Unread[]): void {
    this.#coverage.unread.push(...entries);
  }

  /** @param unknown values that are not searched for, and those of them that may be secrets */
  facts({ notSearched, names, past, lacking }: WithHistory): Facts {
    const { contract } = this.parts.project;
    const variables = [...contract.variables.values()].map(({ name, reach }) => ({ name, reach }));
    const unread = [...this.#coverage.unread, ...this.builds.unread];
    const contents = { variables, files: this.#files, values: this.#contained };
    return {
      stage: this.parts.resolution.stage.name,
      variables,
      coverage: {
        ...this.#coverage,
        unread,
        ...(notSearched.length > 0 && { notSearched }),
        ...(past && { past }),
      },
      ...(lacking !== undefined && { withoutHistory: lacking }),
      withoutValue: [...names],
      outputs: this.#outputs,
      ...(this.parts.withContents && { contents }),
      ...{ since: [], isAll: false, shards: [] },
    };
  }

  /** Values that are unknown, and so are not searched for. */
  notSearched(layers: StageResolver['unread'], files: readonly NotRead[]): void {
    for (const { stage, layer, because } of layers)
      this.#coverage.unread.push({ path: layer, inside: [], because: `is a layer of ${stage}: ${because}` });
    this.#coverage.unread.push(...files.map((one) => this.#unread(one)));
  }

  /** Collects the facts of one output. In a shard, the files of other shards are known by name only. */
  async group(group: ArtifactGroup): Promise<void> {
    const { bundle, files, elsewhere = [], unread, skipped } = group;
    this.#coverage.unread.push(...unread.map((one) => this.#unread(one)));
    this.#coverage.skipped.push(...skipped.map((one) => this.#unread(one)));
    const output = looseOutput([], bundle?.name);
    this.#outputs.push(output);
    const searched = await this.#search(group, output);
    this.parts.search.forget();
    if (!searched) return;
    this.#fileNames(files, output);
    output.skipped = skipped.map(({ path }) => this.parts.paths.of(path));
    if (bundle) {
      output.inCode = await this.#inCode(bundle, output);
      output.found = await this.#withSources(bundle, output);
    }
    const shipped = files.flatMap(({ path, audience }) => (audience === 'cache' ? [] : path)).sort();
    const others = elsewhere.flatMap(({ path, audience }) => (audience === 'cache' ? [] : path));
    if (shipped.length + others.length === 0) return;
    output.isWhole = group.isWhole && bundle !== undefined;
    const built = new BuiltFiles(this.parts, this.builds);
    Object.assign(output, await built.facts({ bundle, isWhole: output.isWhole }, shipped, searched.members));
    if (!bundle || !output.isWhole) return;
    await this.#expected(bundle, output, shipped);
    await this.#pageScripts(output, bundle, shipped);
    output.loadTime = await this.#loadTimeValues(bundle, [...shipped, ...others].sort());
  }

  /** Searches all files of a group. @returns undefined if the search was stopped */
  async #search(
    { bundle, files }: ArtifactGroup,
    output: OutputFacts,
  ): Promise<{ members: readonly ArchivedFile[] } | undefined> {
    const present = new Set<string>();
    const members: ArchivedFile[] = [];
    const ofGroup: InspectedGroup = {
      parts: this.parts,
      builds: this.builds,
      bundle,
      facts: bundle && { ...bundleFacts(bundle), isLibrary: isLibrary(this.parts.project, bundle) },
      untouched: untouchedFiles(bundle && this.builds.receiptOf(bundle)?.receipt),
    };
    let next = this.#artifactOf(files[0]);
    for (const [index, { path, audience, bytes }] of files.entries()) {
      if (this.parts.work.isStopped || Date.now() > this.#until) {
        this.#leftOut(files.slice(index), bundle);
        return undefined;
      }
      this.parts.work.begin(bytes);
      const artifact = next as FileArtifact;
      next = this.#artifactOf(files[index + 1]);
      const result = await this.#artifact(artifact, new InspectedFile(artifact, ofGroup), next);
      if (!result) continue;
      output.found.push(...result.findings);
      if (this.parts.withContents) this.#list(artifact, bundle, { ...result, bytes });
      if (audience === 'cache') continue;
      for (const { owner } of result.present) present.add(owner.variable);
      for (const { inside, sha256 } of result.digests) members.push({ path, inside, sha256 });
    }
    output.present = [...present];
    return { members };
  }

  /** Secrets in the names of files; all names are searched at once, because most have none. */
  #fileNames(files: ArtifactGroup['files'], { bundle, found }: OutputFacts): void {
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
      const about = { stage: resolution.stage.name, ...(bundle !== undefined && { bundle }) };
      const place = { path: paths.of(path), inside: [] };
      found.push(finding('leak/known-value', 'file-name', { variable, reach }, { ...about, place }));
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
    try {
      const result = await this.parts.search.search(artifact, inspected, next);
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

  /** Other stages' values in the output that the bundle's own code contains as well. */
  async #inCode(bundle: Bundle, { found }: OutputFacts): Promise<OutputFacts['inCode']> {
    const foreign = found.flatMap(({ code, variable }) => (code === 'stage/foreign-value' ? (variable ?? []) : []));
    const inCode: OutputFacts['inCode'] = [];
    for (const variable of new Set(foreign)) {
      const values = this.#literals.valuesOf(bundle, variable, this.parts.others);
      if (values.length === 0) continue;
      const written = await this.#written(bundle, values);
      if (!written) continue;
      const hasValue = this.parts.resolution.values.get(variable)?.value !== undefined;
      inCode.push({ variable, hasValue, ...(!written.isShipped && { source: written.source }) });
    }
    return inCode;
  }

  /** Secrets with the line of the bundle's own code that has them, which is where to remove them. */
  async #withSources(bundle: Bundle, { found }: OutputFacts): Promise<RawFinding[]> {
    const isSecret = ({ code, variant }: RawFinding) => code === 'leak/known-value' && variant === 'shipped';
    const stages = [this.parts.resolution, ...this.parts.others];
    const sources = new Map<string, string>();
    for (const variable of new Set(found.flatMap((one) => (isSecret(one) ? (one.variable ?? []) : [])))) {
      const values = this.#literals.valuesOf(bundle, variable, stages);
      const written = values.length > 0 ? await this.#written(bundle, values) : undefined;
      if (written) sources.set(variable, written.source);
    }
    return found.map((one) => {
      const source = isSecret(one) ? sources.get(one.variable ?? '') : undefined;
      return source === undefined ? one : { ...one, facts: { ...one.facts, source } };
    });
  }

  async #written(bundle: Bundle, values: readonly string[]): Promise<WrittenText | undefined> {
    try {
      return await this.parts.writtenText(bundle, values);
    } catch (error) {
      // Code that cannot be parsed on this machine explains nothing.
      if (error instanceof BinaryMissing) return undefined;
      throw error;
    }
  }

  /** Public values that the output should contain, and what explains those that are not there. */
  async #expected(bundle: Bundle, output: OutputFacts, paths: readonly string[]): Promise<void> {
    if (bundle.runs === 'server') return;
    const { project, resolution } = this.parts;
    const all = [...givenValues(project.contract, bundle, resolution).values()];
    const given = all.filter(({ variable }) => variable.reach === 'public');
    output.expected = given.map((one) => ({ variable: one.variable.name, leavesTrace: !isFoldable(one) }));
    const { uncached } = toolchainOf(bundle);
    if (uncached !== undefined) output.uncached = uncached;
    const unseen = given.filter(({ variable }) => !output.present.includes(variable.name));
    output.past = this.#pastValues(
      bundle,
      unseen.filter((one) => !isFoldable(one)),
      paths,
    );
    output.reads = await this.#reads(bundle, output, unseen);
  }

  /** Reading the code takes longer than the search, and most outputs have every value. */
  async #reads(
    bundle: Bundle,
    { build, past, found }: OutputFacts,
    unseen: readonly GivenValue[],
  ): Promise<OutputFacts['reads']> {
    const held = build?.values.filter(({ places }) => places.length > 0) ?? [];
    const reported = new Set([...past, ...found, ...held].map(({ variable }) => variable));
    const matters = unseen.filter((one) => (isFoldable(one) ? !build : !reported.has(one.variable.name)));
    if (matters.length === 0) return [];
    try {
      const places = await this.parts.readPlaces(bundle);
      return [...places].map(([variable, place]) => ({ variable, place }));
    } catch (error) {
      if (!(error instanceof BinaryMissing)) throw error;
      // The code cannot be parsed on this machine: what it reads is unknown.
      for (const path of bundle.code) this.#coverage.unread.push({ path, inside: [], because: error.message });
      return [];
    }
  }

  /** Values of earlier builds in the output: their text is unknown, and their fingerprints are not. */
  #pastValues(bundle: Bundle, unseen: readonly GivenValue[], paths: readonly string[]): PastValue[] {
    const { project } = this.parts;
    const { key } = this.builds;
    const receipts = key && unseen.length > 0 ? allReceipts(project, bundle.name).map(({ receipt }) => receipt) : [];
    const [newest] = receipts;
    if (!key || !newest) return [];
    return unseen.flatMap(({ variable: { name }, value }): PastValue[] => {
      const built = newest.predicate.values.find((one) => one.name === name);
      // Without a build for the current value, the receipt reports what is old.
      if (built?.fingerprint !== fingerprint(key, name, value)) return [];
      const past = pastValues(receipts, name, value, key);
      const found = past.size > 0 ? this.#findPast(paths, (text) => findPastValue(text, name, past, key)) : undefined;
      if (!found) return [];
      const source = this.#literals.placeOf(bundle, found.place.text);
      const { uncached } = toolchainOf(bundle);
      return [
        {
          variable: name,
          builtAt: found.place.builtAt,
          place: { path: this.parts.paths.of(found.path), inside: [], ...found.position },
          ...(source !== undefined && { source }),
          ...(uncached !== undefined && { uncached }),
          caches: new BundleOutput(project, bundle).caches.map((path) => project.files.shown(path, project.root)),
        },
      ];
    });
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
  #leftOut([first, ...others]: ArtifactGroup['files'], bundle: Bundle | undefined): void {
    const end = this.parts.work.isStopped
      ? 'was stopped'
      : `took more than ${limits.inspectSeconds.value / 60} minutes`;
    const rest = `; ${count(others.length, 'more file')}${bundle ? ` of ${bundle.name}` : ''} ${others.length === 1 ? 'was' : 'were'} not read`;
    const because = `was not read: the inspection ${end}${others.length === 0 ? '' : rest}`;
    this.#coverage.unread.push(this.#unread({ path: first?.path ?? '', because }));
  }

  /** Values that the app reads when it loads. A page and its values file may be in different parts of the output. */
  async #loadTimeValues(bundle: Bundle, paths: readonly string[]): Promise<RawFinding[]> {
    const { project, resolution, others } = this.parts;
    // The code that reads pages is loaded only if there is something to check.
    if (valuesFileVariables(project.contract, bundle).length === 0) return [];
    const shipped = new Map(paths.map((path) => [this.parts.paths.of(path), path]));
    const { runtimeFindings } = await import('../core/runtime/check.js');
    return runtimeFindings({
      contract: project.contract,
      bundle,
      resolution,
      others,
      files: new Set(shipped.keys()),
      read: (path) => this.#pageText(path, shipped.get(path) ?? path),
    });
  }

  /** Scripts that pages name and no output has. */
  async #pageScripts({ found }: OutputFacts, { name: bundle }: Bundle, shipped: readonly string[]): Promise<void> {
    const { paths, resolution, fileNames } = this.parts;
    const pages = shipped.filter((path) => /\.html?$/.test(path));
    if (pages.length === 0) return;
    const { missingScripts } = await import('../core/runtime/missing-scripts.js');
    const about = { bundle, stage: resolution.stage.name };
    for (const path of pages) {
      const html = this.parts.project.files.readIfPossible(path, limits.pageBytes.value)?.toString();
      if (html !== undefined) found.push(...missingScripts(paths.of(path), html, fileNames, about));
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

/** Tells whether importers of the bundle's package get its output: the manifest names files of it. */
function isLibrary({ files, root }: Project, { code, output, runs }: Bundle): boolean {
  if (runs !== 'browser') return false;
  const { join, posix } = files.path;
  const folder = packageFolder({ files, root }, code[0] ?? '.');
  const manifest = files.readIfPossible(join(root, folder, 'package.json'))?.toString() ?? '';
  return packageEntries(manifest).some((path) => within(output)(posix.join(folder, path)));
}
