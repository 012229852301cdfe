import { finding, type RawFinding } from '../core/findings/finding.js';
import { limits } from '../core/limits/index.js';
import { hasDigest } from '../core/probe/caching.js';
import { isThere, type Resource } from '../core/probe/resource.js';
import { type AskedSite, shownUrl, siteFinding } from '../core/probe/site.js';
import { sha256 } from '../core/text/hash.js';
import { type Answer, type HttpClient, HttpProblem } from '../host/http.js';
import { usualPatience } from '../host/retry.js';
import { answerOrProblem } from './site-answers.js';

/** Encodings that a server may keep a file in, for clients that accept no other one (RFC 9110, 12.5.3). */
const encodings = ['identity', 'gzip', 'br'] as const;

/** Maximum number of files whose encodings are compared. */
const MOST_FILES = 40;

/** Kinds of files that servers compress. */
const compressed: readonly string[] = ['page', 'script', 'worker', 'style', 'data', 'manifest'];

/** A file in another encoding with other content. */
export interface OtherContent {
  resource: Resource;
  body: Uint8Array;
  finding: RawFinding;
}

/** Settings for requests of other encodings. */
export interface EncodingSearch {
  client: HttpClient;
  /** The site's host, and those that the user named. */
  hosts: ReadonlySet<string>;
  isStopped(): boolean;
}

/**
 * Requests files in each encoding. A server that keeps compressed copies beside its files sends old ones until they are compressed
 * again, and only to clients that accept that encoding. A file that differs from one request to the next says nothing.
 */
export async function* otherEncodings(
  site: AskedSite,
  { client, hosts, isStopped }: EncodingSearch,
): AsyncGenerator<OtherContent> {
  for (const resource of filesToCompare(site.resources, hosts)) {
    if (isStopped()) return;
    const different: [string, Answer][] = [];
    for (const encoding of encodings) {
      const answer = await inEncoding(client, resource.url, encoding);
      if (answer && sha256(answer.body) !== resource.sha256) different.push([encoding, answer]);
    }
    const [first] = different;
    const again = first && (await inEncoding(client, resource.url));
    if (!first || !again || sha256(again.body) !== resource.sha256) continue;
    const [encoding, { headers, body, status }] = first;
    const about = { encoding, usual: resource.headers['content-encoding'] };
    yield {
      resource: { ...resource, status, headers, bytes: body.length, sha256: sha256(body) },
      body,
      finding: siteFinding(site, shownUrl(resource.url), finding('serve/mixed-builds', 'encoding', about)),
    };
  }
}

/** Sorts files without a digest in their names first: the others change their names with their content. */
function filesToCompare(resources: readonly Resource[], hosts: ReadonlySet<string>): Resource[] {
  const isCompressed = ({ headers }: Resource) =>
    headers['content-encoding'] !== undefined || /accept-encoding/i.test(headers.vary ?? '');
  const files = resources.filter(
    (one) => isThere(one) && compressed.includes(one.kind) && hosts.has(new URL(one.url).host) && isCompressed(one),
  );
  const isFixed = ({ url }: Resource) => !hasDigest(new URL(url).pathname);
  return [...files.filter(isFixed), ...files.filter((one) => !isFixed(one))].slice(0, MOST_FILES);
}

/** Requests a file as a client that accepts one encoding. Returns undefined if the response has no content. */
async function inEncoding(client: HttpClient, url: string, encoding?: string): Promise<Answer | undefined> {
  const headers = encoding === undefined ? {} : { 'accept-encoding': encoding };
  const request = { url, headers, mostBytes: limits.probeFileBytes.value };
  const answer = await answerOrProblem(client, request, usualPatience);
  return answer instanceof HttpProblem || !isThere(answer) ? undefined : answer;
}
