import { table } from '../text/table.js';
import type { RunsIn } from '../toolchains/toolchain.js';

/** Packages that only a server has. */
export const serverPackages: readonly string[] = [
  'express',
  'fastify',
  'koa',
  'hono',
  '@nestjs/core',
  'hapi',
  '@hapi/hapi',
  'polka',
];

/** Packages that put a web build into a shell on desktop or phone. */
export const shells: Readonly<Record<string, RunsIn>> = table({
  electron: 'desktop',
  '@tauri-apps/api': 'desktop',
  '@capacitor/core': 'mobile',
  cordova: 'mobile',
});
