import { availableParallelism } from 'node:os';
import { resolve } from 'node:path';
import { givenValues } from '../core/build/environment.js';
import type { Bundle } from '../core/contract/contract.js';
import type { CheckResult, Coverage, Unread } from '../core/findings/check.js';
import { Failure } from '../core/findings/failure.js';
import type { RawFinding } from '../core/findings/finding.js';
import { planSearch, type SearchPlan } from '../core/inspect/plan.js';
import { type FoundIn, hitFindings, manyMoreFinding, type Part } from '../core/inspect/rules.js';
import { limits } from '../core/limits/index.js';
import { TextMask } from '../core/mask/text-mask.js';
import type { Receipt } from '../core/receipt/receipt.js';
import { type ArtifactFacts, stalenessFindings } from '../core/receipt/staleness.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { runtimeVariables } from '../core/runtime/runtime.js';
import { count } from '../core/text/display.js';
import { sha256 } from '../core/text/hash.js';
import { Interrupted, usualLimits } from '../core/unpack/limits.js';
import { describeFileError, digestFile, readHelpfulText } from '../host/files.js';
import type { LookAhead, LookThreads, Wanted } from '../host/look-ahead.js';
import { isBelow, shownPath } from '../host/paths.js';
import { newestReceipt, readKey, STATE_FOLDER, type StoredReceipt } from '../host/state.js';
import { expandPaths, type FoundFiles, findFiles, type NotRead } from '../host/walk.js';
import { Work } from '../host/work.js';
import type { World } from '../host/world.js';
import { looseValues } from './loose-files.js';
import { bundleOf, type Project, stageOf } from './open.js';
import { BuildParts } from './parts.js';
import { Resolver } from './resolve.js';
import { type DeepHits, FileSearcher, wantedBy } from './search-files.js';
import { ShownPaths } from './shown-paths.js';

export interface InspectRequest {
  /** As given, relative to the working folder; empty for the outputs of the bundles. */
  paths: readonly string[];
  stage?: string;
  bundle?: string;
  /** Look into the caches of the bundles' tools too. */
  caches?: boolean;
  /** Look into folders of packages and repositories too. */
  packages?: boolean;
  /** How many threads look at the files; as many as pay where it is not said. */
  threads?: number;
}

/** What an inspection found, and whether it was stopped before its end. */
export interface Inspected {
  /** The stage that the artifacts were inspected for. */
  stage: string;
  result: CheckResult;
  isStopped: boolean;
}

/** Files that are judged together: a bundle's output, or paths outside every output, which count as a browser's. */
interface Target {
  bundle?: Bundle;
  found: FoundFiles;
  /** What of it is looked at, and who gets it. */
  files: { path: string; part: Part }[];
  /** Caches that are not looked at. */
  skipped: NotRead[];
}

/**
 * Looks for every value that must not be in the artifacts, and for values that are not this stage's or not today's.
 * @throws Failure where the call cannot be understood
 */
export async function inspect(project: Project, request: InspectRequest, world: World): Promise<Inspected> {
  const bundles =
    request.bundle === undefined ? [...project.contract.bundles.values()] : [bundleOf(project, request.bundle)];
  const stage = stageOf(project, request.stage ?? stageOfNewestReceipt(project, bundles));
  const targets = await findTargets(project, bundles, request, world);
  const threads = await startThreads(targets, request.threads);
  try {
    const resolver = new Resolver(project, world);
    const { asked: resolution, all } = resolver.for(stage, 'with commands');
    const loose = looseValues(project);
    const plan = planSearch(project.contract, stage.name, all, loose.values);
    const wanted = wantedBy(plan);
    const ahead = threads && (await lookAhead(targets, wanted, threads));
    const work = new Work(
      world,
      'file',
      targets.reduce((sum, { files }) => sum + files.length, 0),
    );
    const inspection = new Inspection(project, plan, wanted, all, resolution, work, ahead);
    inspection.without(resolver.unread, loose.unread);
    try {
      for (const target of targets) await inspection.target(target, request.paths.length === 0);
    } finally {
      work.end();
    }
    return { stage: stage.name, result: inspection.result, isStopped: work.isStopped };
  } finally {
    await threads?.end();
  }
}

/** With fewer bytes than this threads take more than they save. */
const [PAYS, MOST_THREADS] = [256 * 2 ** 20, 4];

