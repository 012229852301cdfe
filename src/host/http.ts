import { lookup as dnsLookup, type LookupAddress, type LookupOptions } from 'node:dns';
import { isIP } from 'node:net';
import { setTimeout as wait } from 'node:timers/promises';
import { Agent, EnvHttpProxyAgent, fetch } from 'undici';
import { byteSize } from '../core/text/display.js';
import { VERSION } from '../version.js';
import { hostOf, isPrivateAddress, isPrivateHost } from './addresses.js';
import type { World } from './world.js';

/** An answer to one request. Redirects are answers too. */
export interface Answer {
  url: string;
  status: number;
  /** By their names in lower case. */
  headers: Readonly<Record<string, string>>;
  /** Decompressed. */
  body: Uint8Array;
}

/** Why there is no answer, as a phrase after the URL's host. It never contains a part of a request or of an answer. */
export class HttpProblem extends Error {
  constructor(
    message: string,
    /** True if another attempt may help. */
    readonly isPassing: boolean,
  ) {
    super(message);
    this.name = 'HttpProblem';
  }
}

export interface HttpSettings {
  /** The environment, which names proxies. */
  env: World['env'];
  /** Hosts that may be private, because the user named them. */
  named: ReadonlySet<string>;
  /** For one request with its answer. */
  seconds: number;
  /** Most requests per second; without a limit if absent. */
  perSecond?: number | undefined;
  /** IP address to connect to, by host name; overrides DNS. */
  resolve?: Readonly<Record<string, string>>;
  /** Trusted certificates (PEM); default: the certificates of Node.js. */
  ca?: readonly string[];
}

export interface HttpRequest {
  url: string;
  method?: string;
  headers?: Readonly<Record<string, string>>;
  body?: string | undefined;
  /** A longer answer is a problem. */
  mostBytes: number;
}

/**
 * Sends requests with the platform's `fetch`: certificates are checked, no cookie is kept, and no redirect is followed. Hosts that the
 * user did not name must not be private, also after their names were looked up. Proxies are those of the environment.
 */
export class HttpClient {
  readonly #agent: Agent | EnvHttpProxyAgent;
  readonly #hasProxy: boolean;
  /** Number of requests that were sent. */
  requests = 0;
  /** When the next request may be sent, in milliseconds since 1970. */
  #next = 0;
  /** Additional headers, by origin. */
  readonly #headers = new Map<string, Readonly<Record<string, string>>>();

