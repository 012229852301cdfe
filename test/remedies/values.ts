import { clean, contractWith, withLines, withoutLine } from './project.js';
import { append, edit, type Situation, type } from './situation.js';

const production = '.env.production';
const check = 'values production';

/** Every code about values: one situation, and what its remedy says to do. */
export const ofValues: readonly Situation[] = [
  {
    code: 'file/syntax',
    variant: 'unclosed',
    files: {
      ...clean,
      ...withLines(production, 'GREETING="Mind the tide'),
      'adder.yaml': contractWith({ variables: '  GREETING: public\n' }),
    },
    check,
    says: /^close the quote/,
    follow: (at) => edit(at, production, '"Mind the tide', '"Mind the tide"'),
  },
  {
    code: 'file/encoding',
    variant: 'mark',
    files: { ...clean, [production]: `\ufeff${clean[production]}` },
    check,
    says: /without a byte-order mark/,
    follow: (at) => edit(at, production, '\ufeff', ''),
  },
  {
    code: 'file/read-by-tool',
    variant: 'undeclared',
    files: { ...clean, ...withLines(production, 'VITE_DECK_PLAN=upper') },
    check: 'with production --show-env',
    says: /remove the line from \.env\.production/,
    follow: (at) => edit(at, production, 'VITE_DECK_PLAN=upper\n', ''),
  },
  {
    code: 'value/withheld',
    variant: 'name',
    files: {
      ...clean,
      'vite.config.js': 'export default { define: { __COMMIT__: JSON.stringify(process.env.GITHUB_SHA) } };\n',
    },
    env: { GITHUB_SHA: '0123abc' },
    check: 'with production --show-env',
    follow: (at) => append(at, 'adder.yaml', 'passes: [GITHUB_SHA]'),
    says: /passes: \[GITHUB_SHA\]/,
  },
  {
    code: 'value/missing',
    variant: 'unset',
    files: { ...clean, ...withoutLine(production, 'API_URL') },
    check,
    says: /add API_URL=\.\.\. to \.env\.production/,
    follow: (at) => append(at, production, 'API_URL=https://api.saltmarsh.example'),
  },
  {
    code: 'value/malformed',
    variant: 'form',
    files: {
      ...clean,
      ...withoutLine(production, 'API_URL'),
      [production]: 'API_URL=api.saltmarsh\nFARE_SIGNING_KEY=made-up-key-0001-of-production\n',
    },
    check,
    follow: (at, { facts }) => edit(at, production, 'api.saltmarsh', String(facts.example)),
  },
  {
    code: 'value/empty',
    variant: 'empty',
    files: { ...clean, [production]: 'API_URL=\nFARE_SIGNING_KEY=made-up-key-0001-of-production\n' },
    check,
    says: /^write the value at \.env\.production:1, or set API_URL/,
    follow: (at) => edit(at, production, 'API_URL=', 'API_URL=https://api.saltmarsh.example'),
  },
  {
    code: 'value/untidy',
    variant: 'spaces',
    files: {
      ...clean,
      [production]: 'API_URL = https://api.saltmarsh.example\nFARE_SIGNING_KEY=made-up-key-0001-of-production\n',
    },
    check,
    says: /API_URL=value/,
    follow: (at) => edit(at, production, ' = ', '='),
  },
  {
    code: 'value/shadowed',
    variant: 'process',
    files: clean,
    env: { API_URL: 'https://elsewhere.example' },
    check,
  },
  {
    code: 'value/duplicate',
    variant: 'line',
    files: { ...clean, ...withLines(production, 'API_URL=https://api.saltmarsh.example/v2') },
    check,
    says: /remove one of the two lines/,
    follow: (at) => edit(at, production, 'API_URL=https://api.saltmarsh.example/v1\n', ''),
  },
  {
    code: 'value/duplicate',
    variant: 'two-names',
    files: { ...clean, ...withLines(production, 'VITE_API_URL=https://api.saltmarsh.example/v2') },
    check,
    says: /^remove one of the two lines/,
    follow: (at) => edit(at, production, /^API_URL=.*\n/m, ''),
  },
  {
    code: 'value/ambiguous',
    variant: 'shell',
    files: {
      ...clean,
      ...withLines(production, 'GREETING=Mind the tide'),
      'adder.yaml': contractWith({ variables: '  GREETING: public\n' }),
    },
    check,
    says: /single quotes/,
    follow: (at) => edit(at, production, 'Mind the tide', "'Mind the tide'"),
  },
  {
    code: 'value/undeclared',
    variant: 'name',
    files: { ...clean, ...withLines(production, 'LEDGER=b3') },
    check,
    says: /declare it in the contract/,
    follow: (at) => append(at, 'adder.yaml', '  LEDGER: { reach: server, required: false }'),
  },
  {
    code: 'value/cycle',
    variant: 'cycle',
    files: {
      ...clean,
      ...withLines(production, 'LEDGER=$QUAY', 'QUAY=$LEDGER'),
      'adder.yaml': contractWith({
        variables: '  LEDGER: { reach: server, required: false }\n  QUAY: { reach: server, required: false }\n',
      }),
    },
    check,
    says: /without a reference/,
    follow: (at) => edit(at, production, /\$LEDGER/, 'north'),
  },
  {
    code: 'value/not-distinct',
    variant: 'secret',
    files: { ...clean, '.env.staging': clean['.env.production'] as string },
    check: 'values --all',
    says: /set a different FARE_SIGNING_KEY in each stage/,
    follow: (at) => edit(at, '.env.staging', /FARE_SIGNING_KEY=.*/, 'FARE_SIGNING_KEY=made-up-key-of-staging-0031'),
  },
  {
    code: 'value/not-same',
    variant: 'value',
    files: {
      ...clean,
      'adder.yaml': contractWith({
        layers: '[.env.shared, .env.production]',
        variables: '  HARBOUR: { reach: public, same: true }\n',
      })
        .replaceAll('[.env]', '[.env.shared, .env]')
        .replace('[.env.staging]', '[.env.shared, .env.staging]'),
      '.env.shared': '',
      ...withLines(production, 'HARBOUR=north'),
      ...withLines('.env.staging', 'HARBOUR=south'),
      ...withLines('.env', 'HARBOUR=south'),
    },
    check: 'values --all',
    says: /set HARBOUR once, in a layer of both stages/,
    follow: (at) => {
      for (const path of ['.env', '.env.staging', production]) edit(at, path, /HARBOUR=.*\n/, '');
      append(at, '.env.shared', 'HARBOUR=north');
    },
  },
  {
    code: 'value/old-name',
    variant: 'name',
    files: {
      ...clean,
      ...withLines(production, 'HARBOR=north'),
      'adder.yaml': contractWith({ variables: '  HARBOUR: { reach: public, required: false, aka: [HARBOR] }\n' }),
    },
    check,
    says: /rename it to HARBOUR/,
    follow: (at) => edit(at, production, 'HARBOR=', 'HARBOUR='),
  },
  {
    code: 'value/placeholder',
    variant: 'value',
    files: { ...clean, [production]: 'API_URL=https://api.saltmarsh.example\nFARE_SIGNING_KEY=changeme\n' },
    check,
    says: /or write the value at \.env\.production:2/,
    follow: (at) => edit(at, production, 'changeme', 'made-up-key-0001-of-production'),
  },
  {
    code: 'value/unknown-reference',
    variant: 'name',
    files: {
      ...clean,
      [production]: 'API_URL=https://${HARBOUR_HOST}/v1\nFARE_SIGNING_KEY=made-up-key-0001-of-production\n',
    },
    check,
    says: /^declare `HARBOUR_HOST: \{ reach: public, required: false \}` in the contract and set HARBOUR_HOST/,
    follow: (at) => {
      append(at, 'adder.yaml', '  HARBOUR_HOST: { reach: public, required: false }');
      append(at, production, 'HARBOUR_HOST=api.saltmarsh.example');
    },
  },
  {
    code: 'value/widened',
    variant: 'reach',
    files: {
      ...clean,
      ...withLines(production, 'MAP_LINK="https://map.example/$FARE_SIGNING_KEY"'),
      'adder.yaml': contractWith({ variables: '  MAP_LINK: { reach: public, required: false }\n' }),
    },
    check,
    says: /remove FARE_SIGNING_KEY from the value/,
    follow: (at) => edit(at, production, '$FARE_SIGNING_KEY', ''),
  },
  {
    code: 'repo/misnamed',
    variant: 'ignore-file',
    files: { ...clean, '.gitignore.txt': clean['.gitignore'] as string, '.gitignore': '' },
    before: 'rm .gitignore && git init -q',
    check: 'lint',
    says: /^rename it to \.gitignore$/,
    follow: (at) => type(at, 'mv .gitignore.txt .gitignore'),
  },
  {
    code: 'repo/misnamed',
    variant: 'file',
    files: { ...clean, '.env.staging': '', '.env.stagng': clean['.env.staging'] as string },
    before: 'rm .env.staging',
    check: 'values staging',
    says: /rename it to \.env\.staging/,
    follow: (at) => type(at, 'mv .env.stagng .env.staging'),
  },
];
