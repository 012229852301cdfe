import { givenValues } from '../core/build/environment.js';
import { type Facts, looseOutput, type OutputFacts } from '../core/conclude/facts.js';
import { conclude } from '../core/conclude/index.js';
import type { Bundle } from '../core/contract/contract.js';
import { isLogin, isOpen, openAccess, type SiteAccess } from '../core/contract/site-access.js';
import type { CheckResult, Coverage, Unread } from '../core/findings/check.js';
import { Failure } from '../core/findings/failure.js';
import { finding, type RawFinding } from '../core/findings/finding.js';
import { bundleFacts } from '../core/inspect/bundle-facts.js';
import { isFoldable, unknownSecrets } from '../core/inspect/expected.js';
import { memoryArtifact } from '../core/inspect/memory-artifact.js';
import { withHistory } from '../core/inspect/past-coverage.js';
import type { BundleFacts } from '../core/inspect/rule.js';
import { ArtifactSearch } from '../core/inspect/search.js';
import { limits } from '../core/limits/index.js';
import { unansweredCalls } from '../core/probe/calls.js';
import { isPage, isThere, isUnanswered, type Link, type Resource } from '../core/probe/resource.js';
import { type AskedSite, type SiteFacts, shownUrl, siteFinding } from '../core/probe/site.js';
import { type KnownFile, lackedScripts, servedBuild } from '../core/probe/version.js';
import { keepsStartPage } from '../core/probe/worker.js';
import type { Served } from '../core/report/findings-report.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { runtimeFindings } from '../core/runtime/check.js';
import { withoutValues } from '../core/runtime/page.js';
import { PAGE_FILE, PAGE_VALUES, valuesFileVariables } from '../core/runtime/runtime.js';
import { settingsIn } from '../core/runtime/settings-script.js';
import { count } from '../core/text/display.js';
import { sha256 } from '../core/text/hash.js';
import { percentDecoded } from '../core/text/percent.js';
import { toolchainOf } from '../core/toolchains/index.js';
import { hostOf, isPrivateHost } from '../host/addresses.js';
import { HttpClient } from '../host/http.js';
import { recordServed } from '../host/state.js';
import { Work } from '../host/work.js';
import type { World } from '../host/world.js';
import { type ProjectHistory, unreadEntries } from './history.js';
import { planFor } from './inspect.js';
import { LastBuilds, stageOfNewestReceipt } from './last-build.js';
import { chooseBundle, type Project, projectFor, stageOf } from './open.js';
import { otherScopes, StageResolver } from './resolve.js';
import { type SiteFile, SiteReader, type SiteRequest } from './site.js';
import { connections, filledHeaders } from './site-access.js';
import { type ApiAnswer, ApiRequests, privateFileFindings } from './site-answers.js';
import { requestsForBuild } from './site-build.js';
import { otherEncodings } from './site-encodings.js';
import { StartedKeys } from './site-started.js';
import { declaredBuild, receiptsOf, servedFacts, type VersionParts } from './site-version.js';

/** Seconds for one request, and requests per second to a public host. */
const [REQUEST_SECONDS, PER_SECOND] = [30, 40];

/** Sizes that are kept for the check of load-time values: of a script or JSON text, and of all pages. */
const [MOST_SCRIPT, MOST_PAGES] = [256 * 1024, 64 * 1024 * 1024];

export interface ProbeRequest extends SiteRequest {
  stage?: string | undefined;
  bundle?: string | undefined;
  /** `[METHOD] PATH [@FILE]`. */
  also: readonly string[];
  /** Headers for those, as `Name: value`. */
  headers: readonly string[];
  /** Also open the first page in a browser. */
  browser: boolean;
  /** Credentials and connection settings of the site. */
  access: SiteAccess;
  /** The build that the site should serve: `previous`, the path of a receipt, or a commit; the newest one if absent. */
  build?: string | undefined;
  /** Requests per second; chosen by the host if absent. */
  perSecond?: number | undefined;
}

/** How a site is probed if the user chooses nothing. */
export const usualProbe = {
  depth: 1,
  assetHosts: [],
  also: [],
  headers: [],
  browser: false,
  access: openAccess,
} as const;

export interface ProbeResult extends CheckResult {
  stage: string;
  coverage: Coverage;
  served: Served;
  isStopped: boolean;
}

