import { type ChildProcess, spawn } from 'node:child_process';
import { existsSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import type { TestProject } from './adder.js';

const script = join(import.meta.dirname, '../../src/demo/serve/tool/host.mjs');

/** The token of the made-up host. */
export const hostToken = 'made-up-console-token-0001';

export type HostValues = Record<string, { value: string; scopes: string[]; secret?: boolean }>;

/** The made-up hosting platform of the demo, on loopback. */
export class MadeUpHost {
  private constructor(
    readonly project: TestProject,
    readonly child: ChildProcess,
    readonly urls: { console: string; site: string; assets: string },
  ) {}

  static async start(project: TestProject, settings: object): Promise<MadeUpHost> {
    project.write('host.json', JSON.stringify({ token: hostToken, ...settings }));
    const child = spawn(process.execPath, [script, project.folder], { stdio: ['ignore', 'ignore', 'inherit'] });
    const text = await written(project, 'host-urls.json');
    return new MadeUpHost(project, child, JSON.parse(text));
  }

  /** Changes its settings while it runs. */
  set(settings: object): void {
    this.project.write('host.json', JSON.stringify({ token: hostToken, ...settings }));
  }

  /** Values in its console, by stage and name. */
  async values(): Promise<Record<string, HostValues>> {
    rmSync(this.project.path('host-values.json'), { force: true });
    this.child.kill('SIGUSR2');
    return JSON.parse(await written(this.project, 'host-values.json'));
  }

  stop(): void {
    this.child.kill('SIGKILL');
  }
}

async function written(project: TestProject, name: string): Promise<string> {
  for (let attempt = 0; attempt < 200; attempt++) {
    await wait(25);
    if (!existsSync(project.path(name))) continue;
    const text = readFileSync(project.path(name), 'utf8');
    if (/\}\s*$/.test(text)) return text;
  }
  throw new Error(`the host wrote no ${name}`);
}
