import { clean, contractWith, withLines } from './project.js';
import { append, edit, type Situation } from './situation.js';

const check = 'trial production';
const main = 'src/main.js';
const builder = clean['build.mjs'] as string;
const replacing = (from: string, to: string) => `const replaced = (text) => text.replaceAll('${from}', ${to})`;
const start = 'const replaced = (text) => text';

/** Stands for a tool that takes what an env file sets, whatever the environment has. */
const loading = (path: string) =>
  `for (const line of readFileSync('${path}', 'utf8').split('\\n')) { const [name, value] = line.split('='); if (value) process.env['VITE_' + name.replace('VITE_', '')] = value; }\n`;
const withLoading = (path: string) => builder.replace("mkdirSync('dist", `${loading(path)}mkdirSync('dist`);

/** Every code about trial builds: one situation, and what its remedy says to do. */
export const ofTrials: readonly Situation[] = [
  {
    code: 'trial/lets-out',
    variant: 'arrives',
    files: {
      ...clean,
      'build.mjs': builder.replace(start, replacing('__KEY__', 'JSON.stringify(process.env.FARE_SIGNING_KEY)')),
      [main]: `${clean[main]}sign(__KEY__);\n`,
    },
    check,
    says: /: nothing that ships may use FARE_SIGNING_KEY; then run the trial again$/,
    follow: (at) => edit(at, main, 'sign(__KEY__);\n', ''),
  },
  {
    code: 'trial/undeclared',
    variant: 'arrives',
    files: {
      ...clean,
      ...withLines('.env.production', 'VITE_DECK=upper-deck-of-the-ferry'),
      'build.mjs': withLoading('.env.production'),
      [main]: `${clean[main]}show(import.meta.env.VITE_DECK);\n`,
    },
    check,
    says: /^if everybody may know its value, add `VITE_DECK: public` to the contract; otherwise remove what brings it/,
    follow: (at) => edit(at, main, 'show(import.meta.env.VITE_DECK);\n', ''),
  },
  {
    code: 'trial/absent',
    variant: 'nowhere',
    files: { ...clean, [main]: 'fetch(import.meta["env"].VITE_API_URL);\n' },
    check,
    says: /^see `adder lint` for how VITE_API_URL is read/,
    follow: (at) => at.write(main, clean[main] as string),
  },
  {
    code: 'trial/other-file',
    variant: 'stage',
    files: { ...clean, 'build.mjs': withLoading('.env.staging') },
    check,
    says: /keep the tool from loading this file$/,
    follow: (at) => at.write('build.mjs', builder),
  },
  {
    code: 'trial/unused',
    variant: 'nowhere',
    files: {
      ...clean,
      'adder.yaml': contractWith({ variables: '  TIDES: { reach: public, required: false }\n' }),
      ...withLines('.env.production', 'TIDES=daily-and-nightly-tides'),
    },
    check,
    says: /^remove it from the contract and the layers/,
    follow: (at) => {
      edit(at, 'adder.yaml', /.*TIDES.*\n/, '');
      edit(at, '.env.production', /TIDES.*\n/, '');
    },
  },
  {
    code: 'trial/refutes',
    variant: 'read',
    files: {
      ...clean,
      // A plugin that no model of a tool knows, and a map that leads to the first line.
      'build.mjs': `${builder.replace(start, replacing('process.env.VITE_API_URL', 'JSON.stringify(process.env.VITE_API_URL)'))}writeFileSync('dist/assets/main.js', readFileSync('dist/assets/main.js', 'utf8') + '//# sourceMappingURL=main.js.map');
writeFileSync('dist/assets/main.js.map', JSON.stringify({ version: 3, sources: ['../../src/main.js'], names: [], mappings: 'AAAA' }));
`,
      [main]: 'fetch(process.env.VITE_API_URL);\n',
    },
    before: 'adder trial production',
    check: 'lint --trial',
    isStatement: true,
    says: /^nothing is to be done/,
    follow: () => undefined,
  },
  {
    code: 'trial/asked',
    variant: 'nowhere',
    files: { ...clean, 'build.mjs': `${builder}console.log(process.env.TIDE_OFFSET);\n` },
    check,
    says: /^if it is needed, declare it in the contract, and add a value to a layer/,
    follow: (at) => {
      append(at, 'adder.yaml', '  TIDE_OFFSET: { reach: build, required: false }');
      append(at, '.env.production', 'TIDE_OFFSET=12');
    },
  },
];
