import { clean, commit, contractWith, withLines } from './project.js';
import { append, edit, type Situation, type } from './situation.js';

/** Every code about the contract: one situation, and what its remedy says to do. */
export const ofContracts: readonly Situation[] = [
  {
    code: 'contract/unreadable',
    variant: 'word',
    files: { ...clean, 'adder.yaml': contractWith({ variables: '  TIDES: pubic\n' }) },
    check: 'values production',
    says: /^did you mean public\?/,
    follow: (at) => {
      edit(at, 'adder.yaml', 'pubic', 'public');
      for (const path of ['.env', '.env.staging', '.env.production']) append(at, path, 'TIDES=daily');
    },
  },
  {
    code: 'contract/unknown-key',
    variant: 'key',
    files: { ...clean, 'adder.yaml': contractWith({ variables: '  TIDES: { reach: public, requird: false }\n' }) },
    check: 'values production',
    says: /^did you mean required\?/,
    follow: (at) => edit(at, 'adder.yaml', 'requird', 'required'),
  },
  {
    code: 'contract/risky-public',
    variant: 'name',
    files: {
      ...clean,
      'adder.yaml': contractWith({ variables: '  PAYMENT_SECRET: public\n' }),
      ...withLines('.env', 'PAYMENT_SECRET=made-up-payment-word-1'),
      ...withLines('.env.staging', 'PAYMENT_SECRET=made-up-payment-word-2'),
      ...withLines('.env.production', 'PAYMENT_SECRET=made-up-payment-word-3'),
    },
    check: 'values production',
    says: /^change its reach to build or server/,
    follow: (at) => edit(at, 'adder.yaml', 'PAYMENT_SECRET: public', 'PAYMENT_SECRET: server'),
  },
  {
    code: 'contract/undecided',
    variant: 'misnamed',
    files: {
      'package.json': '{ "devDependencies": { "vite": "8" }, "scripts": { "build": "vite build" } }',
      '.gitignore': '.env*\n',
      'src/main.js': 'fetch(import.meta.env.VITE_API_URL);\n',
      'index.html': '<script type="module" src="/src/main.js"></script>',
      '.env.production': 'VITE_API_URL=https://api.saltmarsh.example/v1\n',
      '.env.staging.txt': 'VITE_API_URL=https://staging.saltmarsh.test/v1\n',
    },
    first: 'rm -f adder.yaml',
    check: 'draft',
    says: /^rename it to \.env\.staging/,
    follow: (at) => type(at, 'mv .env.staging.txt .env.staging'),
  },
  {
    code: 'contract/undecided',
    variant: 'page-settings',
    files: {
      'package.json': '{ "name": "desk", "devDependencies": { "vite": "8" }, "scripts": { "build": "vite build" } }',
      '.gitignore': '.env*\n',
      '.env': 'VITE_MODE_NAME=calm\n',
      'public/config.js': "window.config = { API_URL: 'https://api.saltmarsh.example' };\n",
      'src/main.js': 'fetch(window.config.API_URL + import.meta.env.VITE_MODE_NAME);\n',
      'index.html': '<script src="/config.js"></script><script type="module" src="/src/main.js"></script>',
    },
    before: 'adder draft',
    check: 'draft --merge',
    says: /^list public\/config\.js as a layer .* `reads: \[import\.meta\.env, window\.config\.\*\]` for desk$/,
    follow: (at) => {
      edit(at, 'adder.yaml', /layers: \[/g, 'layers: [public/config.js, ');
      edit(at, 'adder.yaml', 'toolchain: vite', 'toolchain: vite, reads: [import.meta.env, window.config.*]');
      append(at, 'adder.yaml', '  API_URL: { reach: public, delivery: runtime }');
      // The contract is right for the other commands too.
      type(at, 'adder lint && adder values --all');
    },
  },
  {
    code: 'contract/undecided',
    variant: 'native-copies',
    files: {
      'package.json':
        '{ "name": "deckhand", "devDependencies": { "vite": "8" }, "dependencies": { "@capacitor/core": "7" }, "scripts": { "build": "vite build && cap sync" } }',
      '.gitignore': '.env*\n',
      'android/build.gradle': '',
      'src/main.js': 'fetch(import.meta.env.VITE_API_URL);\n',
      'index.html': '<script type="module" src="/src/main.js"></script>',
      '.env': 'VITE_API_URL=https://api.saltmarsh.example\n',
    },
    before: 'adder draft',
    check: 'draft --merge',
    says: /`output: \[dist, android\/app\/src\/main\/assets\/public\]`$/,
    follow: (at, { facts }) =>
      edit(at, 'adder.yaml', 'output: [dist]', `output: [${(facts.entry as string[]).join(', ')}]`),
  },
  {
    code: 'contract/expired-acceptance',
    variant: 'expired',
    files: {
      ...clean,
      'adder.yaml': `${contractWith()}accept:\n  - { finding: code/hard-coded, where: src/main.js, because: it goes, until: 2026-01-01 }\n`,
      'src/main.js': 'fetch(import.meta.env.VITE_API_URL);\nfetch("http://localhost:4180");\n',
    },
    check: 'lint',
    says: /^fix the finding, or set a later `until`/,
    follow: (at) => edit(at, 'adder.yaml', '2026-01-01', '2099-01-01'),
  },
  {
    code: 'contract/unused-acceptance',
    variant: 'unused',
    files: {
      ...clean,
      'adder.yaml': `${contractWith()}accept:\n  - { finding: code/hard-coded, where: src/main.js, because: it goes, until: 2099-01-01 }\n`,
    },
    before: commit,
    check: 'lint',
    says: /^remove it from `accept`/,
    follow: (at) => edit(at, 'adder.yaml', /accept:\n.*\n/, ''),
  },
];
