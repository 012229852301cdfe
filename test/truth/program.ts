import fc from 'fast-check';
import { positions } from './positions.js';
import { type Names, reads, type Written } from './reads.js';

/** Names of the contract, and of what is not in it. */
export const variables = {
  /** Public, with a value. */
  read: 'FERRY_API_URL',
  /** Public, with a value. */
  other: 'QUAY_LABEL',
  /** Public, with a value, and in no program: where it is, a build brings values that nothing reads. */
  unread: 'WEATHER_STATION',
  /** Public, without a value. */
  empty: 'TIDE_NOTE',
  server: 'FARE_KEY',
  /** A misspelt name. */
  typo: 'FERRY_API_ULR',
  undeclared: 'GANGWAY',
  /** The name of the contract, where code has it with a prefix. */
  bare: 'FERRY_API_URL',
} as const;

export const values = {
  FERRY_API_URL: 'https://api.saltmarsh.example/ferries',
  QUAY_LABEL: 'Harbour Desk Eleven',
  WEATHER_STATION: 'Lighthouse Rock West',
  FARE_KEY: 'made-up-fare-key-of-the-truth-0001',
} as const;

const { unread: _, ...namesRead } = variables;

/** Modules between the entry and the read. */
export const places = {
  entry: (written: string) => ({ 'main.js': written }),
  imported: (written: string) => ({ 'main.js': "import './part';\n", 'part.js': written }),
  passedOn: (written: string) => ({
    'main.js': "import { part } from './barrel';\npart();\n",
    'barrel.js': "export { part } from './part';\n",
    'part.js': `${written}\nexport function part() {}\n`,
  }),
  serverName: (written: string) => ({ 'main.js': "import './part.server';\n", 'part.server.js': written }),
  serverFolder: (written: string) => ({
    'main.js': "import './server/part';\n",
    'server/part.js': written.replaceAll("from './", "from '../"),
  }),
  apiFolder: (written: string) => ({
    'main.js': "import './pages/api/part';\n",
    'pages/api/part.js': written.replaceAll("from './", "from '../../"),
  }),
  package: (written: string) => ({
    'main.js': "import 'part';\n",
    'node_modules/part/package.json': '{ "name": "part", "type": "module", "main": "part.js" }',
    'node_modules/part/part.js': written,
  }),
  worker: (written: string) => ({
    'main.js': "new Worker(new URL('./part.js', import.meta.url), { type: 'module' });\n",
    'part.js': written,
  }),
  lazy: (written: string) => ({ 'main.js': "await import('./part');\n", 'part.js': written }),
  serviceWorker: (written: string) => ({
    'main.js': "navigator.serviceWorker.register(new URL('./part.js', import.meta.url));\n",
    'part.js': written,
  }),
  /** A script that a browser gets by its address alone. */
  address: (written: string) => ({
    'main.js':
      "await import(/* webpackIgnore: true */ /* @vite-ignore */ String(new URL('./part.js', import.meta.url)));\n",
    'part.js': written,
  }),
} satisfies Readonly<Record<string, (written: string) => Record<string, string>>>;

/** A small program with one read. Each part is a key of a table, the simplest one first. */
export interface Program {
  read: keyof typeof reads;
  position: keyof typeof positions;
  place: keyof typeof places;
  name: keyof typeof namesRead;
  isInFunction: boolean;
}

/** Objects that hold the values, as the code writes them. */
export interface Dialect {
  meta: string;
  prefix: string;
  /** Tells whether the tool compiles TypeScript and JSX. */
  compiles: boolean;
  /** False if it compiles TypeScript, and JSX in a way of its own. */
  hasMarkup?: false;
  /** False if it finds packages only by a plugin. */
  resolvesPackages?: false;
  /** Tells whether it replaces texts, whatever they mean. */
  replacesText?: true;
  /** Places of scripts that code starts which it bundles, and those which it copies as they are. */
  starts?: Partial<Record<keyof typeof places, 'bundled' | 'copied'>>;
}

const keysOf = <Key extends string>(table: Readonly<Record<Key, unknown>>) => Object.keys(table) as Key[];

