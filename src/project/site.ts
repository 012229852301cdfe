import { inlineSourceMap, sourceMapAddress } from '../core/inspect/source-map.js';
import { limits } from '../core/limits/index.js';
import { callsIn } from '../core/probe/calls.js';
import {
  linksInJson,
  linksInPage,
  linksInScript,
  linksInSitemap,
  linksInStyle,
  sitemapsInRobots,
} from '../core/probe/links.js';
import { isError, isPage, isThere, isUnanswered, type Link, type Resource, typeOf } from '../core/probe/resource.js';
import { shownUrl } from '../core/probe/site.js';
import { sha256 } from '../core/text/hash.js';
import { type Answer, type HttpClient, HttpProblem } from '../host/http.js';
import { describeStatus, sendPatiently, usualPatience } from '../host/retry.js';
import type { Work } from '../host/work.js';

/** Requests at the same time, redirects that are followed, and sitemaps that are read. */
const [AT_ONCE, MOST_REDIRECTS, MOST_SITEMAPS] = [6, 5, 20];

export interface SiteRequest {
  url: string;
  /** How many links to other pages are followed, one after the other. */
  depth: number;
  /** Hosts besides the site's own whose files are read. */
  assetHosts: readonly string[];
}

/** Maximum number of responses per file of the limit, because missing files do not count as files of the site. */
const GUESSES_PER_FILE = 4;

/** A file of the site with its content, which is only valid during the call that gets it. */
export interface SiteFile {
  resource: Resource;
  body: Uint8Array;
  /** The text of its source map. */
  map?: string;
  /** The page that was asked for. */
  isFirst?: true;
  /** True for the body of an error response. */
  isError?: true;
  /** True for a file in another encoding, if its content is another one too. */
  isCopy?: true;
}

/** Callbacks for files, and for URLs that could not be read. */
export interface SiteVisitor {
  /** Calls follow one after the other. */
  file(file: SiteFile): Promise<void>;
  unread(url: string, because: string): void;
}

interface Queued extends Link {
  isFirst?: true;
  from?: string;
  depth: number;
  /** The base of the page that leads to it. */
  base?: string;
}

/** Reads a site: its pages, and everything that they load. Content is handed out and not kept. */
export class SiteReader {
  readonly resources: Resource[] = [];
  /** The first page; absent if it gave no answer. */
  first: Resource | undefined;
  /** Hosts that files refer to and that are not read. */
  readonly otherHosts = new Set<string>();
  readonly #visited = new Set<string>();
  readonly #queue: Queued[] = [];
  /** Requested URLs; the resource once there is an answer. */
  readonly #seen = new Map<string, { link: Queued; resource?: Resource }>();
  /** URLs that each script names. */
  readonly #named = new Map<string, string[]>();
  /** Requests of an API in the site's own scripts, as written. */
  readonly calls = new Set<string>();
  /** URLs of other pages of the site that files link to, without queries. */
  readonly #linked = new Set<string>();
  #sitemaps = 0;
  /** Scripts that are asked for as service workers, if only after they were asked for as files of a build. */
  readonly #workers = new Set<string>();
  readonly #hosts: Set<string>;
  readonly #until = Date.now() + limits.probeSeconds.value * 1000;
  #bytes = 0;
  /** Files that were requested, without guesses that the site does not have. */
  #files = 0;
  #running = 0;
  /** Files are searched one after the other. */
  #turn: Promise<void> = Promise.resolve();

  constructor(
    readonly client: HttpClient,
    readonly request: SiteRequest,
    readonly visitor: SiteVisitor,
    readonly work: Work,
  ) {
    const { host } = new URL(request.url);
    this.#hosts = new Set([host, ...request.assetHosts]);
  }

