import type { Bundle } from '../core/contract/contract.js';
import { layersOf } from '../core/contract/scopes.js';
import { Failure } from '../core/findings/failure.js';
import { finding, type RawFinding } from '../core/findings/finding.js';
import { limits } from '../core/limits/index.js';
import { type AlsoRequest, parseAlso } from '../core/probe/also.js';
import { isListing, privatePaths } from '../core/probe/exposed.js';
import { isUnanswered, type Resource } from '../core/probe/resource.js';
import { type AskedSite, shownUrl, siteFinding } from '../core/probe/site.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { sha256 } from '../core/text/hash.js';
import { describeFileError } from '../host/files.js';
import { type Answer, type HttpClient, HttpProblem, type HttpRequest } from '../host/http.js';
import { describeStatus, type Patience, sendPatiently, usualPatience } from '../host/retry.js';
import type { World } from '../host/world.js';
import type { Project } from './open.js';
import { filledHeaders, headersIn } from './site-access.js';

/** Maximum number of directories that are requested to detect listings. */
const MOST_FOLDERS = 10;

export interface PrivateFileSearch {
  project: Project;
  bundle: Bundle;
  client: HttpClient;
  /** Paths of receipts. */
  receipts: readonly string[];
  /** The site's own hosts. */
  hosts: ReadonlySet<string>;
  isStopped(): boolean;
  /** Called for a file that may be there. */
  unread(url: string, because: string): void;
}

/** Requests private files below the root of each own host and below the page's directory, and checks for directory listings. */
export async function privateFileFindings(site: AskedSite, search: PrivateFileSearch): Promise<RawFinding[]> {
  const { project, bundle, receipts, hosts } = search;
  const layers = layersOf(project.contract).flatMap((layer) => (layer.kind === 'file' ? [layer.name] : []));
  const own = site.resources.filter(({ url }) => hosts.has(new URL(url).host)).map(({ url }) => new URL(url));
  const bases = new Set([site.url, ...own.map(({ origin }) => origin)].map((url) => new URL('/', url).href));
  bases.add(new URL('.', site.url).href);
  const found: RawFinding[] = [];
  for (const base of bases)
    for (const { path, what, matches } of privatePaths(layers, receipts)) {
      const url = new URL(path, base).href;
      if (!url.startsWith(base) || !matches(await textOf(url, search))) continue;
      const copied = path.replace(/^(\.git|\.svn|\.hg)\/.*$/, '$1');
      const output = bundle.output[0] ?? 'the output';
      found.push(siteFinding(site, shownUrl(url), finding('serve/env-file', 'answer', { what, copied, output })));
    }
  const folders = new Set(own.map((url) => new URL('.', url).href).filter((url) => !bases.has(url)));
  for (const url of [...folders].slice(0, MOST_FOLDERS))
    if (isListing(await textOf(url, search)))
      found.push(siteFinding(site, shownUrl(url), { ...finding('serve/env-file', 'listing', {}), level: 'warning' }));
  return found;
}

/** Response body as a string; empty unless the status is 200. Failed requests are reported as not checked. */
async function textOf(url: string, { client, isStopped, unread }: PrivateFileSearch): Promise<string> {
  if (isStopped()) return '';
  const answer = await answerOrProblem(client, { url, mostBytes: limits.pageBytes.value }, usualPatience);
  if (answer instanceof HttpProblem) {
    unread(shownUrl(url), answer.message);
    return '';
  }
  if (isUnanswered(answer.status)) unread(shownUrl(url), describeStatus(answer.status));
  return answer.status === 200 ? Buffer.from(answer.body).toString() : '';
}

/** An answer of an API, or why there is none. */
export type ApiAnswer = { resource: Resource; body: Uint8Array } | { url: string; because: string };

/** The requests that a user added, each with the user's headers; nothing else gets them. */
export class ApiRequests {
  readonly #requests: AlsoRequest[];
  readonly #headers: Record<string, string>;

  /**
   * @param also requests as `[METHOD] PATH [@FILE]` @param headers as `Name: value`, where `{NAME}` is a variable
   * @throws Failure if one is not of its form, or a variable has no value
   */
  constructor(
    also: readonly string[],
    headers: readonly string[],
    readonly parts: { project: Project; resolution: Resolution; client: HttpClient; world: World },
  ) {
    this.#requests = also.map(parsedAlso);
    this.#headers = filledHeaders(headersIn(headers, '--header'), '--header', parts);
  }

  /** @throws Failure for a URL on another host, or a body that cannot be read */
  async *answers(site: AskedSite): AsyncGenerator<ApiAnswer> {
    for (const { method, path, bodyFile } of this.#requests) {
      const url = new URL(path, site.url);
      if (url.origin !== new URL(site.url).origin)
        throw new Failure(`--also ${path} is on another host`, 'only the site itself gets the headers of --header');
      const body = bodyFile === undefined ? undefined : this.#bodyOf(bodyFile);
      const request = { url: url.href, method, headers: this.#headers, body, mostBytes: limits.probeFileBytes.value };
      const answer = await answerOrProblem(this.parts.client, request);
      if (answer instanceof HttpProblem) yield { url: url.href, because: answer.message };
      else yield { resource: resourceOf(answer), body: answer.body };
    }
  }

  #bodyOf(path: string): string {
    const { project, world } = this.parts;
    const { files } = project;
    try {
      return files.readRegular(files.path.resolve(world.cwd, path), limits.pageBytes.value).toString();
    } catch (error) {
      throw new Failure(`${path} ${describeFileError(error)}`, 'pass a file with the body of the request after @');
    }
  }
}

function parsedAlso(text: string): AlsoRequest {
  const parsed = parseAlso(text);
  if (parsed) return parsed;
  throw new Failure('--also needs a path', 'examples: --also /api/config, --also "POST /api/session @body.json"');
}

/** An answer of an API as a file of the site. */
export function resourceOf({ url, status, headers, body }: Answer): Resource {
  const about = { url, kind: 'answer' as const, isCors: false, isGuess: false };
  return { ...about, status, headers, bytes: body.length, sha256: sha256(body) };
}

/** Sends a request and returns a failure instead of throwing it. @param patience for requests that may be repeated */
export async function answerOrProblem(
  client: HttpClient,
  request: HttpRequest,
  patience: Patience = { attempts: 1 },
): Promise<Answer | HttpProblem> {
  try {
    return await sendPatiently(client, request, patience);
  } catch (error) {
    if (error instanceof HttpProblem) return error;
    throw error;
  }
}
