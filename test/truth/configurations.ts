import fc from 'fast-check';

/** Names of the contract that code reads. The configuration of a program passes some of them on. */
export const variables = { first: 'FERRY_API_URL', second: 'QUAY_LABEL', server: 'FARE_KEY' } as const;

export const values: Readonly<Record<string, string>> = {
  FERRY_API_URL: 'https://api.saltmarsh.example/ferries',
  QUAY_LABEL: 'Harbour Desk Eleven',
  FARE_KEY: 'made-up-fare-key-of-the-truth-0001',
  PIER_ONE: 'first pier of the harbour',
};

/** One entry of a define option: how code reads it, and the variable. */
interface Entry {
  key: string;
  name: string;
}

/** A configuration as text: statements, the expression of its define option or of all of it, and modules beside it. */
interface Written {
  before?: string;
  define?: string;
  config?: string;
  files?: Record<string, string>;
}

/** How the text of an entry's value gets the variable. */
export const sources: Readonly<Record<string, (name: string) => string>> = {
  member: (name) => `process.env.${name}`,
  brackets: (name) => `process.env[${JSON.stringify(name)}]`,
  fallback: (name) => `(process.env.${name} ?? 'unset')`,
  template: (name) => `\`\${process.env.${name}}/v1\``,
  trimmed: (name) => `process.env.${name}.trim()`,
  alias: (name) => `environment.${name}`,
  chosen: (name) => `(process.env.CHANNEL ? process.env.${name} : 'none')`,
  helper: (name) => `get('${name}')`,
  tested: (name) => `(process.env.${name} ? 'there' : 'missing')`,
  compared: (name) => `String(process.env.${name} === 'x')`,
  hashed: (name) => `createHash('sha256').update(process.env.${name} ?? '').digest('hex')`,
  constant: () => "'a constant'",
};

const shared = `import { createHash } from 'node:crypto';
const environment = process.env;
const get = (name) => { const value = process.env[name]; if (!value) throw new Error(name); return value; };
`;

type Form = (entries: readonly Entry[], source: (name: string) => string) => Written;

const text = (source: string) => `JSON.stringify(${source})`;
const fields = (entries: readonly Entry[], source: (name: string) => string) =>
  entries.map(({ key, name }) => `${JSON.stringify(key)}: ${text(source(name))}`).join(', ');
const list = (entries: readonly Entry[]) => JSON.stringify(entries.map(({ key, name }) => [key, name]));
const dynamic = 'JSON.stringify(process.env[name])';

