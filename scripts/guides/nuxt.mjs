import assert from 'node:assert/strict';

const key = (stage) => `made-up-fare-signing-key-of-${stage}-0001`;

export default {
  title: 'a server-rendering framework with a second naming scheme (docs/guides/server-rendering.md)',
  packages: ['nuxt@4.4'],
  files: {
    'adder.yaml': `adder: 1
stages:
  staging: { layers: [env/.env.staging, process], build-as: production }
  production: { layers: [env/.env.production, process], build-as: production }
bundles:
  ticket-desk:
    runs: browser
    toolchain: nuxt
    code: [app]
    output: [.output/public]
    build: npx nuxt build
  ticket-desk-server:
    runs: server
    toolchain: nuxt
    code: [server]
    output: [.output/server]
variables:
  FERRY_API_URL: { reach: public, form: url, delivery: runtime }
  TIDE_CHART: { reach: public, form: flag, default: false, delivery: runtime }
  FARE_SIGNING_KEY: { reach: server, min: 32, names: { ticket-desk-server: NUXT_FARE_SIGNING_KEY } }
`,
    'env/.env.staging': `FERRY_API_URL=https://api.staging.saltmarsh.test\nTIDE_CHART=true\nFARE_SIGNING_KEY=${key('staging')}\n`,
    'env/.env.production': `FERRY_API_URL=https://api.saltmarsh.example\nFARE_SIGNING_KEY=${key('production')}\n`,
    'nuxt.config.ts': `export default defineNuxtConfig({
  compatibilityDate: '2026-11-01',
  telemetry: false,
  runtimeConfig: { fareSigningKey: '', public: { ferryApiUrl: '', tideChart: false } },
});
`,
    'app/app.vue': `<script setup lang="ts">
const config = useRuntimeConfig();
const { data: fare } = await useFetch('/api/fare');
</script>
<template>
  <p id="api">{{ config.public.ferryApiUrl }}</p>
  <p id="chart">{{ config.public.tideChart }}</p>
  <p id="fare">{{ fare?.signed }}</p>
</template>
`,
    'server/api/fare.ts': `import { createHmac } from 'node:crypto';

export default defineEventHandler((event) => {
  const { fareSigningKey } = useRuntimeConfig(event);
  return { signed: createHmac('sha256', fareSigningKey).update('12.50').digest('hex').slice(0, 12) };
});
`,
  },
  async tryOut(project) {
    project.expect(0, 'lint');
    const needs = project.expect(0, 'emit needs --stage production');
    for (const name of ['NUXT_PUBLIC_FERRY_API_URL', 'NUXT_PUBLIC_TIDE_CHART', 'NUXT_FARE_SIGNING_KEY'])
      assert.match(needs, new RegExp(`\\b${name}\\b`));
    project.expect(0, 'with production --bundle ticket-desk');
    project.expect(0, 'inspect --stage production');
    // One build, two stages: the server gets the stage when it starts.
    for (const [stage, shown] of [
      ['staging', ['https://api.staging.saltmarsh.test', 'tideChart:true']],
      ['production', ['https://api.saltmarsh.example', 'tideChart:false']],
    ]) {
      const start = `with ${stage} --bundle ticket-desk-server -- env NITRO_PORT=4180 node .output/server/index.mjs`;
      const page = await project.served(start, 'http://localhost:4180/');
      for (const text of shown) assert.ok(page.includes(text), `${text} is not in the page of ${stage}`);
      assert.ok(!page.includes(key(stage)));
    }
    project.write('app/app.vue', project.read('app/app.vue').replace('public.ferryApiUrl', 'public.ferryApiUlr'));
    assert.match(project.expect(1, 'lint'), /did you mean ferryApiUrl\?/);
    project.write('app/app.vue', project.read('app/app.vue').replace('public.ferryApiUlr', 'fareSigningKey'));
    assert.match(project.expect(1, 'lint'), /fareSigningKey, a server-only variable/);
  },
};