/** The first page of a site gave no answer. */
export class SiteUnreachable extends Failure {
  constructor(because: string) {
    super(because, 'check the URL, and that the site can be reached from here');
  }
}

/**
 * Reads a served site, inspects everything that it loads, and compares it with the builds that receipts describe.
 * @throws Failure if the request cannot be understood; SiteUnreachable if the first page gives no answer
 */
export async function probe(whole: Project, request: ProbeRequest, world: World): Promise<ProbeResult> {
  const bundle = chooseBundle(whole, request.bundle, world.cwd);
  if (!bundle) throw new Failure('the contract has no bundle', 'add a bundle with its toolchain under `bundles`');
  const stage = stageOf(whole, request.stage ?? stageOfNewestReceipt(whole, [bundle], 'probe')).name;
  const project = projectFor(whole, bundle);
  const named = new Set([request.url, ...request.assetHosts.map((host) => `https://${host}`)].map(hostOf));
  const usual = isPrivateHost(hostOf(request.url)) ? undefined : PER_SECOND;
  const perSecond = request.perSecond ?? usual;
  const settings = { env: world.env, named, seconds: REQUEST_SECONDS, perSecond };
  const client = new HttpClient({ ...settings, ...connections(request.access, whole, world) });
  const work = new Work(world, 'file', 0, 0);
  try {
    return await new Probe(whole, project, bundle, stage, world, client, work).run(request);
  } finally {
    work.end();
    await client.close();
  }
}

/** Build manifests and service workers, as tools name them. */
const listNames = ['asset-manifest.json', 'manifest.json', '.vite/manifest.json', 'sw.js', 'service-worker.js'];

class Probe {
  readonly #output: OutputFacts;
  readonly #unread: Unread[] = [];
  readonly #skipped: Unread[] = [];
  readonly #coverage = { files: 0, members: 0, bytes: 0 };
  readonly #present = new Set<string>();
  readonly #known: KnownFile[] = [];
  /** Texts of pages and of files that may have load-time values, by URL. */
  readonly #texts = new Map<string, string>();
  #pageBytes = 0;
  readonly #started: StartedKeys;
  /** URLs of the service workers that answer the start page. */
  readonly #pageKeepers = new Set<string>();
  /** The site's host, and those that the user named. */
  #ownHosts: ReadonlySet<string> = new Set();
  /** Digests of files listed in receipts. */
  #digests: ReadonlySet<string> = new Set();
  readonly #foreignHosts = new Set<string>();
  readonly #valueFiles = new Set<string>();
  /** The first page as the server sent it. */
  #firstText: string | undefined;
  readonly #resolution: Resolution;
  /** Every stage. */
  readonly #all: readonly Resolution[];
  readonly #others: readonly Resolution[];
  readonly #search: ArtifactSearch;
  readonly #plan;
  readonly #history: ProjectHistory;
  readonly #builds: LastBuilds;
  readonly #names: readonly string[];
  readonly #facts: BundleFacts;

  constructor(
    whole: Project,
    readonly project: Project,
    readonly bundle: Bundle,
    readonly stage: string,
    readonly world: World,
    readonly client: HttpClient,
    readonly work: Work,
  ) {
    const { asked, all } = new StageResolver(project, world).for(stageOf(project, stage), 'with commands');
    const { plan, history } = planFor(project, stage, all, otherScopes(whole, bundle, world));
    this.#history = history;
    this.#resolution = asked;
    this.#all = all;
    this.#others = all.filter((one) => one !== asked);
    this.#plan = plan;
    this.#search = new ArtifactSearch(plan, { isStopped: (bytes) => work.turn(bytes), now: Date.now });
    this.#builds = new LastBuilds(project);
    this.#facts = bundleFacts(bundle);
    this.#output = looseOutput([], bundle.name);
    this.#names = valuesFileVariables(project.contract, bundle).map(({ name }) => name);
    this.#started = new StartedKeys(project.contract, bundle, this.#resolution, this.#others);
  }