/** Ways to write a define option. Forms that compute names have the variables as they are. */
export const forms: Readonly<Record<string, Form>> = {
  literal: (entries, source) => ({ define: `{ ${fields(entries, source)} }` }),
  constant: (entries, source) => ({ before: `const defines = { ${fields(entries, source)} };`, define: 'defines' }),
  spread: (entries, source) => ({
    before: `const some = { ${fields(entries.slice(0, 1), source)} };\nconst more = { ${fields(entries.slice(1), source)} };`,
    define: '{ ...some, ...more }',
  }),
  assigned: (entries, source) => ({
    before: `const defines = {};\n${entries.map(({ key, name }) => `defines[${JSON.stringify(key)}] = ${text(source(name))};`).join('\n')}`,
    define: 'defines',
  }),
  assign: (entries, source) => ({ define: `Object.assign({}, { ${fields(entries, source)} })` }),
  condition: (entries, source) => ({
    before: `let defines = {};\nif (process.env.CHANNEL !== 'none') { defines = { ${fields(entries, source)} }; }`,
    define: 'defines',
  }),
  made: (entries, source) => ({
    before: `function defines() {\n  const all = { ${fields(entries, source)} };\n  return all;\n}`,
    define: 'defines()',
  }),
  loop: (entries) => ({
    before: `const defines = {};\nfor (const [key, name] of ${list(entries)}) defines[key] = ${dynamic};`,
    define: 'defines',
  }),
  counted: (entries) => ({
    before: `const all = ${list(entries)};\nconst defines = {};\nfor (let i = 0; i < all.length; i++) {\n  const [key, name] = all[i];\n  defines[key] = ${dynamic};\n}`,
    define: 'defines',
  }),
  forEach: (entries) => ({
    before: `const defines = {};\n${list(entries)}.forEach(([key, name]) => { defines[key] = ${dynamic}; });`,
    define: 'defines',
  }),
  entries: (entries) => ({ define: `Object.fromEntries(${list(entries)}.map(([key, name]) => [key, ${dynamic}]))` }),
  reduce: (entries) => ({
    define: `${list(entries)}.reduce((all, [key, name]) => ({ ...all, [key]: ${dynamic} }), {})`,
  }),
  merged: (entries) => ({
    before: `const pass = ([key, name]) => ({ [key]: ${dynamic} });`,
    define: `Object.assign({}, ...${list(entries)}.map(pass))`,
  }),
  imported: (entries, source) => ({
    before: "import { defines } from './config/defines.js';",
    define: 'defines',
    files: { 'config/defines.js': `${shared}export const defines = { ${fields(entries, source)} };\n` },
  }),
  importedDefault: (entries, source) => ({
    before: "import make from './defines.js';",
    define: 'make({ isLive: true })',
    files: {
      'defines.js': `${shared}export default ({ isLive }) => (isLive ? { ${fields(entries, source)} } : {});\n`,
    },
  }),
  data: (entries) => ({
    before: `import { createRequire } from 'node:module';\nconst names = createRequire(import.meta.url)('./names.json');`,
    define: `Object.fromEntries(names.map(([key, name]) => [key, ${dynamic}]))`,
    files: { 'names.json': list(entries) },
  }),
  required: (entries, source) => ({
    before:
      "import { createRequire } from 'node:module';\nconst require = createRequire(import.meta.url);\nconst { defines } = require('./defines.cjs');",
    define: 'defines',
    files: {
      'defines.cjs': `const { createHash } = require('node:crypto');\nconst environment = process.env;\nconst get = (name) => process.env[name];\nexports.defines = { ${fields(entries, source)} };\n`,
    },
  }),
  byPrefix: (entries, source) => ({
    before: `const piers = Object.fromEntries(Object.keys(process.env).filter((name) => name.startsWith('PIER_')).map((name) => ['process.env.' + name, ${dynamic}]));`,
    define: `{ ...piers, ${fields(entries, source)} }`,
  }),
  except: (entries, source) => ({
    before: `const { ${variables.server}: secret, ...others } = { ${variables.server}: ${source(variables.server)}, unused: 1 };`,
    define: `{ ${fields(entries, source)} }`,
  }),
  objectText: (entries, source) => {
    const [first] = entries;
    if (!first?.key.startsWith('process.env.')) return { define: `{ ${fields(entries, source)} }` };
    const inner = entries.map(({ key, name }) => `${key.slice('process.env.'.length)}: ${source(name)}`);
    return { define: `{ 'process.env': JSON.stringify({ ${inner.join(', ')} }) }` };
  },
  mixedIn: (entries, source) => ({
    before: `const common = { ${fields(entries.slice(0, 1), source)} };\nconst mix = (...all) => all.reduce((sum, one) => ({ ...sum, ...one }));`,
    define: `mix(common, { ${fields(entries.slice(1), source)} })`,
  }),
  filtered: (entries) => ({
    before: `const pass = (allowed) => {\n  const found = {};\n  for (const [key, name] of ${list(entries)}) {\n    if (!allowed.includes(name)) continue;\n    found[key] = ${dynamic};\n  }\n  return found;\n};`,
    define: `pass(['${variables.first}', '${variables.second}'])`,
  }),
  map: (entries) => ({
    before: `const all = new Map(${list(entries)});\nconst defines = {};\nfor (const [key, name] of all) defines[key] = ${dynamic};`,
    define: 'defines',
  }),
  schema: (entries, source) => ({
    before: `const settings = { ${entries.map(({ name }) => `${name}: ${source(name)}`).join(', ')} };`,
    define: `{ ${entries.map(({ key, name }) => `${JSON.stringify(key)}: JSON.stringify(settings.${name})`).join(', ')} }`,
  }),
  class: (entries) => ({
    before: `class Settings {\n  constructor() { this.all = {}; for (const [key, name] of ${list(entries)}) this.all[key] = ${dynamic}; }\n}`,
    define: 'new Settings().all',
  }),
  whole: () => ({ define: "{ 'process.env': JSON.stringify(process.env) }" }),
  wholeLoop: () => ({
    before:
      'const defines = {};\nfor (const name in process.env) if (/^[A-Z_]+$/.test(name)) defines[`process.env.${name}`] = JSON.stringify(process.env[name]);',
    define: 'defines',
  }),
  file: () => ({
    before:
      "import { readFileSync } from 'node:fs';\nconst lines = readFileSync('.env', 'utf8').trim().split('\\n');\nconst defines = Object.fromEntries(lines.map((line) => line.split('=')).map(([name, value]) => [`process.env.${name}`, JSON.stringify(value)]));",
    define: 'defines',
  }),
};

const names = (entries: readonly Entry[]) => JSON.stringify(entries.map(({ name }) => name));
const environmentPlugin = (bundler: string, argument: string) =>
  `{ plugins: [new ${bundler}.EnvironmentPlugin(${argument})] }`;

