import { createServer, type IncomingMessage, type RequestListener, type Server } from 'node:http';
import { createServer as createSecureServer } from 'node:https';
import type { AddressInfo } from 'node:net';
import { gzipSync } from 'node:zlib';

/**
 * A file of a made-up site: its content, `close` for no answer, or an answer and the content from the second request on. Clients that
 * accept gzip get `compressed`, compressed.
 */
export type SiteFile =
  | string
  | {
      body?: string | Buffer;
      status?: number;
      headers?: Record<string, string>;
      later?: string;
      compressed?: string | Buffer;
    };

const types: Record<string, string> = {
  html: 'text/html; charset=utf-8',
  js: 'text/javascript',
  css: 'text/css',
  json: 'application/json',
  map: 'application/json',
  woff2: 'font/woff2',
};

function accepts({ headers }: IncomingMessage, encoding: string): boolean {
  return String(headers['accept-encoding']).includes(encoding);
}

/** A site in this process, on loopback. */
export class MadeUpSite {
  readonly requests: IncomingMessage[] = [];
  /** Path with its slash to file. */
  files: Record<string, SiteFile>;
  /** Returns the response to a request without credentials, or undefined to accept the request. */
  guard: ((request: IncomingMessage) => { status: number; headers?: Record<string, string> } | undefined) | undefined;
  readonly #server: Server;

  private constructor(
    files: Record<string, SiteFile>,
    readonly tls: { key: string; cert: string } | undefined,
  ) {
    this.files = files;
    const answer: RequestListener = (request, response) => {
      this.requests.push(request);
      const refusal = this.guard?.(request);
      if (refusal) {
        response.writeHead(refusal.status, refusal.headers);
        response.end('<p>no</p>');
        return;
      }
      const path = (request.url ?? '').replace(/\?.*$/, '');
      const file = this.files[path] ?? this.files['*'];
      if (file === 'close') {
        request.socket.destroy();
        return;
      }
      if (typeof file === 'object' && file.later !== undefined) this.files[path] = file.later;
      if (typeof file === 'object' && file.compressed !== undefined && accepts(request, 'gzip')) {
        response.writeHead(200, {
          'content-type': types[path.replace(/^.*\./, '')] ?? 'text/html',
          'content-encoding': 'gzip',
        });
        response.end(gzipSync(file.compressed));
        return;
      }
      const {
        body = '',
        status = 200,
        headers = {},
      } = file === undefined ? { body: 'not found', status: 404 } : typeof file === 'string' ? { body: file } : file;
      const ending = path.endsWith('/') ? 'html' : path.replace(/^.*\./, '');
      const type = this.files[path] === undefined ? 'text/html' : types[ending];
      response.writeHead(status, { ...(type && { 'content-type': type }), ...headers });
      response.end(body);
    };
    this.#server = tls ? createSecureServer(tls, answer) : createServer(answer);
  }

  static async start(files: Record<string, SiteFile> = {}, tls?: { key: string; cert: string }): Promise<MadeUpSite> {
    const site = new MadeUpSite(files, tls);
    await new Promise<void>((resolve) => site.#server.listen(0, '127.0.0.1', resolve));
    return site;
  }

  get url(): string {
    return `${this.tls ? 'https' : 'http'}://127.0.0.1:${(this.#server.address() as AddressInfo).port}`;
  }

  paths(): string[] {
    return this.requests.map(({ url = '' }) => url);
  }

  async stop(): Promise<void> {
    this.#server.closeAllConnections();
    await new Promise((resolve) => this.#server.close(resolve));
  }
}