/** Threads for what is large; none where this one is as fast alone. */
async function startThreads(targets: readonly Target[], asked?: number): Promise<LookThreads | undefined> {
  let bytes = 0;
  for (const { files, found } of targets) for (const { path } of files) bytes += found.sizes.get(path) ?? 0;
  const count = asked ?? (bytes < PAYS ? 1 : Math.min(MOST_THREADS, availableParallelism()));
  if (count === 1) return undefined;
  const { LookThreads } = await import('../host/look-ahead.js');
  return new LookThreads(count - 1);
}

const LARGEST_AHEAD = 16 * 2 ** 30;

async function lookAhead(targets: readonly Target[], wanted: Wanted, threads: LookThreads): Promise<LookAhead> {
  const sizes = new Map<string, number>();
  for (const { files, found } of targets)
    for (const { path } of files) {
      const size = found.sizes.get(path) ?? 0;
      // A larger one may take longer than a file is given, which its own look knows.
      if (size <= LARGEST_AHEAD) sizes.set(path, size);
    }
  const { LookAhead } = await import('../host/look-ahead.js');
  return new LookAhead(sizes, wanted, threads);
}

/** What an inspection looks for. */
const INSPECT_GROUPS = ['leak/', 'stale/', 'stage/'];

class Inspection {
  readonly #paths: ShownPaths;
  readonly #searcher: FileSearcher;
  #findings: RawFinding[] = [];
  readonly #coverage: Required<Coverage>;
  readonly #key: Uint8Array | undefined;
  readonly #until = Date.now() + usualLimits.allSeconds * 1000;

  constructor(
    readonly project: Project,
    plan: SearchPlan,
    /** One matcher for all: its tables are what takes longest to make. */
    wanted: Wanted,
    readonly all: readonly Resolution[],
    readonly resolution: Resolution,
    readonly work: Work,
    ahead: LookAhead | undefined,
  ) {
    const isSecret = (needle: number) => plan.needles[needle]?.owners.some(({ role }) => role === 'secret') === true;
    this.#paths = new ShownPaths(project.root, new TextMask(wanted.matcher, isSecret));
    this.#searcher = new FileSearcher(plan, this.#paths, wanted, (bytes) => this.work.turn(bytes), ahead);
    this.#coverage = { files: 0, members: 0, bytes: 0, unread: [], passedOver: [], notSearched: plan.notSearched };
    this.#key = this.#readKey();
  }