  async run(request: ProbeRequest): Promise<ProbeResult> {
    const reader = new SiteReader(
      this.client,
      request,
      {
        file: (file) => this.#file(file),
        unread: (url, because) => void this.#unread.push({ path: url, inside: [], because }),
      },
      this.work,
    );
    const parts = { project: this.project, resolution: this.#resolution, client: this.client, world: this.world };
    const api = new ApiRequests(request.also, request.headers, parts);
    const { headers } = request.access;
    this.client.carry(new URL(request.url).origin, filledHeaders(headers, 'the header of the site', parts));
    const receipts = receiptsOf(this.#versionParts);
    const { stage, world } = this;
    const declared =
      request.build === undefined
        ? undefined
        : declaredBuild(this.#versionParts, request.build, { stage, receipts, cwd: world.cwd });
    this.#ownHosts = new Set([new URL(request.url).host, ...request.assetHosts]);
    this.#digests = new Set(receipts.flatMap(({ subject }) => subject.map(({ digest }) => digest.sha256)));
    await reader.read(usualFiles(request.url));
    const { first } = reader;
    if (!first) throw new SiteUnreachable(this.#why(request.url));
    const rest = requestsForBuild(first.url, stage, this.#known, receipts);
    await reader.readMore(rest.links);
    if (rest.left > 0) {
      const because = `has ${rest.left} more files of this build, which were not requested: a probe requests ${limits.probeBuildFiles.value}`;
      this.#unread.push({ path: shownUrl(new URL('.', first.url).href), inside: [], because });
    }
    const because = whyNotRead(first, request);
    if (because !== undefined) this.#unread.push({ path: shownUrl(request.url), inside: [], because });
    // Files of a login page are not part of the site.
    const resources = isLoginOf(first, request) ? [first] : reader.resources;
    const site = { url: first.url, stage: this.stage, bundle: this.bundle.name, resources };
    this.#headers(site.resources);
    await this.#encodings(site);
    this.#output.found.push(
      ...(await privateFileFindings(site, {
        project: this.project,
        bundle: this.bundle,
        client: this.client,
        receipts: this.#receiptPaths(),
        hosts: this.#ownHosts,
        isStopped: () => this.work.isStopped,
        unread: (path, because) => void this.#unread.push({ path, inside: [], because }),
      })),
    );
    const answered = new Set<string>();
    for await (const answer of api.answers(site)) await this.#answer(answer, answered);
    if (request.browser) await this.#afterStart(site, request, answered);
    // Several builds may have the same files: then the declared one is served.
    const served = servedBuild(this.#known, declared ? [declared, ...receipts] : receipts);
    const lacks = lackedScripts(served.receipt, this.#known, resources);
    this.#links(reader, site.url);
    const facts: SiteFacts = {
      url: site.url,
      resources: site.resources,
      ...(because !== undefined && { unread: because }),
      valueFiles: [...this.#valueFiles],
      workers: reader.workers.map((one) => ({ ...one, ...(this.#pageKeepers.has(one.url) && { keepsPage: true }) })),
      startFiles: this.#started.urls,
      calls: unansweredCalls(reader.calls, site.url, (url) => isAmong(answered, url) || reader.has(url)),
      served: servedFacts(this.#versionParts, this.stage, { ...served, lacks }, receipts, declared),
    };
    this.#output.site = facts;
    this.#output.loadTime = [...this.#loadTimeValues(site.resources, site.url), ...this.#started.findings(site)];
    await this.#expectedValues();
    return this.#result(facts, reader);
  }

  #recordServed(url: string, { stage, builtAt }: { stage: string; builtAt: string }): void {
    const { project, bundle, world } = this;
    recordServed(project, url, { bundle: bundle.name, stage, builtAt, seenAt: world.now().toISOString() });
  }

  #why(url: string): string {
    const because = this.#unread[0]?.because ?? 'gave no answer';
    return `${new URL(url).host} ${because}`;
  }

  #result(site: SiteFacts, reader: SiteReader): ProbeResult {
    const { contract } = this.project;
    const withoutValue = unknownSecrets(this.stage, [this.#resolution], this.#all);
    const known = withHistory(this.stage, withoutValue, this.#history, contract.history.isRequired);
    const unsearched = [...this.#plan.notSearched, ...known.notSearched];
    const skipped: Unread[] = [...this.#skipped];
    for (const path of reader.otherHosts)
      skipped.push({ path, inside: [], because: 'is another host, whose files were not read' });
    for (const path of this.#foreignHosts) {
      const because = `has scripts of others: searched for the contract's values only; --asset-host ${path} checks all`;
      skipped.push({ path, inside: [], because });
    }
    for (const path of site.calls)
      skipped.push({ path, inside: [], because: 'is asked for by the code of the page; its answer was not searched' });
    const coverage = {
      ...this.#coverage,
      unread: [...this.#unread, ...this.#builds.unread, ...unreadEntries(this.project, this.#history)],
      ...(skipped.length > 0 && { skipped }),
      ...(unsearched.length > 0 && { notSearched: unsearched }),
      ...(known.past && { past: known.past }),
    };
    const variables = [...contract.variables.values()].map(({ name, reach }) => ({ name, reach }));
    const { builds, unknown, since } = site.served;
    const [served] = builds;
    if (served) this.#recordServed(site.url, served);
    const facts: Facts = {
      ...{ stage: this.stage, variables, coverage, withoutValue: known.names, outputs: [this.#output], since },
      ...(known.lacking !== undefined && { withoutHistory: known.lacking }),
      ...{ isAll: false, shards: [] },
    };
    return {
      ...conclude(facts),
      stage: this.stage,
      coverage,
      served: {
        url: shownUrl(site.url),
        requests: this.client.requests,
        hosts: [...new Set(site.resources.map(({ url }) => new URL(url).host))],
        builds: builds.map(({ stage, builtAt, urls }) => ({ stage, builtAt, files: urls.length })),
        unknown: unknown.length,
      },
      isStopped: this.work.isStopped,
    };
  }

  async #file({ resource, body, map, isFirst, isError, isCopy }: SiteFile): Promise<void> {
    const { url, kind } = resource;
    if (isFirst) this.#firstText = Buffer.from(body).toString();
    const shown = shownUrl(url);
    const name = isPage(resource) && !/\.html?$/.test(shown) ? `${shown.replace(/\/$/, '')}/index.html` : shown;
    const artifact = { ...memoryArtifact(name, body, 'browser', map), name: shown };
    try {
      const result = await this.#search.search(artifact, {
        stage: this.stage,
        audience: 'browser',
        bundle: this.bundle.name,
        facts: this.#facts,
      });
      const isOthers = isError === true || this.#isOfOthers(resource);
      const all = isOthers ? result.findings.filter(isAboutValues) : result.findings;
      // The page of an error need not be of the build.
      const found = isError ? all.filter(({ code }) => code !== 'stage/foreign-value') : all;
      this.#output.found.push(...(kind === 'answer' ? found.map(asAnswer) : found));
      this.#coverage.files++;
      this.#coverage.members += result.members;
      this.#coverage.bytes += result.bytes;
      this.#unread.push(...result.unread);
      if (!isError && !isCopy) for (const { owner } of result.present) this.#present.add(owner.variable);
    } catch (error) {
      if (!this.work.isStopped) throw error;
      this.#unread.push({ path: shown, inside: [], because: 'was not read to its end' });
    }
    if (!isCopy) this.#note(resource, body);
  }

  /** A script of somebody else, such as statistics: what its own code is like is not the project's business. */
  #isOfOthers(resource: Resource): boolean {
    const { url, sha256: digest } = resource;
    const { host } = new URL(url);
    // Values files are written after the build, and pages get their tag then, so no receipt has them as they are.
    const isOfStage = PAGE_FILE.test(url.slice(url.lastIndexOf('/') + 1));
    if (isOfStage || isPage(resource) || this.#ownHosts.has(host) || this.#digests.has(digest)) return false;
    this.#foreignHosts.add(host);
    return true;
  }

  /** Properties of a file that later checks need. */
  #note(resource: Resource, body: Uint8Array): void {
    const { url, kind, sha256: digest } = resource;
    if (kind === 'answer') return;
    const isHtml = isPage(resource);
    if (!this.#isOfOthers(resource)) this.#started.read(resource, body);
    if (kind === 'worker' && keepsStartPage(Buffer.from(body).toString())) this.#pageKeepers.add(url);
    const isShort = body.length <= MOST_SCRIPT;
    const isCandidate = this.#names.length > 0 && isShort && (kind === 'script' || /\.json$/.test(shownUrl(url)));
    const text = isHtml || isCandidate ? Buffer.from(body).toString() : undefined;
    if (text !== undefined && this.#names.length > 0) this.#keep(resource, text);
    if (text !== undefined && isCandidate && this.#hasValues(url, text)) this.#valueFiles.add(url);
    const isOfStage = PAGE_FILE.test(url.slice(url.lastIndexOf('/') + 1));
    // The server writes this file when it starts, so no receipt has it.
    const isFilled = !isHtml && this.#started.urls.includes(url);
    if (isOfStage || isFilled || this.#isOfOthers(resource) || !['page', 'script', 'style'].includes(kind)) return;
    const plain = isHtml ? Buffer.from(withoutValues(Buffer.from(body).toString('latin1')), 'latin1') : undefined;
    const mayDiffer = isHtml && toolchainOf(this.bundle).rendersOnServer === true;
    this.#known.push({ url, sha256: plain ? sha256(plain) : digest, ...(mayDiffer && { mayDiffer }) });
  }

  /** Pages that are not kept are listed: their load-time values are not checked. */
  #keep(resource: Resource, text: string): void {
    const url = resource.url;
    if (isPage(resource)) this.#pageBytes += text.length;
    const isTooMuch = isPage(resource) && (text.length > limits.pageBytes.value || this.#pageBytes > MOST_PAGES);
    if (!isTooMuch) this.#texts.set(url, text);
    else {
      const because = 'is too large, or one of too many pages, so its load-time values were not checked';
      this.#unread.push({ path: shownUrl(url), inside: [], because });
    }
  }

  #hasValues(url: string, text: string): boolean {
    if (/\.json$/.test(shownUrl(url))) return this.#names.every((name) => text.includes(`"${name}"`));
    if (!/\.m?js$/.test(shownUrl(url))) return false;
    const isOurs = text.startsWith(`globalThis.${PAGE_VALUES}`) || text.startsWith(`export const ${PAGE_VALUES}`);
    return isOurs || settingsIn(text, this.#names) !== undefined;
  }

  get #versionParts(): VersionParts {
    return { project: this.project, bundle: this.bundle, resolution: this.#resolution, builds: this.#builds };
  }

  /** One is enough to tell that the directory is served. */
  #receiptPaths(): string[] {
    const { files, root } = this.project;
    return this.#builds.all.slice(0, 1).map(({ stored }) => files.shown(stored.path, root));
  }

  async #answer(answer: ApiAnswer, answered: Set<string>): Promise<void> {
    if ('because' in answer) {
      this.#unread.push({ path: shownUrl(answer.url), inside: [], because: answer.because });
      return;
    }
    answered.add(shownUrl(answer.resource.url));
    this.#headers([answer.resource]);
    await this.#file(answer);
  }

  /** Files whose content depends on the encoding that a client accepts. */
  async #encodings(site: AskedSite): Promise<void> {
    const search = { client: this.client, hosts: this.#ownHosts, isStopped: () => this.work.isStopped };
    for await (const { resource, body, finding: found } of otherEncodings(site, search)) {
      this.#output.found.push(found);
      await this.#file({ resource, body, isCopy: true });
    }
  }

  /** Pages that are linked and were not read. */
  #links({ pagesLeft }: SiteReader, url: string): void {
    if (pagesLeft === 0) return;
    const because = `links to ${count(pagesLeft, 'more page')}, not followed; --depth reads more`;
    this.#skipped.push({ path: shownUrl(url), inside: [], because });
  }

  async #afterStart(site: AskedSite, { access }: ProbeRequest, answered: Set<string>): Promise<void> {
    const { openInBrowser } = await import('./site-browser.js');
    const { findings, answers } = await openInBrowser(
      site,
      this.#firstText ?? '',
      this.#resolution,
      this.world,
      isOpen(access) ? undefined : this.client,
    );
    this.#output.found.push(...findings);
    for (const answer of answers) await this.#answer(answer, answered);
  }

  /** Secrets in headers, which name them and are masked like any text. */
  #headers(resources: readonly Resource[]): void {
    const site = { stage: this.stage, bundle: this.bundle.name };
    const reported = new Set<string>();
    for (const { headers, url } of resources) {
      for (const [header, value] of Object.entries(headers)) {
        const hits = this.#search.valuesIn(Buffer.from(value)).filter(({ owner }) => owner.role === 'secret');
        for (const { owner } of hits) {
          const { variable, reach } = owner;
          const key = `${header} ${variable}`;
          if (reported.has(key)) continue;
          reported.add(key);
          this.#output.found.push(
            siteFinding(site, shownUrl(url), finding('serve/secret-in-answer', 'header', { header, variable, reach })),
          );
        }
      }
    }
  }

  /** Values that the app reads when it loads: the same check as for a directory, over the site's paths. */
  #loadTimeValues(resources: readonly Resource[], home: string): RawFinding[] {
    if (this.#names.length === 0) return [];
    const byPath = new Map<string, string>();
    const policies = new Map(
      resources.map(({ url, headers }) => [url, headers['content-security-policy']?.split(',') ?? []]),
    );
    for (const resource of resources) {
      if (!isThere(resource) || (resource.isGuess && isPage(resource))) continue;
      const { pathname } = new URL(resource.url);
      const path = percentDecoded(pathname).slice(1);
      const isDirectory = isPage(resource) && !/\.html?$/.test(path);
      byPath.set(isDirectory ? `${path}${path === '' || path.endsWith('/') ? '' : '/'}index.html` : path, resource.url);
    }
    const found = runtimeFindings({
      contract: this.project.contract,
      bundle: this.bundle,
      resolution: this.#resolution,
      others: this.#others,
      files: new Set(byPath.keys()),
      isServed: true,
      read: (path) => this.#texts.get(byPath.get(path) ?? ''),
      policiesOf: (path) => policies.get(byPath.get(path) ?? '') ?? [],
    });
    return (
      found
        // Names without a digest are judged by the headers of the answer.
        .filter(({ code }) => code !== 'serve/cached-runtime-file')
        .map((one) => ({
          ...one,
          ...(one.place && { place: { ...one.place, path: shownUrl(byPath.get(one.place.path) ?? home) } }),
        }))
    );
  }

  /** Public values that the code reads. If the site was not read completely, none is known to be missing. */
  async #expectedValues(): Promise<void> {
    if (this.bundle.runs === 'server' || this.#unread.length > 0 || this.work.isStopped) return;
    this.#output.isWhole = true;
    this.#output.present = [...this.#present];
    const all = [...givenValues(this.project.contract, this.bundle, this.#resolution).values()];
    const given = all.filter(({ variable }) => variable.reach === 'public');
    this.#output.expected = given.map((one) => ({ variable: one.variable.name, leavesTrace: !isFoldable(one) }));
    if (given.every((one) => this.#present.has(one.variable.name) || isFoldable(one))) return;
    const { readPlaces } = await import('./expected.js');
    const { readCode } = await import('./lint.js');
    const places = readPlaces(this.project, this.bundle, await readCode(this.project, [this.bundle], this.world));
    this.#output.reads = [...places].map(([variable, place]) => ({ variable, place }));
  }
}

/** Usual URLs of file lists, service workers, robots.txt and the sitemap. */
function usualFiles(url: string): Link[] {
  const beside = listNames.map((name) => new URL(name, new URL('.', url)).href);
  const atRoot = ['robots.txt', 'sitemap.xml'].map((name) => new URL(`/${name}`, url).href);
  return [...beside, ...atRoot].map((one) => {
    const kind = one.endsWith('.js') ? ('worker' as const) : ('data' as const);
    return { url: one, kind, isCors: false, isGuess: true };
  });
}

/** Tells whether an answer was searched. The constant beginning of a template stands for any URL that begins so. */
function isAmong(answered: ReadonlySet<string>, url: string): boolean {
  return answered.has(url) || (url.endsWith('/') && [...answered].some((one) => one.startsWith(url)));
}

/** Tells whether the site redirected the first request to a login page. */
function isLoginOf({ url }: Resource, { url: asked }: ProbeRequest): boolean {
  return isLogin(url) && !isLogin(asked);
}

/** Returns the reason why the first page could not be read, if any. */
function whyNotRead(first: Resource, request: ProbeRequest): string | undefined {
  const { url, status } = first;
  const advice = 'if it asks for a login, pass --site-header or --cookie';
  if (isLoginOf(first, request)) return `redirects to ${shownUrl(url)}; ${advice}`;
  if (status === 401 || status === 403) return `denies access (status ${status}); ${advice}`;
  return isThere(first) || isUnanswered(status) ? undefined : `answers with status ${status}`;
}

/** Tells whether a finding is about a value of the project. */
function isAboutValues({ code }: RawFinding): boolean {
  return /^(leak\/(known-value|part-of-value|env-file|env-dump|name)|stage\/foreign-value)$/.test(code);
}

/** A secret in an answer of an API; other findings of such a text are about files that ship. */
function asAnswer(finding: RawFinding): RawFinding {
  return finding.code === 'leak/known-value' ? { ...finding, code: 'serve/secret-in-answer' } : finding;
}
