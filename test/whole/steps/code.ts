import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { realWorld } from '../../../src/host/world.js';
import { checkCode } from '../../../src/project/lint.js';
import { openProject } from '../../../src/project/open.js';

const repeated = (text: string) => (times: number) => ({ 'src/main.ts': text.repeat(times) });
const numbered = (text: (index: number) => string) => (times: number) => ({
  'src/main.ts': Array.from({ length: times }, (_, index) => text(index)).join(''),
});

/** Code without a mistake. */
export const rightCode: readonly string[] = [
  'reads',
  'reads on one line',
  'comments',
  'a chain of imports',
  'names that modules hand on',
];

/** Files with as many of what a rule over code looks for. */
export const codes: Readonly<Record<string, (times: number) => Record<string, string>>> = {
  reads: repeated('f(import.meta.env.VITE_API_URL);\n'),
  'reads on one line': repeated('f(import.meta.env.VITE_API_URL);'),
  'reads under wrong names': repeated('f(import.meta.env.API_URL);\n'),
  'reads of unknown names': numbered((index) => `f(import.meta.env.VITE_API_UR${index});\n`),
  'reads of a server value': repeated('f(process.env.FARE_KEY);\n'),
  'reads by computed names': repeated('f(import.meta.env[x]);\n'),
  'reads through an object': (times) => ({
    'src/main.ts': `const e = import.meta.env;\n${'f(e.VITE_API_URL);\n'.repeat(times)}`,
  }),
  'reads by destructuring': numbered((index) => `const { VITE_API_URL: a${index} } = import.meta.env;\n`),
  fallbacks: repeated('f(import.meta.env.VITE_API_URL ?? "https://api.saltmarsh.example/v1");\n'),
  'hard-coded values': repeated('f("https://api.staging.saltmarsh.test/v1");\n'),
  'hard-coded addresses': numbered((index) => `f("https://quay-${index}.saltmarsh.test/v1");\n`),
  'values that leave the code': repeated('console.log(process.env.FARE_KEY);\n'),
  'one pattern of many names': (times) => ({
    'src/main.ts': `const { ${Array.from({ length: times }, (_, index) => `VITE_API_URL: a${index}`).join(', ')} } = import.meta.env;`,
  }),
  scopes: (times) => ({
    'src/main.ts': `${'{ const e = import.meta.env; f(e.API_URL);\n'.repeat(times / 3)}${'}'.repeat(times / 3)}`,
  }),
  comments: repeated('// import.meta.env.VITE_API_URL\n'),
  'a chain of imports': (times) => ({
    'src/main.ts': 'import "./m0";',
    ...Object.fromEntries(
      Array.from({ length: times }, (_, index) => [
        `src/m${index}.ts`,
        `import "./m${index + 1}"; f(import.meta.env.VITE_API_URL);`,
      ]),
    ),
    [`src/m${times}.ts`]: 'f()',
  }),
  'names that modules hand on': (times) => ({
    'src/main.ts': 'import { v } from "./m0"; f(v);',
    ...Object.fromEntries(
      Array.from({ length: times }, (_, index) => [`src/m${index}.ts`, `export { v } from "./m${index + 1}";`]),
    ),
    [`src/m${times}.ts`]: 'export const v = import.meta.env.VITE_API_URL;',
  }),
};

const contract = `adder: 1
stages: { production: { layers: [.env] }, staging: { layers: [.env.staging] } }
bundles: { desk: { toolchain: vite, code: [src], entry: [src/main.ts], output: [dist] } }
variables: { API_URL: public, FARE_KEY: server }
`;
const layers = {
  '.env': 'API_URL=https://api.saltmarsh.example/v1\nFARE_KEY=Zt9qLw3xVb7nRk2mPd5sHj8cQw4e\n',
  '.env.staging': 'API_URL=https://api.staging.saltmarsh.test/v1\nFARE_KEY=Qw4eZt9qLw3xVb7nRk2mPd5sHj8c\n',
};
const world = realWorld();

/** Checks the code of a project. @returns how many findings there are, and which of them say that something was not read */
export async function linted(files: Record<string, string>): Promise<number> {
  const folder = mkdtempSync(join(tmpdir(), 'adder-steps-'));
  try {
    for (const [path, text] of Object.entries({ 'adder.yaml': contract, ...layers, ...files })) {
      mkdirSync(dirname(join(folder, path)), { recursive: true });
      writeFileSync(join(folder, path), text, { mode: 0o600 });
    }
    const project = openProject({ ...world, cwd: folder });
    const { findings } = await checkCode(project, { bundles: [...project.contract.bundles.values()] }, world);
    return findings.length;
  } finally {
    rmSync(folder, { recursive: true });
  }
}