  constructor(readonly settings: HttpSettings) {
    const { env, seconds } = settings;
    const proxy = (name: string) => env[name.toLowerCase()] ?? env[name];
    const [httpProxy, httpsProxy, noProxy] = ['HTTP_PROXY', 'HTTPS_PROXY', 'NO_PROXY'].map(proxy);
    this.#hasProxy = Boolean(httpProxy || httpsProxy);
    const tls = settings.ca ? { ca: [...settings.ca] } : {};
    const common = {
      connect: { lookup: this.#lookup, timeout: seconds * 1000, ...tls },
      headersTimeout: seconds * 1000,
      bodyTimeout: seconds * 1000,
      connections: 16,
    };
    this.#agent = this.#hasProxy
      ? new EnvHttpProxyAgent({
          ...common,
          requestTls: tls,
          ...(httpProxy && { httpProxy }),
          ...(httpsProxy && { httpsProxy }),
          ...(noProxy !== undefined && { noProxy }),
        })
      : new Agent(common);
  }

  /** Adds headers to every request to one origin. */
  carry(origin: string, headers: Readonly<Record<string, string>>): void {
    this.#headers.set(origin, headers);
  }

  /** @throws HttpProblem */
  async send({ url, method = 'GET', headers = {}, body, mostBytes }: HttpRequest): Promise<Answer> {
    this.#assertAllowed(hostOf(url));
    await this.#pace();
    this.requests++;
    const timeout = AbortSignal.timeout(this.settings.seconds * 1000);
    try {
      const response = await fetch(url, {
        method,
        headers: { 'user-agent': `adder/${VERSION}`, ...this.#headers.get(new URL(url).origin), ...headers },
        ...(body !== undefined && { body }),
        redirect: 'manual',
        credentials: 'omit',
        dispatcher: this.#agent,
        signal: timeout,
      });
      return {
        url,
        status: response.status,
        headers: Object.fromEntries(response.headers),
        body: response.body ? await bytesOf(response.body, mostBytes) : new Uint8Array(),
      };
    } catch (error) {
      throw problemOf(error, timeout.aborted ? this.settings.seconds : undefined);
    }
  }

  async close(): Promise<void> {
    await this.#agent.destroy();
  }

  async #pace(): Promise<void> {
    const { perSecond } = this.settings;
    if (perSecond === undefined) return;
    const now = Date.now();
    const at = Math.max(now, this.#next);
    this.#next = at + 1000 / perSecond;
    if (at > now) await wait(at - now);
  }

  #assertAllowed(host: string): void {
    if (!this.settings.named.has(host) && isPrivateHost(host)) throw privateProblem();
  }

  /** Called for each connection, so that a name cannot change its address between check and use. */
  #lookup = (
    hostname: string,
    options: LookupOptions,
    done: (error: Error | null, address: string | LookupAddress[], family?: number) => void,
  ): void => {
    const address = this.settings.resolve?.[hostname];
    // The user chose this address, so it may be private.
    if (address !== undefined) {
      if (options.all) done(null, [{ address, family: isIP(address) }]);
      else done(null, address, isIP(address));
      return;
    }
    dnsLookup(hostname, { ...options, all: true }, (error, addresses) => {
      if (error) return done(error, []);
      const isNamed = this.settings.named.has(hostname);
      const isProxied = this.#hasProxy;
      const allowed = isNamed || isProxied ? addresses : addresses.filter(({ address }) => !isPrivateAddress(address));
      const [first] = allowed;
      if (!first) return done(privateProblem(), []);
      return options.all ? done(null, allowed) : done(null, first.address, first.family);
    });
  };
}

function privateProblem(): HttpProblem {
  return new HttpProblem('has a private address, and only hosts that you name may', false);
}

async function bytesOf(body: AsyncIterable<Uint8Array>, most: number): Promise<Uint8Array> {
  const chunks: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of body) {
    size += chunk.length;
    if (size > most) throw new HttpProblem(`sent more than ${byteSize(most)}`, false);
    chunks.push(chunk);
  }
  return chunks.length === 1 ? (chunks[0] as Uint8Array) : Buffer.concat(chunks);
}

const phrases: Readonly<Record<string, [phrase: string, isPassing: boolean]>> = {
  // Nothing listens there.
  ECONNREFUSED: ['refused the connection', false],
  ECONNRESET: ['closed the connection', true],
  EPIPE: ['closed the connection', true],
  UND_ERR_SOCKET: ['closed the connection', true],
  ENOTFOUND: ['is an unknown host', false],
  EAI_AGAIN: ['could not be looked up', true],
  ETIMEDOUT: ['did not answer in time', true],
  UND_ERR_CONNECT_TIMEOUT: ['did not answer in time', true],
  UND_ERR_HEADERS_TIMEOUT: ['did not answer in time', true],
  UND_ERR_BODY_TIMEOUT: ['stopped in the middle of its answer', true],
  EHOSTUNREACH: ['cannot be reached', true],
  ENETUNREACH: ['cannot be reached', true],
  UND_ERR_INVALID_ARG: ['cannot be requested', false],
};

/** The cause of a failed request, in words; messages of the platform may contain a URL or a header. */
function problemOf(error: unknown, seconds: number | undefined): HttpProblem {
  for (let cause = error; cause instanceof Error; cause = cause.cause) {
    if (cause instanceof HttpProblem) return cause;
    const { code } = cause as NodeJS.ErrnoException;
    const known = phrases[code ?? ''];
    if (known) return new HttpProblem(...known);
    if (/CERT|SIGNATURE|SELF_SIGNED|LEAF|TLS|SSL/.test(code ?? ''))
      return new HttpProblem(`has a certificate that cannot be trusted (${code})`, false);
  }
  if (seconds !== undefined) return new HttpProblem(`did not answer within ${seconds} seconds`, true);
  return new HttpProblem('sent no valid answer', true);
}
