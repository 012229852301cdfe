import { type ChildProcess, spawn } from 'node:child_process';
import { setTimeout as wait } from 'node:timers/promises';
import { afterEach, describe, expect, test } from 'vitest';
import { copyProgram, prepare, program, run, write } from '../../scripts/field/prepare.mjs';
import { type FieldProject, projects } from '../../scripts/field/projects.mjs';
import { freePort } from '../support/free-port.js';

const urls = { staging: 'https://staging.saltmarsh.test', production: 'https://api.saltmarsh.example' };
const key = 'made-up-signing-key-for-fares-0001';

/** A framework with a server of its own, and how it is started. */
interface Framework {
  name: string;
  /** The variable of the URL, and its entry in the contract. */
  variable: string;
  entry: string;
  bundle: string;
  files: Readonly<Record<string, string>>;
  start: readonly string[];
  /** Tells whether the server fills the variable in when it starts; else the build inlines it. */
  isFilledAtStart: boolean;
}

const frameworks: readonly Framework[] = [
  {
    name: 'nuxt',
    variable: 'NUXT_PUBLIC_API_URL',
    entry: '{ reach: public, delivery: runtime }',
    bundle: '{ toolchain: nuxt, code: [app, server], output: .output/public, build: npm run build }',
    files: {
      'nuxt.config.ts':
        "export default defineNuxtConfig({ compatibilityDate: '2025-07-15', telemetry: false, runtimeConfig: { public: { apiUrl: '' } } });\n",
      'app/app.vue':
        '<script setup lang="ts">\nconst { public: { apiUrl } } = useRuntimeConfig();\n</script>\n\n<template>\n  <p>{{ apiUrl }}</p>\n</template>\n',
    },
    start: ['node', '.output/server/index.mjs'],
    isFilledAtStart: true,
  },
  {
    name: 'sveltekit-node',
    variable: 'PUBLIC_API_URL',
    entry: 'public',
    bundle: '{ toolchain: sveltekit, code: [src], output: [build/client, build/prerendered], build: npm run build }',
    files: {
      'src/routes/+page.svelte':
        '<script lang="ts">\n  import { env } from \'$env/dynamic/public\';\n</script>\n\n<p>{env.PUBLIC_API_URL}</p>\n<a href="/about">about</a>\n',
      'src/routes/about/+page.svelte':
        '<script lang="ts">\n  import { env } from \'$env/dynamic/public\';\n</script>\n\n<p>{env.PUBLIC_API_URL}</p>\n',
      'src/routes/about/+page.ts': 'export const prerender = true;\n',
    },
    start: ['node', 'build/index.js'],
    isFilledAtStart: true,
  },
  {
    name: 'next-app',
    variable: 'API_URL',
    entry: 'public',
    bundle: '{ toolchain: next, code: [app], output: .next/static, build: npm run build }',
    files: {
      'app/page.tsx': "import { Pier } from './pier';\n\nexport default function Home() {\n  return <Pier />;\n}\n",
      'app/pier.tsx':
        "'use client';\nimport { useEffect } from 'react';\n\nexport function Pier() {\n  useEffect(() => void fetch('/api/session'), []);\n  return <p>{process.env.NEXT_PUBLIC_API_URL}</p>;\n}\n",
      'app/api/session/route.ts':
        'export function GET() {\n  return Response.json({ key: process.env.FARE_SIGNING_KEY });\n}\n',
    },
    start: ['node', 'node_modules/next/dist/bin/next', 'start'],
    isFilledAtStart: false,
  },
];

/** Only `npm run servers` sets this: they are downloaded and built. */
const isAsked = process.env.ADDER_SERVERS !== undefined;

const running: ChildProcess[] = [];
afterEach(() => {
  for (const child of running.splice(0)) child.kill('SIGKILL');
});

async function started(folder: string, { start }: Framework, env: Record<string, string>): Promise<string> {
  const port = await freePort();
  const [command = '', ...args] = start;
  running.push(
    spawn(command, args, {
      cwd: folder,
      env: { PATH: process.env.PATH, HOME: process.env.HOME, PORT: String(port), HOST: '127.0.0.1', ...env },
      stdio: 'ignore',
    }),
  );
  const url = `http://127.0.0.1:${port}/`;
  for (let attempt = 0; attempt < 240; attempt++) {
    await wait(250);
    if (
      await fetch(url).then(
        () => true,
        () => false,
      )
    )
      return url;
  }
  throw new Error(`${start.join(' ')} does not answer`);
}

function probed(folder: string, url: string, ...more: string[]) {
  const args = ['probe', url, '--stage', 'production', '--format', 'json', ...more];
  const { text } = run(folder, 'node', [program, ...args]);
  expect(text).not.toContain(key);
  const { findings, answers } = JSON.parse(text.slice(text.indexOf('{')));
  return {
    found: findings.map(({ code, variant, variable }: Record<string, string>) => `${code} ${variant} ${variable}`),
    answers: ['nothingLeaked', 'allThere', 'current'].map((one) => answers[one].answer).join(', '),
  };
}

describe.skipIf(!isAsked)("frameworks' own servers", () => {
  test.each(frameworks)('$name', { timeout: 900_000 }, async (framework) => {
    copyProgram();
    const { name, variable, entry, bundle, files } = framework;
    const folder = prepare(projects.find((one) => one.name === name) as FieldProject);
    for (const [path, text] of Object.entries(files)) write(folder, path, text);
    const layers = 'staging: { layers: [.env.staging] }, production: { layers: [.env.production] }';
    write(
      folder,
      'adder.yaml',
      `adder: 1\nstages: { ${layers} }\nbundles: { desk: ${bundle} }\nvariables: { ${variable}: ${entry}, FARE_SIGNING_KEY: server }\n`,
    );
    for (const [stage, url] of Object.entries(urls))
      write(folder, `.env.${stage}`, `${variable}=${url}\nFARE_SIGNING_KEY=${key}\n`);
    const built = run(folder, 'node', [program, 'with', 'production']);
    expect(built.code, built.text).toBe(0);

    const right = await started(folder, framework, { [variable]: urls.production, FARE_SIGNING_KEY: key });
    if (framework.isFilledAtStart) {
      expect(probed(folder, right)).toEqual({ found: [], answers: 'yes, yes, yes' });
      const wrong = await started(folder, framework, { [variable]: urls.staging });
      expect(probed(folder, wrong)).toEqual({
        found: [`stale/runtime-file started ${variable}`],
        answers: 'yes, yes, no',
      });
      return;
    }
    expect(probed(folder, right)).toEqual({ found: [], answers: 'not known, yes, yes' });
    expect(probed(folder, right, '--also', '/api/session')).toEqual({
      found: ['serve/secret-in-answer shipped FARE_SIGNING_KEY'],
      answers: 'no, yes, yes',
    });
  });
});
