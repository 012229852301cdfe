import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { freePort } from './free-port.js';

const program = ['/usr/sbin/nginx', '/usr/local/sbin/nginx', '/usr/bin/nginx'].find((path) => existsSync(path));

export const hasNginx = program !== undefined;

const configurations = join(import.meta.dirname, '../browser/sites');

/** Debian's nginx on loopback, with a configuration of `test/browser/sites/`. */
export class Nginx {
  private constructor(
    readonly folder: string,
    readonly url: string,
    readonly child: ChildProcess,
  ) {}

  /** @param name of the configuration @param values for its placeholders; `new` is the directory that is served */
  static async start(name: string, values: Readonly<Record<string, string>>): Promise<Nginx> {
    const folder = mkdtempSync(join(tmpdir(), 'adder-nginx-'));
    const port = await freePort();
    const fragment = readFileSync(join(configurations, `${name}.conf`), 'utf8').replace(
      /\{(\w+)\}/g,
      (whole, key: string) => values[key] ?? whole,
    );
    const hasRoot = /^root /m.test(fragment);
    for (const temporary of ['body', 'proxy', 'cache']) mkdirSync(join(folder, temporary));
    writeFileSync(
      join(folder, 'nginx.conf'),
      `daemon off; pid ${folder}/pid; error_log ${folder}/error.log; ${process.getuid?.() === 0 ? 'user root;' : ''}
events {}
http {
  include /etc/nginx/mime.types;
  access_log off;
  client_body_temp_path ${folder}/body; proxy_temp_path ${folder}/proxy;
  fastcgi_temp_path ${folder}/f; uwsgi_temp_path ${folder}/u; scgi_temp_path ${folder}/s;
  proxy_cache_path ${folder}/cache keys_zone=kept:1m;
  limit_req_zone $server_name zone=few:1m rate=20r/s;
  server { listen 127.0.0.1:${port}; ${hasRoot ? '' : `root ${values.new};`}
${fragment} }
}
`,
    );
    const args = ['-p', folder, '-c', join(folder, 'nginx.conf'), '-e', join(folder, 'error.log')];
    execFileSync(program as string, ['-t', ...args], { stdio: 'pipe' });
    const child = spawn(program as string, args, { stdio: 'ignore' });
    await listening(port);
    return new Nginx(folder, `http://127.0.0.1:${port}`, child);
  }

  get port(): string {
    return new URL(this.url).port;
  }

  async stop(): Promise<void> {
    const ended = new Promise((resolve) => this.child.once('close', resolve));
    this.child.kill('SIGTERM');
    await ended;
    rmSync(this.folder, { recursive: true, force: true });
  }
}

async function listening(port: number): Promise<void> {
  for (let attempt = 0; attempt < 200; attempt++) {
    const isUp = await new Promise<boolean>((resolve) => {
      const socket = connect(port, '127.0.0.1', () => resolve(true)).on('error', () => resolve(false));
      socket.once('connect', () => socket.destroy());
    });
    if (isUp) return;
    await wait(25);
  }
  throw new Error('nginx does not listen');
}