/** Forms that single tools have. Their names in code are those of the variables. */
export const formsOfTools: Readonly<Record<string, Readonly<Record<string, Form>>>> = {
  vite: {
    loadEnv: (entries) => ({
      before: "import { loadEnv } from 'vite';\nconst env = loadEnv('production', process.cwd(), '');",
      define: `{ ${fields(entries, (name) => `env.${name}`)} }`,
    }),
    loadedAll: () => ({
      before: "import { loadEnv } from 'vite';",
      define: "{ 'process.env': loadEnv('production', process.cwd(), '') }",
    }),
    loadedPrefix: () => ({
      before: "import { loadEnv } from 'vite';",
      define: "{ 'process.env': loadEnv('production', process.cwd(), 'FERRY_') }",
    }),
  },
  ...Object.fromEntries(
    ['webpack', 'rspack'].map((bundler): [string, Record<string, Form>] => [
      bundler,
      {
        pluginList: (entries) => ({ config: environmentPlugin(bundler, names(entries)) }),
        pluginDefaults: (entries) => ({
          config: environmentPlugin(bundler, `Object.fromEntries(${names(entries)}.map((name) => [name, undefined]))`),
        }),
        pluginComputed: () => ({
          config: environmentPlugin(bundler, 'Object.keys(process.env).filter((name) => /^(FERRY|QUAY)_/.test(name))'),
        }),
        pluginAll: () => ({ config: environmentPlugin(bundler, 'Object.keys(process.env)') }),
        twoPlugins: (entries, source) => ({
          config: `{ plugins: [...[new ${bundler}.EnvironmentPlugin(${names(entries.slice(0, 1))})], new ${bundler}.DefinePlugin({ ${fields(entries.slice(1), source)} })] }`,
        }),
      },
    ]),
  ),
};

/** How a configuration is exported. */
export const exported: Readonly<Record<string, (object: string) => string>> = {
  object: (object) => `export default ${object};`,
  constant: (object) => `const config = ${object};\nexport default config;`,
  named: (object) => `const config = ${object};\nexport { config as default };`,
  called: (object) => `export default (() => (${object}))();`,
};

export const exportedFunctions: typeof exported = {
  arrow: (object) => `export default ({ mode, command }) => (${object});`,
  function: (object) => `export default function config(env) {\n  return ${object};\n}`,
  async: (object) => `export default async () => {\n  const made = ${object};\n  return made;\n};`,
};

/** One generated configuration. */
export interface Configuration {
  form: string;
  source: string;
  exported: string;
  /** The object of the names in code; `__` for constants. */
  object: 'process.env' | '__';
  /** Tells whether code has names of its own. */
  renames: boolean;
  /** Tells whether only the build script says where the configuration is. */
  isElsewhere: boolean;
  /** The variables that it passes on. */
  passed: readonly string[];
}

export function configurationsOf(
  tool: string,
  { seed, count, takesFunctions }: { seed: number; count: number; takesFunctions: boolean },
): Configuration[] {
  const one = fc.record({
    form: fc.constantFrom(...Object.keys(forms), ...Object.keys(formsOfTools[tool] ?? {})),
    source: fc.constantFrom(...Object.keys(sources)),
    exported: fc.constantFrom(...Object.keys(takesFunctions ? { ...exported, ...exportedFunctions } : exported)),
    object: fc.constantFrom('process.env' as const, 'process.env' as const, '__' as const),
    renames: fc.boolean(),
    isElsewhere: fc.boolean(),
    passed: fc.subarray(Object.values(variables)),
  });
  return fc.sample(one, { seed, numRuns: count });
}

/** How code reads a variable in this configuration's program. */
export function readOf({ object, renames }: Configuration, name: string): string {
  const own = renames ? `${name.toLowerCase().replaceAll('_', '')}Now` : name;
  return object === '__' ? `__${own}__` : `process.env.${own}`;
}

/** The files of a program. @param wrap makes a configuration of the expression of its define option */
export function filesOf(
  one: Configuration,
  tool: { name: string; head: string; wrap(define: string): string },
): { files: Record<string, string>; path: string } {
  const entries = one.passed.map((name) => ({ key: readOf(one, name), name }));
  const form = (forms[one.form] ?? formsOfTools[tool.name]?.[one.form]) as Form;
  const {
    before = '',
    define = '',
    config,
    files = {},
  } = form(entries, sources[one.source] as (name: string) => string);
  const tell = (exported[one.exported] ?? exportedFunctions[one.exported]) as (object: string) => string;
  const reads = Object.values(variables).map(
    (name) => `note('${name}', function () { return ${readOf(one, name)}; });\n`,
  );
  // A configuration may pass the server value under another name than the program's other reads have.
  reads.push(`note('both', function () { return process.env.${variables.server}; });\n`);
  if (/^(whole|loadedAll|objectText)$/.test(one.form))
    reads.push("note('all', function () { return process.env; });\n");
  const folder = one.isElsewhere ? 'tools/' : '';
  const path = `${folder}${tool.name}.${one.isElsewhere ? 'production' : 'config'}.js`;
  return {
    path,
    files: {
      ...Object.fromEntries(Object.entries(files).map(([name, text]) => [folder + name, text])),
      [path]: `${tool.head}${shared}${before}\n${tell(config ?? tool.wrap(define))}\n`,
      'src/main.js': `const note = (name, read) => { try { seen(name, read()); } catch { seen(name, undefined); } };\n${reads.join('')}`,
      '.env': Object.entries(values)
        .map(([name, value]) => `${name}=${value}\n`)
        .join(''),
      'package.json': JSON.stringify({
        type: 'module',
        private: true,
        scripts: { build: `${tool.name} --config ${path}` },
      }),
    },
  };
}
