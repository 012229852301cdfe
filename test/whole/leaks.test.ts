import { describe, expect, test } from 'vitest';
import { ferryContract, ferryProject, secrets, type TestProject } from '../support/adder.js';

const key = secrets.FARE_SIGNING_KEY;

interface Bundler {
  name: string;
  prefix: string;
  /** How the code reads the address of the API. */
  read: string;
  command: string[];
  files: Record<string, string>;
}

const bundlers: Bundler[] = [
  {
    name: 'vite',
    prefix: 'VITE_',
    read: 'import.meta.env.VITE_FERRY_API_URL',
    command: ['npx', 'vite', 'build'],
    files: {
      'index.html': '<script type="module" src="/src/main.js"></script>',
      'vite.config.js': 'export default { build: { sourcemap: true } };',
    },
  },
  {
    name: 'webpack',
    prefix: '',
    read: 'process.env.FERRY_API_URL',
    command: ['node', 'build.js'],
    files: {
      'build.js': `import webpack from 'webpack';
const compiler = webpack({ mode: 'production', devtool: 'source-map', entry: './src/main.js', plugins: [new webpack.EnvironmentPlugin(['FERRY_API_URL'])] });
compiler.run((error, stats) => { if (error || stats.hasErrors()) throw error ?? stats.toString(); });`,
    },
  },
  {
    name: 'esbuild',
    prefix: '',
    read: 'process.env.FERRY_API_URL',
    command: ['node', 'build.js'],
    files: {
      'build.js': `import { build } from 'esbuild';
await build({ entryPoints: ['src/main.js'], outdir: 'dist', bundle: true, minify: true, sourcemap: true,
  define: { 'process.env.FERRY_API_URL': JSON.stringify(process.env.FERRY_API_URL) } });`,
    },
  },
  {
    name: 'rollup',
    prefix: '',
    read: 'process.env.FERRY_API_URL',
    command: ['npx', 'rollup', '--config'],
    files: {
      'rollup.config.js': `const address = JSON.stringify(process.env.FERRY_API_URL);
const inline = { name: 'inline', renderChunk: (code) => ({ code: code.replaceAll('process.env.FERRY_API_URL', address), map: null }) };
export default { input: 'src/main.js', output: { dir: 'dist', sourcemap: 'inline' }, plugins: [inline] };`,
    },
  },
];

const checkout = (lines: string) => `export function book(order) {\n${lines}\n}\n`;
const careless = checkout(`  console.log('signed', '${key}', order);\n  return '${btoa(`quay:${key}`)}';`);
const fixed = checkout('  return order.length;');

function projectFor({ prefix, read, files }: Bundler): TestProject {
  return ferryProject({
    'adder.yaml': ferryContract.replace('prefix: VITE_', `prefix: '${prefix}'`),
    'package.json': '{ "type": "module" }',
    'src/main.js': `import { book } from './checkout.js';\nfetch(${read} + '/bookings', { body: book(location.href) });\n`,
    'src/checkout.js': careless,
    ...files,
  }).withPackages();
}

interface Said {
  code: string;
  place: { path: string };
  origin?: { path: string; line: number; column: number };
  encoding?: string[];
}

describe.each(bundlers)('$name', (bundler) => {
  const project = projectFor(bundler);
  const build = () => {
    const ran = project.adder(['with', 'production', '--', ...bundler.command]);
    expect(ran.code, ran.stdout + ran.stderr).toBe(0);
    project.expectNone(Object.values(secrets), ran);
  };

  test('a leak is found and traced to its line, until it is fixed', () => {
    build();
    const leaky = project.json(['inspect']);
    expect(leaky.code).toBe(1);
    const findings: Said[] = leaky.report.findings;
    expect(new Set(findings.map(({ code }) => code))).toEqual(new Set(['leak/known-value']));
    const column = 25;
    const inScript = findings.filter(({ place }) => place.path.endsWith('.js'));
    expect(new Set(findings.map(({ encoding }) => encoding?.join()))).toEqual(new Set(['plain', 'base64']));
    for (const { origin, encoding } of inScript.slice(0, 2)) {
      const isPlain = encoding?.[0] === 'plain';
      expect(origin).toMatchObject({
        path: 'src/checkout.js',
        line: isPlain ? 2 : 3,
        ...(isPlain && { column: column + 1 }),
      });
    }
    if (bundler.name !== 'rollup') {
      const inMap = findings.filter(({ place }) => place.path.endsWith('.map'));
      expect(inMap.map(({ origin }) => [origin?.path, origin?.line])).toEqual([
        ['src/checkout.js', 2],
        ['src/checkout.js', 3],
      ]);
    }

    project.write('src/checkout.js', fixed);
    build();
    expect(project.json(['inspect'])).toMatchObject({ code: 0, report: { findings: [], coverage: { unread: [] } } });

    project.write('.env.production', project.read('.env.production').replace('api.saltmarsh', 'booking.saltmarsh'));
    const stale = project.json(['inspect']);
    expect(stale.report.findings.map(({ code }: Said) => code)).toEqual(['stale/past-value']);
    build();
    expect(project.json(['inspect']).code).toBe(0);
  });
});