/** Programs that a seed stands for, each another one. */
export function programsOf(
  seed: number,
  count: number,
  { compiles, hasMarkup, starts, resolvesPackages, replacesText, meta }: Dialect,
): Program[] {
  const fits = ({ read, position, place }: Program) => {
    const start = starts?.[place];
    if ((isStarted(place) && !start) || (place === 'package' && resolvesPackages === false)) return false;
    // The length of a text with the object's name is another one where a real object stands for it.
    if (/^(text|templateText|pattern)$/.test(read) && /member/i.test(position)) return false;
    // In the format that Vite gives a worker there is no `import.meta`, which shows where code uses it as a whole.
    if (
      place === 'worker' &&
      meta === 'import.meta' &&
      /^(guarded|destructuredObject|renamedObject|objectAlias|nestedDefault)$/.test(read)
    )
      return false;
    // A read of `import.meta.env` in a package leaves no trace in a bundle of webpack.
    if (place === 'package' && meta === 'process' && /^foreign/.test(read)) return false;
    if (replacesText && /^(text|templateText|pattern|shadowedProcess|ownObject)$/.test(read)) return false;
    // Packages are compiled before they are installed, and have no modules of the program; nor has a script that is copied.
    const { isTypeScript, files } = writtenRead(read, {
      env: 'e.f',
      meta: 'e',
      foreign: 'f',
      name: 'NAME',
      other: 'OTHER',
    });
    const isMarkup = (positions[position] as { isMarkup?: true }).isMarkup;
    if (isMarkup && hasMarkup === false) return false;
    const isCompiled = isTypeScript || isMarkup;
    return place === 'package' || start === 'copied' ? !isCompiled && !files : compiles || !isCompiled;
  };
  const mostly = <Key extends string>(table: Readonly<Record<Key, unknown>>, weight: number) => {
    const [first, ...others] = keysOf(table) as [Key, ...Key[]];
    return fc.oneof(
      { weight, arbitrary: fc.constant(first) },
      { weight: 1, arbitrary: fc.constantFrom(first, ...others) },
    );
  };
  const program = fc
    .record({
      read: fc.constantFrom(...keysOf(reads)),
      position: fc.constantFrom(...keysOf(positions)),
      place: mostly(places, 2),
      name: mostly(namesRead, 3),
      isInFunction: fc.boolean(),
    })
    .filter(fits);
  return fc.sample(program, { seed, numRuns: count });
}

/** Tells whether a place's module is started by its address, and not imported. */
function isStarted(place: Program['place']): boolean {
  return /^(worker|serviceWorker|address)$/.test(place);
}

/** Simpler programs, each with one part less. */
export function simplerThan(program: Program): Program[] {
  const simplest = { read: 'member', position: 'argument', place: 'entry', name: 'read', isInFunction: false } as const;
  return (Object.keys(simplest) as (keyof Program)[]).flatMap((part) =>
    program[part] === simplest[part] ? [] : [{ ...program, [part]: simplest[part] }],
  );
}

function writtenRead(read: keyof typeof reads, names: Names): Written {
  return (reads[read] as (names: Names) => Written)(names);
}

/** Tells whether a program reads a name that its bundle has. */
export function isOfBundle({ name }: Program, { prefix }: Dialect): boolean {
  return name === 'read' || name === 'other' || (name === 'bare' && prefix === '');
}

/** The name that a program reads, as its code writes it. */
export function nameRead({ name }: Program, { prefix }: Dialect): string {
  return name === 'bare' ? variables.bare : `${prefix}${variables[name]}`;
}

/**
 * The modules of a program, by their paths.
 * @param id that it notes what it sees under
 */
export function modulesOf(program: Program, dialect: Dialect, id: string): Record<string, string> {
  const { meta, prefix } = dialect;
  const foreign = meta === 'process' ? 'import.meta.env' : 'process.env';
  const names = {
    meta,
    env: `${meta}.env`,
    foreign,
    name: nameRead(program, dialect),
    other: `${prefix}${variables.other}`,
  };
  const { before = '', expression, files = {} } = writtenRead(program.read, names);
  const code = (positions[program.position] as { code(read: string): string }).code(expression);
  const { imports, statements } = separated(before);
  const body = program.isInFunction && !/\bexport\b/.test(code) ? inFunction(statements, code) : `${statements}${code}`;
  const written = `const seen = (value) => globalThis.seen(${JSON.stringify(id)}, value);\n${imports}${body}\n`;
  const extension = dialect.compiles ? (dialect.hasMarkup === false ? 'ts' : 'tsx') : 'js';
  const head = `${extension === 'tsx' ? '/** @jsxRuntime classic @jsx globalThis.h */\n' : ''}`;
  const all = Object.entries({ ...places[program.place](written), ...files });
  const isCopied = dialect.starts?.[program.place] === 'copied';
  return Object.fromEntries(
    all.map(([path, text]) =>
      path.startsWith('node_modules/') || (isCopied && path === 'part.js')
        ? [path, text]
        : [path.replace(/js$/, extension), `${head}${withExtensions(text, extension, isCopied)}`],
    ),
  );
}

function separated(before: string): { imports: string; statements: string } {
  const lines = before === '' ? [] : before.split('\n');
  const isImport = (line: string) => line.startsWith('import ');
  const joined = (all: readonly string[]) => all.map((line) => `${line}\n`).join('');
  return { imports: joined(lines.filter(isImport)), statements: joined(lines.filter((line) => !isImport(line))) };
}

function inFunction(statements: string, code: string): string {
  return `async function run() {\n${statements}${code}\n}\nawait run();`;
}

/** Specifiers as a compiler and as a plain module have them. */
function withExtensions(text: string, extension: string, isCopied: boolean): string {
  const ofWorkers = isCopied ? text : text.replace('./part.js', `./part.${extension}`);
  return extension === 'js'
    ? ofWorkers.replaceAll(/(from |import |import\()'(\.{1,2}\/[\w./]+)'/g, "$1'$2.js'")
    : ofWorkers;
}
