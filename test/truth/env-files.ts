import fc from 'fast-check';

/** Names that the page's code reads. The tool exposes those with its prefixes. */
export const names = ['VITE_FERRY_API_URL', 'VITE_QUAY_LABEL', 'PIER_NOTE', 'PIER_GATE'] as const;

/** A name that no page reads. */
export const secret = 'FARE_SIGNING_KEY';

/** One line of an env file: the rest of it after the name's `=`. */
const lines: Readonly<Record<string, (value: string) => string>> = {
  plain: (value) => value,
  quoted: (value) => `"${value}"`,
  single: (value) => `'${value}'`,
  commented: (value) => `${value} # of this file`,
  spaced: (value) => `  ${value}  `,
  hash: (value) => `"${value}#1"`,
  empty: () => '',
  expanded: (value) => `${value}/\${${names[0]}}`,
  expandedOther: (value) => `${value}/$PIER_NOTE`,
  escaped: (value) => `${value}\\$PIER_NOTE`,
  defaulted: (value) => `${value}/\${NOT_THERE:-none}`,
  literal: (value) => `'${value}/$PIER_NOTE'`,
};

/** One generated project. */
export interface Project {
  /** The names that each env file sets, and how their lines are written. */
  files: readonly { path: string; sets: readonly (readonly [string, string])[] }[];
  prefixes: 'usual' | 'own' | 'both';
  folder: '' | 'config/env/';
  stage: 'production' | 'staging';
  /** How the page reads a name. */
  reads: 'module' | 'inline' | 'placeholder' | 'attribute';
}

const paths = ['.env', '.env.local', '.env.production', '.env.production.local', '.env.staging', '.env.staging.local'];

export function projectsOf({ seed, count }: { seed: number; count: number }): Project[] {
  const set = fc.tuple(fc.constantFrom(...names), fc.constantFrom('plain', 'plain', ...Object.keys(lines)));
  const sets = fc.uniqueArray(set, { minLength: 1, maxLength: 4, selector: ([name]) => name });
  const files = fc
    .uniqueArray(fc.record({ path: fc.constantFrom(...paths), sets }), {
      minLength: 1,
      maxLength: 4,
      selector: ({ path }) => path,
    })
    .filter((all) => all.some(({ path }) => path.includes('production')) || all.some(({ path }) => path === '.env'));
  const project = fc.record({
    files,
    prefixes: fc.constantFrom('usual' as const, 'usual' as const, 'own' as const, 'both' as const),
    folder: fc.constantFrom('' as const, '' as const, 'config/env/' as const),
    stage: fc.constantFrom('production' as const, 'staging' as const),
    reads: fc.constantFrom('module' as const, 'inline' as const, 'placeholder' as const, 'attribute' as const),
  });
  return fc.sample(project, { seed, numRuns: count }).map((one) => ({
    ...one,
    files: one.files.map(withoutCycle),
    // A stage that no file is for is none that a project has.
    stage: one.files.some(({ path }) => path.includes(one.stage)) ? one.stage : 'production',
  }));
}

/** A value that refers to itself stops a build with Adder. */
function withoutCycle(file: Project['files'][number]): Project['files'][number] {
  const isCycle = ([name, line]: readonly [string, string]) =>
    (name === names[0] && line === 'expanded') || (name === 'PIER_NOTE' && /^(expanded|escaped|literal)/.test(line));
  return { ...file, sets: file.sets.map((set) => (isCycle(set) ? [set[0], 'plain'] : set)) };
}

const prefixes = { usual: '', own: "envPrefix: 'PIER_',", both: "envPrefix: ['VITE_', 'PIER_']," } as const;

/** Names that the build exposes. */
export function exposed(project: Project): string[] {
  const starts = { usual: ['VITE_'], own: ['PIER_'], both: ['VITE_', 'PIER_'] }[project.prefixes];
  return names.filter((name) => starts.some((start) => name.startsWith(start)));
}

/** The value that a file gives a name tells which file it is. */
function valueIn(path: string, name: string): string {
  return `${name.toLowerCase()} of ${path.slice(1).replaceAll('.', ' ')}`;
}

/** The files of a project. */
export function filesOf(project: Project): Record<string, string> {
  const { files, folder, reads } = project;
  const code = names.map((name) => `note('${name}', import.meta.env.${name});\n`).join('');
  // A placeholder of a name that no file sets stays in the page, with a warning.
  const texts = names.map((name) => `<p id="${name}">%${name}%</p>\n`).join('');
  const attributes = names.map((name) => `<p id="${name}" title="%${name}%"></p>\n`).join('');
  const note = 'const note = (name, value) => globalThis.seen(name, value);\n';
  const bodies = {
    module: '<script type="module" src="/src/main.js"></script>',
    inline: `<script type="module">\n${note}${code}</script>`,
    placeholder: texts,
    attribute: attributes,
  };
  const envFiles = files.map(({ path, sets }) => [
    `${folder}${path}`,
    `${sets.map(([name, line]) => `${name}=${lines[line]?.(valueIn(path, name))}\n`).join('')}${secret}=made-up-${'x7Kq2'.repeat(5)}\n`,
  ]);
  return {
    ...Object.fromEntries(envFiles),
    'index.html': `<!doctype html>\n<html lang="en"><head><title>Ferries</title></head><body>\n${bodies[reads]}\n</body></html>\n`,
    'src/main.js': reads === 'module' ? `${note}${code}` : 'export {};\n',
    'vite.config.js': `export default { ${prefixes[project.prefixes]} ${folder && `envDir: '${folder.slice(0, -1)}',`} base: './', build: { minify: false, modulePreload: false } };\n`,
    'package.json': JSON.stringify({
      ...{ name: 'harbour', private: true, type: 'module', devDependencies: { vite: '8' } },
      scripts: { build: 'vite build', 'build:staging': 'vite build --mode staging' },
    }),
    '.gitignore': 'node_modules\ndist\n.env*\n',
  };
}
