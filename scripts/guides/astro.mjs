import assert from 'node:assert/strict';

const token = 'made-up-ledger-token-0002223334';

export default {
  title: 'a static-site generator (docs/guides/static-site.md)',
  packages: ['astro@5'],
  files: {
    'adder.yaml': `adder: 1
stages:
  production: { layers: [env/.env.production, process], build-as: production }
bundles:
  timetable:
    runs: browser
    toolchain: astro
    code: [src]
    output: [dist]
    build: npx astro build
variables:
  FERRY_API_URL: { reach: public, form: url }
  MAP_TILES_KEY: { reach: public, min: 12 }
  LEDGER_TOKEN: { reach: build, min: 16 }
`,
    'env/.env.production': `FERRY_API_URL=https://api.saltmarsh.example\nMAP_TILES_KEY=made-up-tiles-key-0001\nLEDGER_TOKEN=${token}\n`,
    'src/pages/index.astro': `---
const sailings = await (await fetch('data:application/json,[7,9]', { headers: { token: process.env.LEDGER_TOKEN } })).json();
---
<html lang="en"><head><title>Timetable</title></head><body>
<p id="sailings">{sailings.join(', ')}</p>
<p id="api">{import.meta.env.PUBLIC_FERRY_API_URL}</p>
<p id="map"></p>
<script>
  document.querySelector('#map').textContent = import.meta.env.PUBLIC_MAP_TILES_KEY;
</script>
</body></html>
`,
  },
  async tryOut(project) {
    project.expect(0, 'lint');
    project.expect(0, 'with production');
    const page = project.read('dist/index.html');
    for (const text of ['https://api.saltmarsh.example', 'made-up-tiles-key-0001', '7, 9'])
      assert.ok(page.includes(text));
    project.expect(0, 'inspect');
    // Text that the page's own frame writes is in the page: the framework cannot know that it must not be.
    project.write(
      'src/pages/index.astro',
      project.read('src/pages/index.astro').replace("{sailings.join(', ')}", '{process.env.LEDGER_TOKEN}'),
    );
    project.expect(0, 'with production');
    const said = project.expect(1, 'inspect');
    assert.match(said, /contains the value of LEDGER_TOKEN/);
    assert.ok(!said.includes(token));
    // In a script it reaches the browser, which lint reports before any build.
    project.write('src/pages/index.astro', '<script>console.log(import.meta.env.LEDGER_TOKEN)</script>');
    assert.match(project.expect(1, 'lint'), /LEDGER_TOKEN, a build-only variable/);
  },
};
