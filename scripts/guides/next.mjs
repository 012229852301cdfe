import assert from 'node:assert/strict';

const token = 'made-up-upload-token-0001112';

export default {
  title: 'a server-rendering framework that inlines by prefix (docs/guides/server-rendering.md)',
  packages: ['next@16', 'react@19', 'react-dom@19'],
  files: {
    'package.json': '{ "name": "saltmarsh", "private": true }',
    'adder.yaml': `adder: 1
stages:
  production: { layers: [env/.env.production, process], build-as: production }
bundles:
  ticket-desk:
    runs: browser
    toolchain: next
    code: [pages]
    output: [.next]
    build: npx next build
  ticket-desk-server:
    runs: server
    toolchain: next
    code: [pages]
variables:
  FERRY_API_URL: { reach: public, form: url }
  SOURCE_MAP_UPLOAD_TOKEN: { reach: build, min: 16 }
  FARE_SIGNING_KEY: { reach: server, min: 32, bundles: [ticket-desk-server] }
`,
    'env/.env.production': `FERRY_API_URL=https://api.saltmarsh.example\nSOURCE_MAP_UPLOAD_TOKEN=${token}\nFARE_SIGNING_KEY=made-up-fare-signing-key-of-production-0001\n`,
    'pages/index.jsx': `export async function getServerSideProps() {
  return { props: { signed: process.env.FARE_SIGNING_KEY.length } };
}
export default function Page({ signed }) {
  return <p>{process.env.NEXT_PUBLIC_FERRY_API_URL} signed with {signed} characters</p>;
}
`,
    'next.config.js': 'module.exports = {};\n',
  },
  async tryOut(project) {
    project.expect(0, 'lint');
    project.expect(0, 'with production --bundle ticket-desk');
    project.expect(0, 'inspect --bundle ticket-desk');
    const start = 'with production --bundle ticket-desk-server -- npx next start --port 4181';
    const page = await project.served(start, 'http://localhost:4181/');
    assert.match(page, /https:\/\/api\.saltmarsh\.example.*43/s);
    // The framework's own way to inline any name puts a build value into the server's files.
    project.write('next.config.js', 'module.exports = { env: { TOKEN: process.env.SOURCE_MAP_UPLOAD_TOKEN } };\n');
    project.write('pages/api/fare.js', 'export default (_, response) => response.json(process.env.TOKEN);\n');
    project.expect(0, 'with production --bundle ticket-desk');
    const said = project.expect(1, 'inspect --bundle ticket-desk --fail-on warning');
    assert.match(said, /a server file contains the value of SOURCE_MAP_UPLOAD_TOKEN/);
    assert.ok(!said.includes(token));
  },
};
