import { expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';
import { plugin } from '../support/bundlers.js';

test('within adder with, the plugin has the values of a command that only its caller can run', () => {
  const address = 'https://api.saltmarsh.example/ferries';
  const project = new TestProject({
    'adder.yaml': `adder: 1
stages:
  production:
    layers: [{ command: [node, --print, "'FERRY_API_URL=' + process.env.QUAY_SOURCE"] }]
  staging:
    layers: [{ command: [node, --eval, 'process.exit(process.env.QUAY_SOURCE ? 0 : 1)'] }]
bundles: { desk: { toolchain: vite, code: [src], output: [dist] } }
variables: { FERRY_API_URL: { reach: public, distinct: true, required: [production] } }
`,
    'package.json': '{ "type": "module", "private": true }',
    'src/main.js': 'globalThis.seen = import.meta.env.VITE_FERRY_API_URL;\n',
    'make.mjs': `import adder from ${JSON.stringify(plugin('vite'))};
import { build } from 'vite';
await build({ logLevel: 'error', configFile: false, plugins: [adder()], build: { lib: { entry: 'src/main.js', formats: ['es'], fileName: 'main' } } });
`,
  }).withPackages();
  const ran = project.adder(['with', 'production', '--', 'node', 'make.mjs'], { QUAY_SOURCE: address });
  expect(ran.code, ran.stdout + ran.stderr).toBe(0);
  expect(project.read('dist/main.js')).toContain(address);
});
