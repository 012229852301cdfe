import assert from 'node:assert/strict';

export default {
  title: 'a server-rendering framework with modules of values (docs/guides/server-rendering.md)',
  packages: ['@sveltejs/kit@2', '@sveltejs/adapter-node@5', '@sveltejs/vite-plugin-svelte@6', 'svelte@5', 'vite@7'],
  files: {
    'adder.yaml': `adder: 1
stages:
  production: { layers: [env/.env.production, process], build-as: production }
bundles:
  ticket-desk:
    runs: browser
    toolchain: sveltekit
    code: [src]
    output: [build]
    build: npx vite build
  ticket-desk-server:
    runs: server
    toolchain: sveltekit
    code: [src]
variables:
  FERRY_API_URL: { reach: public, form: url }
  NOTICE_BANNER: { reach: public, delivery: runtime }
  FARE_SIGNING_KEY: { reach: server, min: 32 }
`,
    'env/.env.production':
      'FERRY_API_URL=https://api.saltmarsh.example\nNOTICE_BANNER=no-sailing-in-a-storm\nFARE_SIGNING_KEY=made-up-fare-signing-key-of-production-0001\n',
    'svelte.config.js': `import adapter from '@sveltejs/adapter-node';
export default { kit: { adapter: adapter({ precompress: false }) } };
`,
    'vite.config.js': `import { sveltekit } from '@sveltejs/kit/vite';
export default { plugins: [sveltekit()] };
`,
    'src/app.html':
      '<!doctype html><html lang="en"><head>%sveltekit.head%</head><body>%sveltekit.body%</body></html>\n',
    'src/routes/+page.svelte': `<script>
  import { PUBLIC_FERRY_API_URL } from '$env/static/public';
  import { env } from '$env/dynamic/public';
  let { data } = $props();
</script>
<p>{PUBLIC_FERRY_API_URL} {env.PUBLIC_NOTICE_BANNER} signed with {data.signed} characters</p>
`,
    'src/routes/+page.server.js': `import { env } from '$env/dynamic/private';
export const load = () => ({ signed: env.FARE_SIGNING_KEY?.length });
`,
  },
  async tryOut(project) {
    project.expect(0, 'lint');
    project.expect(0, 'with production --bundle ticket-desk');
    project.expect(0, 'inspect --bundle ticket-desk');
    const start = 'with production --bundle ticket-desk-server -- env PORT=4182 node build/index.js';
    const page = await project.served(start, 'http://localhost:4182/');
    assert.match(page, /https:\/\/api\.saltmarsh\.example no-sailing-in-a-storm signed with 43 characters/);
    project.write(
      'src/routes/+page.svelte',
      project.read('src/routes/+page.svelte').replace('env.PUBLIC_NOTICE_BANNER', 'env.PUBLIC_NOTICE_BANER'),
    );
    assert.match(project.expect(1, 'lint'), /did you mean PUBLIC_NOTICE_BANNER\?/);
  },
};
