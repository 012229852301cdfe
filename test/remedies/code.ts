import { clean, contractWith, withLines } from './project.js';
import { append, edit, type Situation } from './situation.js';

const main = 'src/main.js';
const read = 'fetch(import.meta.env.VITE_API_URL);\n';

/** A clean project whose browser code is this. */
function coded(text: string, files: Record<string, string> = {}): Record<string, string> {
  return { ...clean, ...files, [main]: text };
}

/** Every code about source code: one situation, and what its remedy says to do. */
export const ofCode: readonly Situation[] = [
  {
    code: 'code/server-read',
    variant: 'browser',
    files: coded(`${read}console.log(import.meta.env.FARE_SIGNING_KEY);\n`),
    check: 'lint',
    says: /^move the read into code that runs on the server/,
    follow: (at) => {
      edit(at, main, 'console.log(import.meta.env.FARE_SIGNING_KEY);\n', '');
      at.write('server/sign.js', 'export const key = () => process.env.FARE_SIGNING_KEY;\n');
    },
  },
  {
    code: 'code/unknown-name',
    variant: 'misnamed',
    files: coded('fetch(import.meta.env.API_URL);\n'),
    check: 'lint',
    follow: (at, { facts }) => edit(at, main, 'import.meta.env.API_URL', String(facts.right)),
  },
  {
    code: 'code/unreachable-read',
    variant: 'object',
    files: coded('fetch(process.env.VITE_API_URL);\n'),
    check: 'lint',
    follow: (at, { facts }) => edit(at, main, 'process.env.VITE_API_URL', String(facts.right)),
  },
  {
    code: 'code/whole-object',
    variant: 'browser',
    files: coded(`${read}console.log(import.meta.env);\n`),
    check: 'lint',
    says: /^read only the names that the code needs/,
    follow: (at) => edit(at, main, 'console.log(import.meta.env)', 'console.log(import.meta.env.VITE_API_URL)'),
  },
  {
    code: 'code/no-server',
    variant: 'route',
    files: {
      ...clean,
      'adder.yaml': contractWith()
        .replace('toolchain: vite', 'toolchain: next')
        .replace('code: [src], entry: [src/main.js]', 'code: [app]'),
      'next.config.js': "module.exports = { output: 'export' };\n",
      'package.json': '{ "dependencies": { "next": "15" } }',
      'app/page.js': 'export default () => process.env.NEXT_PUBLIC_API_URL;\n',
      'app/api/book/route.js': 'export async function POST() { return new Response("booked"); }\n',
    },
    check: 'lint',
    says: /or build with a server$/,
    follow: (at) => edit(at, 'next.config.js', "output: 'export'", ''),
  },
  {
    code: 'code/hard-coded',
    variant: 'value',
    files: coded('fetch("https://api.saltmarsh.example/v1");\n'),
    check: 'lint',
    follow: (at, { facts }) => edit(at, main, '"https://api.saltmarsh.example/v1"', String(facts.right)),
  },
  {
    code: 'code/fallback',
    variant: 'fallback',
    files: coded('fetch(import.meta.env.VITE_API_URL || "https://api.example/v1");\n'),
    check: 'lint',
    says: /^remove it/,
    follow: (at) => edit(at, main, ' || "https://api.example/v1"', ''),
  },
  {
    code: 'code/switched-by-comment',
    variant: 'comments',
    files: coded(
      `${read}// const mood = "https://staging.saltmarsh.test/mood";\nconst mood = "https://mood.saltmarsh.example";\nfetch(mood);\n`,
    ),
    check: 'lint',
    says: /^set each stage's value in a layer, read the variable, and remove the comments/,
    follow: (at) => {
      append(at, 'adder.yaml', '  MOOD_URL: { reach: public, form: url }');
      for (const path of ['.env', '.env.staging', '.env.production'])
        append(at, path, `MOOD_URL=https://mood.saltmarsh.example/${path.length}`);
      at.write(main, `${read}fetch(import.meta.env.VITE_MOOD_URL);\n`);
    },
  },
  {
    code: 'code/secret-in-code',
    variant: 'value',
    files: {
      ...clean,
      'server/sign.js': 'sign("made-up-fare-signing-key-of-the-tests-0001");\n',
      'adder.yaml': contractWith().replace('code: [src]', 'code: [src, server]'),
    },
    check: 'lint',
    says: /^read FARE_SIGNING_KEY from the environment, and rotate it/,
    follow: (at) => {
      edit(at, 'server/sign.js', /"made-up.*"/, 'process.env.FARE_SIGNING_KEY');
      edit(at, '.env.production', /FARE_SIGNING_KEY=.*/, 'FARE_SIGNING_KEY=made-up-key-of-production-0041');
    },
  },
  {
    code: 'code/unset',
    variant: 'nowhere',
    files: coded(`${read}document.title = import.meta.env.VITE_TIDES.toUpperCase();\n`, {
      'adder.yaml': contractWith({ variables: '  TIDES: { reach: public, required: false }\n' }),
    }),
    check: 'lint',
    says: /^add TIDES to a layer/,
    follow: (at) => {
      for (const path of ['.env', '.env.staging', '.env.production']) append(at, path, 'TIDES=daily');
    },
  },
  {
    code: 'code/unused',
    variant: 'unread',
    files: {
      ...clean,
      'adder.yaml': contractWith({ variables: '  TIDES: { reach: public, required: false }\n' }),
      ...withLines('.env', 'TIDES=daily'),
    },
    check: 'lint',
    says: /^remove it from the contract and the layers/,
    follow: (at) => {
      edit(at, 'adder.yaml', /.*TIDES.*\n/, '');
      edit(at, '.env', /TIDES.*\n/, '');
    },
  },
  {
    code: 'code/unread',
    variant: 'syntax',
    files: coded(`${read}const tides = {;\n`),
    check: 'lint',
    says: /^fix it/,
    follow: (at) => edit(at, main, '{;', '{};'),
  },
];