  /** Service workers, each with the URLs that it names. */
  get workers(): { url: string; names: string[] }[] {
    return [...this.#workers].flatMap((url) => {
      const names = this.#named.get(url);
      return names ? [{ url, names }] : [];
    });
  }

  /** Number of pages that are linked and were not requested. */
  get pagesLeft(): number {
    return [...this.#linked].filter((url) => !this.#seen.has(url)).length;
  }

  /** Tells whether an answer with content was received for a URL, whatever its query was. */
  has(url: string): boolean {
    return this.resources.some((one) => isThere(one) && shownUrl(one.url) === url);
  }

  /** Reads everything that follows from the first page. @param more files that the site should have */
  async read(more: readonly Link[]): Promise<void> {
    this.#add({
      url: this.request.url,
      kind: 'page',
      isCors: false,
      isGuess: false,
      depth: this.request.depth,
      isFirst: true,
    });
    await this.readMore(more);
  }

  /** Reads files that the site should have besides those that were read already. */
  async readMore(links: readonly Link[]): Promise<void> {
    for (const link of links) this.#add({ ...link, depth: 0 });
    await this.#drain();
  }

  async #drain(): Promise<void> {
    await new Promise<void>((resolve, reject) => {
      const step = (): void => {
        while (this.#running < AT_ONCE && this.#queue.length > 0) {
          const link = this.#queue.shift() as Queued;
          const stop = this.#stopReason();
          if (stop !== undefined) {
            this.visitor.unread(shownUrl(link.url), `${stop}; ${this.#queue.length} more files were not read`);
            this.#queue.length = 0;
            break;
          }
          this.#running++;
          if (!link.isGuess) this.#files++;
          this.#visit(link).then(() => {
            this.#running--;
            step();
          }, reject);
        }
        if (this.#running === 0 && this.#queue.length === 0) resolve();
      };
      step();
    });
    await this.#turn;
  }

  #stopReason(): string | undefined {
    if (this.work.isStopped) return 'was not read: the probe was stopped';
    if (Date.now() > this.#until) return 'was not read: the probe took too long';
    const isTooMany =
      this.#files >= limits.probeFiles.value || this.resources.length >= limits.probeFiles.value * GUESSES_PER_FILE;
    if (isTooMany) return 'was not read: the site has too many files';
    return this.#bytes > limits.probeBytes.value ? 'was not read: the site is too large' : undefined;
  }

  #add(link: Queued): void {
    const { host } = new URL(link.url);
    const key = keyOf(link);
    const known = this.#seen.get(key);
    if (link.kind === 'worker') this.#workers.add(link.url);
    if (known) {
      confirm(known, link);
      return;
    }
    if (!this.#hosts.has(host)) {
      if (!link.isGuess) this.otherHosts.add(host);
      return;
    }
    this.#seen.set(key, { link });
    this.#queue.push(link);
    this.work.total++;
  }

  async #visit(link: Queued): Promise<void> {
    this.work.begin(0);
    const answer = await this.#get(link);
    if (!answer) return;
    const resource = this.#record(link, answer);
    await this.work.turn(answer.body.length);
    // A server of a single-page app answers with its page whatever is asked for.
    const isStandIn = link.isGuess && link.kind !== 'page' && isPage(resource);
    if (isError(resource)) await this.#errorPage(resource, answer.body);
    // Browsers do not execute images, so the status is sufficient.
    if (!isThere(resource) || isStandIn || isHead(link)) return;
    const text = isText(resource) ? Buffer.from(answer.body).toString() : '';
    this.#follow(link, resource, text);
    const map = await this.#mapOf(link, resource, text);
    // The same file under another query.
    const content = `${shownUrl(resource.url)} ${resource.sha256}`;
    if (this.#visited.has(content)) return;
    this.#visited.add(content);
    const file = {
      resource,
      body: answer.body,
      ...(map !== undefined && { map }),
      ...(link.isFirst && { isFirst: link.isFirst }),
    };
    await this.#handOut(file);
  }

  /** Searches an error response, because servers print their environment there. Equal bodies are searched once. */
  async #errorPage(resource: Resource, body: Uint8Array): Promise<void> {
    if (body.length === 0 || this.#visited.has(resource.sha256)) return;
    this.#visited.add(resource.sha256);
    await this.#handOut({ resource: { ...resource, kind: 'answer' }, body, isError: true });
  }

  async #handOut(file: SiteFile): Promise<void> {
    const before = this.#turn;
    this.#turn = before.then(() => this.visitor.file(file));
    await this.#turn;
  }

  #record(link: Queued, { status, headers, body, url }: Answer): Resource {
    const { kind, isCors, isGuess, from } = link;
    const isFound = isThere({ status });
    if (isFound) this.#bytes += body.length;
    if (isFound && isGuess) this.#files++;
    const resource: Resource = {
      ...{ url, kind, isCors, isGuess, status, headers },
      ...(from !== undefined && { from }),
      bytes: body.length,
      sha256: sha256(body),
    };
    this.resources.push(resource);
    if (isUnanswered(status)) this.visitor.unread(shownUrl(url), describeStatus(status));
    if (link.isFirst) this.first = resource;
    const entry = this.#seen.get(keyOf(link));
    if (entry) entry.resource = resource;
    return resource;
  }

  /** @returns undefined if there is no answer, which is reported: a file without an answer may be there */
  async #get(link: Queued): Promise<Answer | undefined> {
    let { url } = link;
    for (let redirects = 0; ; redirects++) {
      const answer = await this.#send(url, link);
      if (typeof answer === 'string') {
        this.visitor.unread(shownUrl(url), answer);
        return undefined;
      }
      const target = redirectOf(answer, url);
      if (target === undefined) return answer;
      const refusal = this.#refuseRedirect(target, redirects);
      if (refusal !== undefined) {
        if (!link.isGuess) this.visitor.unread(shownUrl(url), refusal);
        return undefined;
      }
      url = target;
      this.#seen.set(url, { link });
    }
  }

  #refuseRedirect(target: string, redirects: number): string | undefined {
    if (redirects >= MOST_REDIRECTS) return `redirects more than ${MOST_REDIRECTS} times`;
    const { host, protocol } = new URL(target);
    if (protocol !== 'https:' && this.request.url.startsWith('https:')) return 'redirects to a URL without encryption';
    return this.#hosts.has(host)
      ? undefined
      : `redirects to another host, ${host}: name its URL, or allow it with --asset-host ${host}`;
  }

  /** @returns the answer, or why there is none */
  async #send(url: string, link: Pick<Link, 'isCors' | 'kind' | 'isGuess'>): Promise<Answer | string> {
    const { isCors, kind } = link;
    const { origin } = new URL(this.request.url);
    const headers = {
      accept: kind === 'page' ? 'text/html,*/*;q=0.8' : '*/*',
      // Servers may send the header that allows it only if they are asked as a browser asks.
      ...(isCors && new URL(url).origin !== origin && { origin }),
    };
    const request = { url, headers, mostBytes: limits.probeFileBytes.value };
    try {
      const head = isHead(link)
        ? await sendPatiently(this.client, { ...request, method: 'HEAD' }, usualPatience)
        : undefined;
      // Some servers do not know the method for files.
      if (head && isThere(head)) return head;
      return await sendPatiently(this.client, request, usualPatience);
    } catch (error) {
      if (error instanceof HttpProblem) return error.message;
      throw error;
    }
  }

  #follow(link: Queued, resource: Resource, text: string): void {
    const { url, kind } = resource;
    const from = url;
    if (isPage(resource)) {
      const { base, loads, links, scripts } = linksInPage(text, url);
      this.#addHosts(loads);
      for (const one of loads) this.#add({ ...one, from, depth: 0, base });
      if (this.#isOwn(url)) for (const script of scripts) this.#noteCalls(script);
      this.#addPages(links, link.depth, from);
      return;
    }
    if (this.#isOwn(url) && kind === 'script') this.#noteCalls(text);
    if (kind === 'data') this.#followSitemap(text, url);
    const base = link.base ?? this.request.url;
    const found =
      kind === 'style' || typeOf(resource) === 'text/css'
        ? linksInStyle(text, url)
        : kind === 'script' || kind === 'worker'
          ? linksInScript(text, url, base)
          : kind === 'manifest' || /manifest/i.test(new URL(url).pathname)
            ? linksInJson(text, url, base)
            : [];
    if (kind === 'worker' || kind === 'script') this.#named.set(url, [...new Set(found.map((one) => one.url))]);
    if (kind === 'style') this.#addHosts(found);
    // Source maps are read together with their files.
    for (const one of found) if (one.kind !== 'map') this.#add({ ...one, from, depth: 0, base });
  }

  /** Queues linked pages. @param depth number of links that may still be followed */
  #addPages(urls: readonly string[], depth: number, from: string): void {
    const { host } = new URL(this.request.url);
    for (const url of urls.filter((one) => new URL(one).host === host)) {
      this.#linked.add(shownUrl(url));
      if (depth <= 0 || this.#linked.size > limits.probePages.value) continue;
      this.#add({ url, kind: 'page', isCors: false, isGuess: true, from, depth: depth - 1 });
    }
  }

  /** Follows the pages of a sitemap like links of the first page. */
  #followSitemap(text: string, url: string): void {
    const isRobots = new URL(url).pathname === '/robots.txt';
    const found = isRobots ? { pages: [], sitemaps: sitemapsInRobots(text, url) } : linksInSitemap(text, url);
    this.#addPages(found?.pages ?? [], this.request.depth, url);
    for (const sitemap of found?.sitemaps ?? []) {
      if (!this.#isOwn(sitemap) || this.#sitemaps++ >= MOST_SITEMAPS) continue;
      this.#add({ url: sitemap, kind: 'data', isCors: false, isGuess: true, from: url, depth: 0 });
    }
  }

  #noteCalls(script: string): void {
    for (const one of callsIn(script)) this.calls.add(one);
  }

  /** Tells whether a URL is on a host of the site itself, or one that the user named. */
  #isOwn(url: string): boolean {
    return [new URL(this.request.url).host, ...this.request.assetHosts].includes(new URL(url).host);
  }

  /** Scripts, style sheets and fonts on another host belong to the site. */
  #addHosts(links: readonly Link[]): void {
    const kinds = ['script', 'style', 'font'];
    for (const { url, kind, isGuess } of links)
      if (!isGuess && kinds.includes(kind)) this.#hosts.add(new URL(url).host);
  }

  /** The source map that a file names, or that has its usual name. */
  async #mapOf({ kind }: Link, { url, headers }: Resource, text: string): Promise<string | undefined> {
    if (kind !== 'script' && kind !== 'style') return undefined;
    const named = sourceMapAddress(text) ?? headers.sourcemap ?? headers['x-sourcemap'];
    const inline = named === undefined ? undefined : inlineSourceMap(named);
    if (inline !== undefined || named?.startsWith('data:')) return inline;
    const at = named ?? `${new URL(url).pathname}.map`;
    const target = URL.canParse(at, url) ? new URL(at, url).href : undefined;
    if (target === undefined || this.#seen.has(target) || !this.#hosts.has(new URL(target).host)) return undefined;
    const link: Queued = { url: target, kind: 'map', isCors: false, isGuess: named === undefined, from: url, depth: 0 };
    this.#seen.set(target, { link });
    const answer = await this.#get(link);
    if (!answer) return undefined;
    const resource = this.#record(link, answer);
    if (!isThere(resource) || isPage(resource)) return undefined;
    await this.#handOut({ resource, body: answer.body });
    return Buffer.from(answer.body).toString();
  }
}