  /** Receipts cannot be compared with values without the key, so an unreadable key is reported. */
  #readKey(): Uint8Array | undefined {
    try {
      return readKey(this.project.root);
    } catch (error) {
      if (!(error instanceof Failure)) throw error;
      this.#coverage.unread.push({ path: `${STATE_FOLDER}/key`, inside: [], because: phraseOf(error) });
      return undefined;
    }
  }

  /** The receipt of a bundle's last build. An unreadable one is reported: without it, stale values go unnoticed. */
  #receiptOf(bundle: Bundle | undefined): StoredReceipt | undefined {
    const { stored, unread } = bundle ? newestReceipt(this.project.root, bundle.name) : {};
    if (unread) this.#coverage.unread.push(this.#unread(unread));
    if (stored && !this.#key && !this.#coverage.unread.some(({ path }) => path === `${STATE_FOLDER}/key`))
      this.#coverage.unread.push({
        path: `${STATE_FOLDER}/key`,
        inside: [],
        because: 'is missing, and receipts need it',
      });
    return stored;
  }

  /** Values that are not known, and so are not searched for: what cannot be searched for is never clean. */
  without(layers: Resolver['unread'], files: readonly NotRead[]): void {
    for (const { stage, layer, because } of layers)
      this.#coverage.unread.push({ path: layer, inside: [], because: `is a layer of ${stage}: ${because}` });
    for (const one of files) this.#coverage.unread.push(this.#unread(one));
  }

  /** @param whole whether the target is a bundle's whole output, so that what is not there can be missed */
  async target({ bundle, found, files, skipped }: Target, whole: boolean): Promise<void> {
    this.#coverage.unread.push(...found.unread.map((one) => this.#unread(one)));
    this.#coverage.passedOver.push(...[...found.passedOver, ...skipped].map((one) => this.#unread(one)));
    const seen = new Set<string>();
    const shipped: string[] = [];
    const stored = this.#receiptOf(bundle);
    const untouched = untouchedFiles(stored?.receipt);
    for (const [index, { path, part }] of files.entries()) {
      if (this.work.isStopped || Date.now() > this.#until) {
        this.#leftOut(files.slice(index), bundle);
        return;
      }
      this.work.step();
      const present = await this.#file(path, part, bundle, untouched);
      if (part === 'cache') continue;
      shipped.push(path);
      for (const variable of present) seen.add(variable);
    }
    if (!bundle || !whole || shipped.length === 0) return;
    if (stored) await this.#staleness(bundle, stored, shipped, seen);
    await this.#runtime(bundle, shipped);
  }

  get result(): CheckResult {
    return { findings: this.#findings, coverage: this.#coverage, groups: INSPECT_GROUPS };
  }

  /** What Ctrl-C left out is unread, and said in one line. */
  #leftOut([first, ...others]: Target['files'], bundle: Bundle | undefined): void {
    if (!first) return;
    const all =
      others.length === 0 ? '' : ` and ${count(others.length, 'more file')}${bundle ? ` of ${bundle.name}` : ''}`;
    const verb = others.length === 0 ? 'was' : 'were';
    this.#coverage.unread.push(this.#unread({ path: first.path, because: `${all} ${verb} not looked at`.trim() }));
  }

  /** @returns the public variables whose present value is in the file */
  async #file(
    path: string,
    part: Part,
    bundle: Bundle | undefined,
    untouched: ReadonlyMap<string, string>,
  ): Promise<string[]> {
    let result: DeepHits;
    try {
      result = await this.#searcher.searchDeep(path);
    } catch (error) {
      const because = error instanceof Interrupted ? error.message : describeFileError(error);
      this.#coverage.unread.push(this.#unread({ path, because }));
      return [];
    }
    const shown = this.#paths.of(path);
    const hasHits = result.all.some(({ hits }) => hits.length > 0);
    const isLeftOver = hasHits && untouched.has(shown) && untouched.get(shown) === digestFile(path);
    const where: FoundIn = {
      stage: this.resolution.stage.name,
      part,
      ...(bundle && { bundle: bundle.name }),
      ...(isLeftOver && { leftOver: bundle?.output.join(', ') ?? '' }),
    };
    this.#coverage.files++;
    this.#coverage.members += result.all.length - 1;
    for (const { inside, because } of result.unread)
      this.#coverage.unread.push({ path: shown, inside: this.#paths.inside(inside), because });
    for (const { bytes, hits, more, inside } of result.all) {
      this.#coverage.bytes += bytes;
      this.#findings.push(...hitFindings(hits, where));
      for (const { owner, count } of more) {
        const place = { path: shown, inside: this.#paths.inside(inside) };
        this.#findings.push(...manyMoreFinding(owner, place, count, where));
      }
    }
    return result.all.flatMap(({ present }) => present.map(({ owner }) => owner.variable));
  }

  async #staleness(
    bundle: Bundle,
    stored: StoredReceipt,
    files: readonly string[],
    seen: ReadonlySet<string>,
  ): Promise<void> {
    const { root, contract } = this.project;
    if (!this.#key) return;
    const present = new Map(files.map((path) => [this.#paths.of(path), path]));
    const facts: ArtifactFacts = {
      receipt: stored.receipt,
      receiptPath: shownPath(stored.path, root),
      key: this.#key,
      given: givenValues(contract, bundle, this.resolution),
      build: bundle.build,
      buildsAlike: contract.stages.get(stored.receipt.predicate.stage)?.buildAs === this.resolution.stage.buildAs,
      unchanged: await unchangedFiles(stored.receipt.subject, present),
      present: new Set(present.keys()),
      seen,
      locate: (place) => this.#searcher.place(present.get(place.path) ?? place.path, place.offset, place.length),
    };
    this.#findings.push(...stalenessFindings(this.resolution.stage.name, facts));
  }

  /** Values that the app reads when it loads. */
  async #runtime(bundle: Bundle, files: readonly string[]): Promise<void> {
    // What reads pages is loaded where there is something to look for.
    if (runtimeVariables(this.project.contract, bundle).length === 0) return;
    const { runtimeFindings } = await import('../core/runtime/check.js');
    const present = new Map(files.map((path) => [this.#paths.of(path), path]));
    const { contract } = this.project;
    const found = runtimeFindings({
      contract,
      bundle,
      resolution: this.resolution,
      others: this.all.filter(({ stage }) => stage !== this.resolution.stage),
      files: new Set(present.keys()),
      read: (path) => readHelpfulText(present.get(path) ?? path, limits.pageBytes.value),
    });
    // Said once, with the remedy that fits: no build is needed.
    const told = new Set(found.map(({ place, variable }) => `${place?.path} ${variable}`));
    this.#findings = this.#findings.filter(
      ({ code, place, variable }) => code !== 'stage/foreign-value' || !told.has(`${place?.path} ${variable}`),
    );
    this.#findings.push(...found);
  }

  #unread({ path, because }: NotRead): Unread {
    return { path: this.#paths.of(path), inside: [], because };
  }
}

/** A failure's message as a phrase behind the path that it begins with. */
function phraseOf({ message }: Failure): string {
  return message.replace(/^\S+ /, '');
}

/** Files that stood there before the last build of a bundle and that it did not write, with their digests. */
function untouchedFiles(receipt: Receipt | undefined): Map<string, string> {
  const untouched = new Set(receipt?.predicate.untouched);
  return new Map(receipt?.subject.filter((one) => untouched.has(one.name)).map((one) => [one.name, one.digest.sha256]));
}

async function unchangedFiles(
  subject: readonly { name: string; digest: { sha256: string } }[],
  present: ReadonlyMap<string, string>,
): Promise<Set<string>> {
  const unchanged = new Set<string>();
  for (const { name, digest } of subject) {
    const path = present.get(name);
    if (path === undefined) continue;
    if (digestFile(path) === digest.sha256 || (await digestOfPage(path)) === digest.sha256) unchanged.add(name);
  }
  return unchanged;
}

/** A page that was pointed at a stage's values since its build is the page that was built. */
async function digestOfPage(path: string): Promise<string | undefined> {
  const html = /\.html?$/.test(path) ? readHelpfulText(path, limits.pageBytes.value, 'latin1') : undefined;
  if (html === undefined) return undefined;
  const { withoutValues } = await import('../core/runtime/page.js');
  return sha256(Buffer.from(withoutValues(html), 'latin1'));
}

/** @throws Failure where no bundle was built yet */
function stageOfNewestReceipt({ contract, root }: Project, bundles: readonly Bundle[]): string {
  const all = bundles.map(({ name }) => newestReceipt(root, name));
  const receipts = all.flatMap(({ stored }) => stored?.receipt.predicate ?? []);
  const newest = receipts.sort((a, b) => b.builtAt.localeCompare(a.builtAt))[0];
  if (newest) return newest.stage;
  const unread = all.flatMap((one) => one.unread ?? [])[0];
  const why = unread ? `: ${shownPath(unread.path, root)} ${unread.because}` : '';
  throw new Failure(
    `no receipt tells which stage was built${why}`,
    `name the stage: adder inspect --stage ${[...contract.stages.keys()].join('|')}; "adder with" writes receipts`,
  );
}

async function findTargets(
  project: Project,
  bundles: readonly Bundle[],
  { paths, bundle, caches = false, packages = false }: InspectRequest,
  world: World,
): Promise<Target[]> {
  const { root } = project;
  const outputs = await Promise.all(
    bundles.map(async (one) => ({ bundle: one, paths: await expandPaths(one.output, root) })),
  );
  if (paths.length === 0) {
    const withOutput = outputs.filter((one) => one.paths.length > 0);
    if (withOutput.length === 0) {
      throw new Failure(
        'no bundle of the contract has an output',
        'name the paths: adder inspect PATH..., or add output to a bundle',
      );
    }
    return withOutput.map((one) => {
      const parts = new BuildParts(project, one.bundle);
      const found = findFiles([...one.paths, ...(caches ? parts.caches : [])], packages);
      return targetOf(found, caches, one.bundle, parts);
    });
  }
  const owners = bundle === undefined ? outputs : outputs.filter((one) => one.bundle.name === bundle);
  return paths.map((path) => {
    const absolute = resolve(world.cwd, path);
    const owner = owners.find((one) => one.paths.some((output) => isBelow(absolute, output)));
    const found = findFiles([absolute], packages);
    return owner
      ? targetOf(found, caches, owner.bundle, new BuildParts(project, owner.bundle))
      : targetOf(found, caches);
  });
}

function targetOf(found: FoundFiles, caches: boolean, bundle?: Bundle, parts?: BuildParts): Target {
  const all = found.files.map((path) => ({ path, part: parts?.of(path) ?? ('browser' as const) }));
  const isSkipped = ({ part }: { part: Part }) => part === 'cache' && !caches;
  const skipped = new Set(
    all.filter(isSkipped).map(({ path }) => parts?.caches.find((cache) => isBelow(path, cache)) ?? path),
  );
  return {
    found,
    files: all.filter((one) => !isSkipped(one)),
    skipped: [...skipped].map((path) => ({ path, because: 'is a cache; --caches looks there' })),
    ...(bundle && { bundle }),
  };
}
