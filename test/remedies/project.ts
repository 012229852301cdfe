import { secrets } from '../support/adder.js';

/** A contract of one bundle. @param more lines of the contract; variables come after those that each project has */
export function contractWith({
  bundle = '',
  variables = '',
  more = '',
  layers = '[.env.production, process]',
}: {
  bundle?: string;
  variables?: string;
  more?: string;
  layers?: string;
} = {}): string {
  return `adder: 1
stages:
  development: { layers: [.env] }
  staging: { layers: [.env.staging] }
  production: { layers: ${layers} }
bundles:
  desk: { runs: browser, toolchain: vite, code: [src], entry: [src/main.js], output: [dist], build: node build.mjs${bundle} }
${more}variables:
  API_URL: { reach: public, form: url }
  FARE_SIGNING_KEY: server
${variables}`;
}

/** Stands for a build: it replaces the reads of names that the environment has, as bundlers do. */
const build = `import { copyFileSync, existsSync, mkdirSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
mkdirSync('dist/assets', { recursive: true });
const replaced = (text) => text.replace(/import\\.meta\\.env\\.(VITE_\\w+)/g, (read, name) => (name in process.env ? JSON.stringify(process.env[name]) : 'undefined'));
for (const name of readdirSync('src')) writeFileSync('dist/assets/' + name, replaced(readFileSync('src/' + name, 'utf8')));
writeFileSync('dist/index.html', '<!doctype html><script type="module" src="/assets/main.js"></script>');
if (existsSync('public')) for (const name of readdirSync('public')) copyFileSync('public/' + name, 'dist/' + name);
`;

export const values = {
  '.env': 'API_URL=https://dev.saltmarsh.test/v1\nFARE_SIGNING_KEY=made-up-key-of-development-0009\n',
  '.env.staging': 'API_URL=https://staging.saltmarsh.test/v1\nFARE_SIGNING_KEY=made-up-key-of-staging-0017\n',
  '.env.production': `API_URL=https://api.saltmarsh.example/v1\nFARE_SIGNING_KEY=${secrets.FARE_SIGNING_KEY}\n`,
};

/** A project without a finding, which the situations change. */
export const clean: Readonly<Record<string, string>> = {
  'adder.yaml': contractWith(),
  ...values,
  '.gitignore': 'node_modules\ndist\n.env*\n',
  'build.mjs': build,
  'src/main.js': 'fetch(import.meta.env.VITE_API_URL);\n',
};

/** The lines that an env file gets at its end. */
export function withLines(path: keyof typeof values, ...lines: string[]): Record<string, string> {
  return { [path]: values[path] + lines.map((line) => `${line}\n`).join('') };
}

/** A file without the line that sets a name. */
export function withoutLine(path: keyof typeof values, name: string): Record<string, string> {
  return { [path]: values[path].replace(new RegExp(`^${name}=.*\n`, 'm'), '') };
}

export const commit = 'git init -q && git add . && git commit -qm one';
