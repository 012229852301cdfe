import { givenValues } from '../core/build/environment.js';
import type { Bundle } from '../core/contract/contract.js';
import { fillTemplate, isCredential, placeholdersIn } from '../core/contract/hosts.js';
import { layersOf } from '../core/contract/scopes.js';
import type { Since } from '../core/findings/change.js';
import type { CheckResult, Coverage, Doubt, Question, Unread } from '../core/findings/check.js';
import { Failure } from '../core/findings/failure.js';
import type { RawFinding } from '../core/findings/finding.js';
import { bundleFacts } from '../core/inspect/bundle-facts.js';
import { isFoldable, missingValue, unknownSecrets } from '../core/inspect/expected.js';
import { memoryArtifact } from '../core/inspect/memory-artifact.js';
import { ArtifactSearch } from '../core/inspect/search.js';
import { settingsOnce } from '../core/inspect/settings.js';
import { limits } from '../core/limits/index.js';
import { weakness } from '../core/needles/weak.js';
import { type AlsoRequest, parseAlso, parseHeader } from '../core/probe/also.js';
import { privatePaths } from '../core/probe/exposed.js';
import { kindByName } from '../core/probe/links.js';
import { isAboutValues, READABLE_TEXT, readableText } from '../core/probe/rendered.js';
import { isPage, isThere, type Link, type Resource } from '../core/probe/resource.js';
import { siteRules } from '../core/probe/rules/index.js';
import { type Site, shownUrl, siteFinding } from '../core/probe/site.js';
import { type KnownFile, type ServedBuild, servedBuild, versionFindings } from '../core/probe/version.js';
import { builtValues, changesBetween, currentValues } from '../core/receipt/changes.js';
import { keyMark, type Receipt } from '../core/receipt/receipt.js';
import { servesBoth } from '../core/receipt/staleness.js';
import type { Served } from '../core/report/findings-report.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { runtimeFindings } from '../core/runtime/check.js';
import { commonFolder, withoutValues } from '../core/runtime/page.js';
import { PAGE_FILE, PAGE_VALUES, runtimeVariables } from '../core/runtime/runtime.js';
import { settingsIn } from '../core/runtime/settings-script.js';
import { reveal } from '../core/secrets/secret.js';
import { count } from '../core/text/display.js';
import { sha256 } from '../core/text/hash.js';
import { toolchainOf } from '../core/toolchains/index.js';
import { hostOf } from '../host/addresses.js';
import { describeFileError } from '../host/files.js';
import { HttpClient, HttpProblem } from '../host/http.js';

import { Work } from '../host/work.js';
import type { World } from '../host/world.js';
import { commandsFor } from './changes.js';
import { planFor } from './inspect.js';
import { LastBuilds, stageOfNewestReceipt } from './last-build.js';
import { chooseBundle, type Project, projectFor, stageOf } from './open.js';
import { otherScopes, StageResolver } from './resolve.js';
import { type SiteFile, SiteReader, type SiteRequest } from './site.js';

/** Seconds for one request, and the size of a text that is kept for the check of load-time values. */
const [REQUEST_SECONDS, MOST_KEPT] = [30, 256 * 1024];

export interface ProbeRequest extends SiteRequest {
  stage?: string | undefined;
  bundle?: string | undefined;
  /** `[METHOD] PATH [@FILE]`. */
  also: readonly string[];
  /** Headers for those, as `Name: value`. */
  headers: readonly string[];
  /** Also open the first page in a browser. */
  browser: boolean;
}

/** How a site is probed if the user chooses nothing. */
export const usualProbe = { depth: 1, assetHosts: [], also: [], headers: [], browser: false } as const;

export interface ProbeResult extends CheckResult {
  stage: string;
  coverage: Coverage;
  served: Served;
  isStopped: boolean;
}

/**
 * Reads a served site, inspects everything that it loads, and compares it with the builds that receipts describe.
 * @throws Failure if the request cannot be understood, or if the first page cannot be read
 */