/** Tells whether only the status of a file is needed: true for images in pages. Images of the build are searched. */
function isHead({ kind, isGuess }: Pick<Link, 'kind' | 'isGuess'>): boolean {
  return kind === 'image' && !isGuess;
}

/** Identifies pages by their paths, because the number of queries has no limit. */
function keyOf(link: Link): string {
  if (isHead(link)) return `HEAD ${link.url}`;
  return link.kind === 'page' ? shownUrl(link.url) : link.url;
}

/** A file that was a guess, and that another file turns out to load. */
function confirm({ link, resource }: { link: Queued; resource?: Resource }, found: Queued): void {
  for (const known of resource ? [link, resource] : [link]) {
    known.isCors ||= found.isCors;
    if (!known.isGuess || found.isGuess) continue;
    known.isGuess = false;
    known.kind = found.kind;
    if (found.from !== undefined) known.from = found.from;
  }
}

function redirectOf({ status, headers }: Answer, url: string): string | undefined {
  const location = headers.location;
  if (status < 300 || status >= 400 || status === 304 || location === undefined) return undefined;
  return URL.canParse(location, url) ? new URL(location, url).href : undefined;
}

const texts = /^(text\/|application\/(json|javascript|ecmascript|x-javascript|manifest\+json|xml))/;

function isText(resource: Resource): boolean {
  const type = typeOf(resource);
  return (
    texts.test(type) ||
    ((type === '' || type === 'application/octet-stream') && resource.kind !== 'image' && resource.kind !== 'font')
  );
}