export async function probe(whole: Project, request: ProbeRequest, world: World): Promise<ProbeResult> {
  const bundle = chooseBundle(whole, request.bundle, world.cwd);
  if (!bundle) throw new Failure('the contract has no bundle', 'add a bundle with its toolchain under `bundles`');
  const stage = stageOf(whole, request.stage ?? stageOfNewestReceipt(whole, [bundle])).name;
  const project = projectFor(whole, bundle);
  const named = new Set([request.url, ...request.assetHosts.map((host) => `https://${host}`)].map(hostOf));
  const client = new HttpClient({ env: world.env, named, seconds: REQUEST_SECONDS });
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
  #findings: RawFinding[] = [];
  readonly #unread: Unread[] = [];
  readonly #doubts: Doubt[] = [];
  readonly #asked = new Set<Question>(['nothingLeaked']);
  readonly #coverage = { files: 0, members: 0, bytes: 0 };
  readonly #present = new Set<string>();
  readonly #known: KnownFile[] = [];
  /** Texts of pages and of files that may have load-time values, by URL. */
  readonly #texts = new Map<string, string>();
  readonly #valueFiles = new Set<string>();
  #isOtherBuild = false;
  /** The first page as the server sent it. */
  #firstText: string | undefined;
  readonly #resolution: Resolution;
  readonly #others: readonly Resolution[];
  readonly #search: ArtifactSearch;
  readonly #plan;
  readonly #builds: LastBuilds;
  readonly #names: readonly string[];

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
    const { plan } = planFor(project, stage, all, otherScopes(whole, bundle, world));
    this.#resolution = asked;
    this.#others = all.filter((one) => one !== asked);
    this.#plan = plan;
    this.#search = new ArtifactSearch(plan, { isStopped: (bytes) => work.turn(bytes) });
    this.#builds = new LastBuilds(project);
    this.#names = runtimeVariables(project.contract, bundle).map(({ name }) => name);
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
    const receipts = this.#receipts();
    await reader.read(this.#expectedFiles(request.url, receipts));
    const { first } = reader;
    if (!first) throw new Failure(this.#why(request.url), 'check the URL, and that the site can be reached from here');
    const site: Site = {
      url: first.url,
      stage: this.stage,
      bundle: this.bundle.name,
      resources: reader.resources,
      valueFiles: this.#valueFiles,
      workers: reader.workers,
    };
    for (const rule of siteRules) this.#findings.push(...rule(site));
    if (!isThere(first)) this.#firstPage(first);
    this.#headers(site);
    await this.#privateFiles(site);
    await this.#also(site, request);
    if (request.browser) await this.#afterStart(site);
    const served = servedBuild(this.#known, receipts);
    const since = this.#version(site, served, receipts);
    this.#loadTimeValues(site);
    await this.#expectedValues();
    return this.#result(site, reader, served, since);
  }

  #why(url: string): string {
    const because = this.#unread[0]?.because ?? 'gave no answer';
    return `${new URL(url).host} ${because}`;
  }

  #result(site: Site, reader: SiteReader, served: ServedBuild, since: Since[]): ProbeResult {
    const unknown = unknownSecrets(this.stage, [this.#resolution]);
    const notSearched = [...this.#plan.notSearched, ...unknown.notSearched];
    const passedOver = [...reader.otherHosts].map((host) => ({
      path: host,
      inside: [],
      because: 'is another host, whose files were not read',
    }));
    const isStopped = this.work.isStopped;
    return {
      stage: this.stage,
      findings: settingsOnce(this.#findings),
      groups: [],
      coverage: {
        ...this.#coverage,
        unread: [...this.#unread, ...this.#builds.unread],
        ...(passedOver.length > 0 && { passedOver }),
        ...(notSearched.length > 0 && { notSearched }),
      },
      verdict: { asked: [...this.#asked], doubts: [...unknown.doubts, ...this.#doubts] },
      ...(since.length > 0 && { since }),
      served: {
        url: shownUrl(site.url),
        requests: this.client.requests,
        hosts: [...new Set(site.resources.map(({ url }) => new URL(url).host))],
        builds: served.builds.map(({ receipt: { predicate }, urls }) => ({
          stage: predicate.stage,
          builtAt: predicate.builtAt,
          files: urls.length,
        })),
        unknown: served.unknown.length,
      },
      isStopped,
    };
  }

  /** Receipts of the bundle that this machine can compare, the newest first. */
  #receipts(): Receipt[] {
    const { key } = this.#builds;
    const mark = key && keyMark(key);
    return this.#builds.all
      .filter(({ bundle }) => bundle.name === this.bundle.name)
      .map(({ stored }) => stored.receipt)
      .filter(({ predicate }) => predicate.key === undefined || predicate.key === mark);
  }

  /**
   * Files that a site may have without naming them: lists of its files under usual names, and those of the newest build, whose lazy
   * chunks no page need name.
   */
  #expectedFiles(url: string, receipts: readonly Receipt[]): Link[] {
    const lists = listNames.map((name) => ({
      url: new URL(name, new URL('.', url)).href,
      kind: name.endsWith('.js') ? ('worker' as const) : ('data' as const),
      isCors: false,
      isGuess: true,
    }));
    return [...lists, ...this.#filesOfBuild(url, receipts)];
  }

  #filesOfBuild(url: string, receipts: readonly Receipt[]): Link[] {
    const newest = receipts.find(({ predicate }) => predicate.stage === this.stage);
    const paths = newest?.subject.map(({ name }) => name) ?? [];
    const served = commonFolder(paths.filter((path) => /\.html?$/.test(path)));
    // Frameworks with a server have their pages elsewhere.
    if (!paths.includes(`${served}index.html`)) return [];
    const directory = new URL('.', url);
    return paths.flatMap((path) => {
      if (!path.startsWith(served) || served === '' || /\.(map|gz|br)$/.test(path)) return [];
      const relative = path.slice(served.length).split('/').map(encodeURIComponent).join('/');
      const kind = kindByName(path);
      const isScript = kind === 'script';
      return [{ url: new URL(relative, directory).href, kind, isCors: isScript, isGuess: true }];
    });
  }

  async #file({ resource, body, map, isFirst }: SiteFile): Promise<void> {
    const { url, kind } = resource;
    if (isFirst) this.#firstText = Buffer.from(body).toString();
    const shown = shownUrl(url);
    const name = isPage(resource) && !/\.html?$/.test(shown) ? `${shown.replace(/\/$/, '')}/index.html` : shown;
    const artifact = { ...memoryArtifact(name, body, 'browser', map), name: shown };
    const facts = bundleFacts(this.bundle);
    try {
      const result = await this.#search.search(artifact, {
        stage: this.stage,
        audience: 'browser',
        bundle: this.bundle.name,
        facts,
      });
      this.#findings.push(...(kind === 'answer' ? result.findings.map(asAnswer) : result.findings));
      this.#coverage.files++;
      this.#coverage.members += result.members;
      this.#coverage.bytes += result.bytes;
      this.#unread.push(...result.unread);
      for (const { owner } of result.present) this.#present.add(owner.variable);
    } catch (error) {
      if (!this.work.isStopped) throw error;
      this.#unread.push({ path: shown, inside: [], because: 'was not read to its end' });
    }
    this.#note(resource, body);
  }

  /** What later checks need of a file. */
  #note(resource: Resource, body: Uint8Array): void {
    const { url, kind, sha256: digest } = resource;
    if (kind === 'answer') return;
    const isHtml = isPage(resource);
    const isSmall = body.length <= MOST_KEPT;
    const isCandidate = this.#names.length > 0 && isSmall && (kind === 'script' || /\.json$/.test(shownUrl(url)));
    const text = isHtml || isCandidate ? Buffer.from(body).toString() : undefined;
    if (text !== undefined && (isCandidate || (isHtml && this.#names.length > 0 && isSmall)))
      this.#texts.set(url, text);
    if (text !== undefined && isCandidate && this.#hasValues(url, text)) this.#valueFiles.add(url);
    const isOfStage = PAGE_FILE.test(url.slice(url.lastIndexOf('/') + 1));
    // A page that a server renders is another one at each request.
    const isRendered = isHtml && toolchainOf(this.bundle).rendersOnServer === true;
    if (isOfStage || isRendered || !['page', 'script', 'style'].includes(kind)) return;
    const plain = isHtml ? Buffer.from(withoutValues(Buffer.from(body).toString('latin1')), 'latin1') : undefined;
    this.#known.push({ url, sha256: plain ? sha256(plain) : digest });
  }

  #hasValues(url: string, text: string): boolean {
    if (/\.json$/.test(shownUrl(url))) return this.#names.every((name) => text.includes(`"${name}"`));
    if (!/\.m?js$/.test(shownUrl(url))) return false;
    const isOurs = text.startsWith(`globalThis.${PAGE_VALUES}`) || text.startsWith(`export const ${PAGE_VALUES}`);
    return isOurs || settingsIn(text, this.#names) !== undefined;
  }

  #firstPage({ url, status }: Resource): void {
    const path = shownUrl(url);
    this.#unread.push({ path, inside: [], because: `answers with status ${status}` });
  }

  /** Values that the server rendered into the page, and that are gone after the app started. */
  async #afterStart(site: Site): Promise<void> {
    const sent = this.#firstText === undefined ? '' : readableText(this.#firstText);
    const values = [...this.#resolution.values.values()].filter(
      ({ variable, value }) =>
        variable.reach === 'public' && value && !weakness(reveal(value)) && sent.includes(reveal(value)),
    );
    const hosts = new Set(site.resources.map(({ url }) => new URL(url).host));
    const isAllowed = (url: string) => !/^https?:/.test(url) || hosts.has(new URL(url).host);
    const { startedPage } = await import('../host/browser.js');
    const { text, errors } = await startedPage(site.url, READABLE_TEXT, isAllowed, this.world);
    const [error] = errors.filter(isAboutValues);
    for (const { variable, value } of values) {
      if (!value || text.includes(reveal(value))) continue;
      const because = error === undefined ? '' : `; the browser's console: ${error}`;
      const finding = siteFinding(site, 'serve/lost-in-browser', shownUrl(site.url), {
        message: `the page that the server sends has the value of ${variable.name}, but it is gone after the app starts${because}`,
        remedy:
          'read it in browser code as a public value: inlined, or from the public runtime configuration of the framework',
      });
      this.#findings.push({ ...finding, variable: variable.name });
    }
  }

  /** Secrets in headers, which name them and are masked like any text. */
  #headers({ resources, ...site }: Site): void {
    const reported = new Set<string>();
    for (const { headers, url } of resources) {
      for (const [header, value] of headers) {
        const hits = this.#search.valuesIn(Buffer.from(value)).filter(({ owner }) => owner.role === 'secret');
        for (const { owner } of hits) {
          const key = `${header} ${owner.variable}`;
          if (reported.has(key)) continue;
          reported.add(key);
          this.#findings.push({
            ...siteFinding(site, 'serve/secret-in-answer', shownUrl(url), {
              message: `the header ${header} contains the value of ${owner.variable}, a ${owner.reach}-only variable`,
              remedy: 'remove it from the answer, then rotate the key: assume it is known',
            }),
            variable: owner.variable,
          });
        }
      }
    }
  }

  /** Files that no site may answer, from its root and from the directory of the page. */
  async #privateFiles(site: Site): Promise<void> {
    const { contract } = this.project;
    const layers = layersOf(contract).flatMap((layer) => (layer.kind === 'file' ? [layer.name] : []));
    const receipts = this.#builds.all.map(({ stored }) => this.project.files.shown(stored.path, this.project.root));
    const bases = [...new Set([new URL('/', site.url).href, new URL('.', site.url).href])];
    for (const base of bases) {
      for (const { path, what, matches } of privatePaths(layers, receipts.slice(0, 1))) {
        if (this.work.isStopped) return;
        const url = new URL(path, base).href;
        if (!url.startsWith(base)) continue;
        const answer = await this.client
          .send({ url, mostBytes: limits.pageBytes.value })
          .catch((error: unknown) => (error instanceof HttpProblem ? undefined : Promise.reject(error)));
        if (answer?.status !== 200 || !matches(Buffer.from(answer.body).toString())) continue;
        this.#findings.push(
          siteFinding(site, 'serve/env-file', shownUrl(url), {
            message: `the site answers with ${what}`,
            remedy: `remove ${path.replace(/^(\.git|\.svn|\.hg)\/.*$/, '$1')} from what is served, serve only ${this.bundle.output[0] ?? 'the output'}, and replace every secret in it: assume that it is known`,
          }),
        );
      }
    }
  }

  /** Answers of an API that the user named. */
  async #also(site: Site, { also, headers: given }: ProbeRequest): Promise<void> {
    const headers = this.#filledHeaders(given);
    for (const text of also) {
      const { method, path, bodyFile } = parsedAlso(text);
      const url = new URL(path, site.url);
      if (url.origin !== new URL(site.url).origin)
        throw new Failure(`--also ${path} is on another host`, 'only the site itself gets the headers of --header');
      const body = bodyFile === undefined ? undefined : this.#bodyOf(bodyFile);
      const answer = await this.client
        .send({ url: url.href, method, headers, body, mostBytes: limits.probeFileBytes.value })
        .catch((error: unknown) => {
          if (error instanceof HttpProblem) return error;
          throw error;
        });
      if (answer instanceof HttpProblem) {
        this.#unread.push({ path: shownUrl(url.href), inside: [], because: answer.message });
        continue;
      }
      const resource: Resource = {
        ...{ url: url.href, kind: 'answer', isCors: false, isGuess: false, status: answer.status },
        headers: answer.headers,
        bytes: answer.body.length,
        sha256: sha256(answer.body),
      };
      this.#headers({ ...site, resources: [resource] });
      await this.#file({ resource, body: answer.body });
    }
  }

  /** @throws Failure for a header that is none, or a variable without a value */
  #filledHeaders(given: readonly string[]): Record<string, string> {
    const textOf = (name: string) => {
      const own = this.#resolution.values.get(name)?.value;
      return own ? reveal(own) : this.world.env[name];
    };
    return Object.fromEntries(
      given.map((text) => {
        const header = parseHeader(text);
        if (!header)
          throw new Failure(
            '--header is not of the form "Name: value"',
            'example: --header "Authorization: Bearer {API_TOKEN}"',
          );
        const [name, template] = header;
        const missing = placeholdersIn(template)
          .filter(isCredential)
          .find((one) => !textOf(one));
        if (missing !== undefined)
          throw new Failure(`${missing} has no value, and --header needs it`, 'set it in the environment');
        this.world.outlet.protect(placeholdersIn(template).flatMap((one) => textOf(one) ?? []));
        return [name, fillTemplate(template, textOf)];
      }),
    );
  }

  #bodyOf(path: string): string {
    const { files } = this.project;
    try {
      return files.readRegular(files.path.resolve(this.world.cwd, path), limits.pageBytes.value).toString();
    } catch (error) {
      throw new Failure(`${path} ${describeFileError(error)}`, 'pass a file with the body of the request after @');
    }
  }

  /** Which build is served, and what changed since. */
  #version(site: Site, served: ServedBuild, receipts: readonly Receipt[]): Since[] {
    // One build for several stages is right for each of them.
    const newest = receipts.find((one) => one.predicate.stage === this.stage || this.#servesBoth(one));
    const { receipt } = served;
    const found = versionFindings(site, served, newest);
    this.#findings.push(...found);
    this.#isOtherBuild = found.length > 0;
    if (!receipt) {
      const because =
        receipts.length === 0
          ? `${this.bundle.name} has no receipt on this machine`
          : 'no receipt describes the files that the site serves';
      const remedy = `build with \`adder with ${this.stage} --bundle ${this.bundle.name}\` on this machine, and deploy that build`;
      this.#doubts.push({ question: 'current', bundle: this.bundle.name, because, remedy });
      return [];
    }
    this.#asked.add('current');
    if (served.unknown.length > 0) {
      const because = `${count(served.unknown.length, 'file')} of the site ${served.unknown.length === 1 ? 'is' : 'are'} of no build that a receipt describes`;
      this.#doubts.push({
        question: 'current',
        bundle: this.bundle.name,
        because,
        remedy: 'see `served` in the JSON report, or inspect the output before it is deployed',
      });
    }
    if (receipt.predicate.stage !== this.stage && receipt.predicate.stage !== newest?.predicate.stage) return [];
    return this.#since(site, receipt, newest ?? receipt);
  }

  /** Whether builds for the two stages differ in nothing that is inlined. */
  #servesBoth(receipt: Receipt): boolean {
    const { contract } = this.project;
    const buildsAlike = contract.stages.get(receipt.predicate.stage)?.buildAs === this.#resolution.stage.buildAs;
    const given = givenValues(contract, this.bundle, this.#resolution);
    return servesBoth({ receipt, given, key: this.#builds.key ?? new Uint8Array(), buildsAlike });
  }

  /** A value that the newest build has only needs to be deployed. */
  #since(site: Site, receipt: Receipt, newest: Receipt): Since[] {
    const { key } = this.#builds;
    if (!key) return [];
    const { contract } = this.project;
    const now = currentValues(
      {
        bundle: this.bundle,
        resolution: this.#resolution,
        given: givenValues(contract, this.bundle, this.#resolution),
      },
      key,
    );
    const compared = (one: Receipt) =>
      changesBetween(builtValues(one), now, { contract, bundle: this.bundle, isBuilt: false });
    const left = new Set(compared(newest).map(({ variable }) => variable));
    const changes = compared(receipt).map((change) =>
      change.action === 'rebuild' && !left.has(change.variable)
        ? { ...change, action: 'redeploy' as const, because: 'inlined, and the newest build has the new value' }
        : change,
    );
    // Load-time values are compared with the served file itself, and a server value belongs to one stage.
    const isOfStage = receipt.predicate.stage === this.stage;
    const others = changes.filter(({ action, reach }) => action !== 'reload' && (isOfStage || reach === 'public'));
    const commands = commandsFor(this.stage, this.bundle, receipt);
    for (const { variable } of others.filter(({ action }) => action === 'rebuild')) {
      const message = `the site has the old value of ${variable}`;
      const finding = siteFinding(site, 'stale/past-value', shownUrl(site.url), {
        message,
        remedy: `rebuild and deploy: ${commands.rebuild}`,
      });
      this.#findings.push({ ...finding, variable });
    }
    const { builtAt } = receipt.predicate;
    if (others.length === 0) return [];
    return [{ bundle: this.bundle.name, stage: this.stage, builtAt, ...commands, changes: others }];
  }

  /** Values that the app reads when it loads: the same check as for a directory, over the site's paths. */
  #loadTimeValues(site: Site): void {
    if (this.#names.length === 0) return;
    const byPath = new Map<string, string>();
    const policies = new Map(
      site.resources.map(({ url, headers }) => [url, headers.get('content-security-policy')?.split(',') ?? []]),
    );
    for (const resource of site.resources) {
      if (!isThere(resource) || (resource.isGuess && isPage(resource))) continue;
      const { pathname } = new URL(resource.url);
      const path = decodeURI(pathname).slice(1);
      const isDirectory = isPage(resource) && !/\.html?$/.test(path);
      byPath.set(isDirectory ? `${path}${path === '' || path.endsWith('/') ? '' : '/'}index.html` : path, resource.url);
    }
    const found = runtimeFindings({
      contract: this.project.contract,
      bundle: this.bundle,
      resolution: this.#resolution,
      others: this.#others,
      files: new Set(byPath.keys()),
      read: (path) => this.#texts.get(byPath.get(path) ?? ''),
      policiesOf: (path) => policies.get(byPath.get(path) ?? '') ?? [],
    });
    // Reported once, with the remedy that fits: no rebuild is needed.
    const reported = new Set(found.map(({ place, variable }) => `${byPath.get(place?.path ?? '')} ${variable}`));
    this.#findings = this.#findings.filter(
      ({ code, place, variable }) => code !== 'stage/foreign-value' || !reported.has(`${place?.path} ${variable}`),
    );
    this.#findings.push(
      ...found
        // Names without a digest are judged by the headers of the answer.
        .filter(({ code }) => code !== 'serve/cached-runtime-file')
        .map((one) => ({
          ...one,
          remedy: `${one.remedy}, and deploy it`,
          ...(one.place && { place: { ...one.place, path: shownUrl(byPath.get(one.place.path) ?? site.url) } }),
        })),
    );
  }

  /** Public values that the code reads, and that nothing on the site contains. */
  async #expectedValues(): Promise<void> {
    // The values of another build are not there, and the findings say why.
    if (this.#isOtherBuild || this.bundle.runs === 'server' || this.#unread.length > 0 || this.work.isStopped) return;
    this.#asked.add('allThere');
    const given = [...givenValues(this.project.contract, this.bundle, this.#resolution).values()];
    const reported = new Set(
      this.#findings.flatMap(({ code, variable }) => (code.startsWith('stale/') ? (variable ?? []) : [])),
    );
    const missing = given.filter(
      (one) =>
        one.variable.reach === 'public' &&
        !this.#present.has(one.variable.name) &&
        !isFoldable(one) &&
        !reported.has(one.variable.name),
    );
    if (missing.length === 0) return;
    const { codeReads } = await import('./expected.js');
    const { places } = await codeReads(this.project, this.bundle, this.world);
    for (const one of missing) {
      const place = places.get(one.variable.name);
      if (!place) continue;
      const finding = missingValue(one, { stage: this.stage, bundle: this.bundle.name, place });
      this.#findings.push({ ...finding, message: finding.message.replace(/^the output of \S+ does/, 'the site does') });
    }
  }
}

/** A secret in an answer of an API; other findings of such a text are about files that ship. */
function asAnswer(finding: RawFinding): RawFinding {
  return finding.code === 'leak/known-value' ? { ...finding, code: 'serve/secret-in-answer' } : finding;
}

function parsedAlso(text: string): AlsoRequest {
  const parsed = parseAlso(text);
  if (parsed) return parsed;
  throw new Failure('--also needs a path', 'examples: --also /api/config, --also "POST /api/session @body.json"');
}
