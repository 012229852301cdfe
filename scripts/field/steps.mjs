// The steps of the field suite, in their order. Each one throws with what went wrong.
import assert from 'node:assert/strict';
import { appendFileSync, existsSync, mkdirSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { join, relative } from 'node:path';
import { globSync } from 'tinyglobby';
import { parse } from 'yaml';
import { missingFromPage } from './browser.mjs';
import { linkProgram, program, replace, reset, run, write } from './prepare.mjs';

const values = {
  development: 'http://localhost:4180/quay',
  production: 'https://api.saltmarsh.example/quay',
  later: 'https://booking.saltmarsh.example/quay',
};
const secret = ['made', 'up', 'K7', 'qZ4vXw9RtB2mN8pLs3Hd6Fy1Gc5Jk0'].join('');

/** One project during a run. */
export class Field {
  constructor(project, folder) {
    this.project = project;
    this.folder = folder;
    this.log = [];
  }

  get name() {
    return `${this.project.prefix}FERRY_API_URL`;
  }

  /** Runs Adder, and checks its exit code. @returns its output */
  adder(args, { code = 0, env = {} } = {}) {
    const ran = run(this.folder, process.execPath, [program, ...args], env);
    this.log.push(`$ adder ${args.join(' ')}\n${ran.text}exit code ${ran.code}`);
    assert.equal(ran.code, code, `adder ${args.join(' ')} ended with ${ran.code}:\n${ran.text.slice(-3000)}`);
    assert.ok(!ran.text.includes(secret), `adder ${args.join(' ')} printed a secret`);
    return ran.text;
  }

  /** The exit code of an inspection that finds nothing new: a known warning makes an answer no. */
  get cleanCode() {
    return this.project.known ? 1 : 0;
  }

  /** @returns the findings of lint or inspect, without those below a level */
  findings(args, levels = ['error', 'warning']) {
    const ran = run(this.folder, process.execPath, [program, ...args, '--format', 'json', '--fail-on', 'never']);
    this.log.push(`$ adder ${args.join(' ')} --format json\nexit code ${ran.code}`);
    assert.match(ran.text, /^\{/m, `adder ${args.join(' ')} gave no report:\n${ran.text.slice(0, 1500)}`);
    const report = JSON.parse(ran.text.slice(ran.text.search(/^\{/m)));
    const { known = [] } = this.project;
    return report.findings.filter(({ level, code }) => levels.includes(level) && !known.includes(code)).map(describe);
  }

  build(code = 0) {
    if (this.project.mkdir) mkdirSync(join(this.folder, this.project.mkdir), { recursive: true });
    return this.adder(['with', 'production', '--bundle', this.bundle, '--', ...this.command], { code });
  }

  get command() {
    return (this.project.build ?? 'npm run build').split(' ');
  }

  /** @returns the report of a trial */
  trial() {
    const args = ['trial', 'production', '--bundle', this.bundle, '--format', 'json', '--', ...this.command];
    const ran = run(this.folder, process.execPath, [program, ...args]);
    this.log.push(`$ adder ${args.join(' ')}\n${ran.text.slice(-20_000)}exit code ${ran.code}`);
    assert.match(ran.stdout, /^\{/, `adder ${args.join(' ')} gave no report:\n${ran.text.slice(-3000)}`);
    return JSON.parse(ran.stdout);
  }

  /** Files of the output that contain a text, without caches. */
  filesWith(text) {
    return this.#built
      .flatMap((path) => filesBelow(path))
      .filter((path) => readFileSync(path).includes(text))
      .map((path) => relative(this.folder, path));
  }

  /** The name and settings of the first bundle of the drafted contract. */
  get #first() {
    const [found] = Object.entries(parse(this.contract).bundles ?? {});
    assert.ok(found, 'the draft has no bundle');
    return found;
  }

  get bundle() {
    return this.#first[0];
  }

  /** The `output` of the drafted contract. */
  get output() {
    return [this.#first[1].output ?? []].flat();
  }

  get contract() {
    return readFileSync(join(this.folder, 'adder.yaml'), 'utf8');
  }

  read(path) {
    return readFileSync(join(this.folder, path), 'utf8');
  }

  /** Puts a statement with an expression into the browser code. */
  use(expression) {
    const { entry, insert, use = 'console.log($);', prepend, client } = this.project;
    const statement = use.replace('$', () => expression);
    if (prepend) return write(this.folder, entry, prepend(expression) + this.read(entry));
    if (client)
      write(
        this.folder,
        client.path,
        client.text.replace('$', () => expression),
      );
    if (this.project.imports && !this.read(entry).startsWith(this.project.imports))
      write(this.folder, entry, this.project.imports + this.read(entry));
    if (!insert) return appendFileSync(join(this.folder, entry), `\n${statement}\n`);
    replace(this.folder, entry, insert[0], `${insert[0]}\n${statement}${insert[1]}`);
  }

  /** The directories and files of the output that exist, as absolute paths. */
  get #built() {
    return this.output
      .flatMap((path) =>
        /[{*]/.test(path) ? globSync(path, { cwd: this.folder, onlyDirectories: true, dot: true }) : [path],
      )
      .map((path) => join(this.folder, path));
  }

  /** Tells whether a file is in the output. @param path relative to the project */
  isInOutput(path) {
    const absolute = join(this.folder, path);
    return this.#built.some((built) => `${absolute}/`.startsWith(`${built.replace(/\/$/, '')}/`));
  }

  /** Tells whether a file of the output contains a text. */
  shipped(text) {
    return this.filesWith(text).length > 0;
  }

  /** The directory of the output's page, if the output is a site that any host can serve. */
  get page() {
    const folders = this.#built.flatMap((path) => [path, join(path, 'browser')]);
    const own = this.project.page === undefined ? folders : [join(this.folder, this.project.page)];
    return own.find((path) => existsSync(join(path, 'index.html')));
  }
}

/** A server beside the app, with its own secret. */
const serverPart = `import { createHmac } from 'node:crypto';
import { createServer } from 'node:http';

const sign = (text) => createHmac('sha256', process.env.FARE_SIGNING_KEY).update(text).digest('hex');
createServer((request, response) => response.end(sign(request.url))).listen(Number(process.env.QUAY_PORT));
`;

function describe({ level, code, message, remedy, place, variable }) {
  return `${level} ${code} ${place ? `${place.path}:${place.line ?? ''}` : ''} ${variable ?? ''} ${message} → ${remedy ?? ''}`;
}

function filesBelow(path) {
  if (!existsSync(path)) return [];
  return statSync(path).isFile() ? [path] : readdirSync(path).flatMap((name) => filesBelow(join(path, name)));
}

/** Directories and endings of paths without caches, each once: many names of files are computed from contents. */
function unhashed(paths) {
  const plain = paths.filter((path) => !/(^|\/)\.?cache\//.test(path));
  const kinds = plain.map((path) => path.replace(/[^/]*(?=\.\w+$)/, '*').replaceAll(/[\w-]*\d[\w-]{6,}/g, '*'));
  return [...new Set(kinds)].sort();
}

function mess(field) {
  const { folder, name, project } = field;
  const own = project.files ? '' : `${name}=$\n`;
  const line = (value) => own.replace('$', () => value);
  write(folder, '.env', `${line(values.development)}FARE_SIGNING_KEY=${secret}\nQUAY_PORT=4180\n`);
  write(folder, '.env.production', `${line(values.production)}FARE_SIGNING_KEY=${secret}p\n`);
  for (const [stage, path] of Object.entries(project.files ?? {})) write(folder, path, project.value(values[stage]));
  if (project.workspace) {
    const workspace = JSON.parse(field.read(project.workspace.path));
    project.workspace.add(workspace);
    write(folder, project.workspace.path, JSON.stringify(workspace, null, 2));
  }
  write(folder, '.gitignore', `${field.read('.gitignore')}\n.env\n.env.*\n!.env.example\n.adder\n`);
  write(folder, 'Dockerfile', 'FROM node:24\nWORKDIR /quay\nCOPY package.json .\nRUN npm install\n');
  const env = `      - run: npx adder with production -- npm run build\n        env:\n          ${name}: \${{ vars.FERRY_API_URL }}\n          FARE_SIGNING_KEY: \${{ secrets.FARE_SIGNING_KEY }}\n          QUAY_PORT: '4180'\n`;
  write(
    folder,
    '.github/workflows/ship.yml',
    `on: push\njobs:\n  ship:\n    runs-on: ubuntu-latest\n    steps:\n      - uses: actions/checkout@v4\n      - run: npm ci\n${env}`,
  );
  write(folder, 'scripts/report.mjs', 'console.log(process.env.FARE_SIGNING_KEY.length, process.env.QUAY_PORT);\n');
  write(folder, 'server/quay.mjs', serverPart);
  if (project.plugin) linkProgram(folder);
  for (const [path, [before, after]] of Object.entries(project.configure ?? {})) replace(folder, path, before, after);
  if (project.reads !== false) field.use(project.read(name));
}

/** Columns of the table, with the steps on the clean template, then on the one with values and mistakes. */
export const steps = {
  draft(field) {
    reset(field.folder);
    field.adder(['draft']);
    assert.match(field.contract, new RegExp(`toolchain: ${field.project.toolchain}\\b`));
  },
  values: (field) => field.adder(['values', 'development']),
  lint: (field) => assert.deepEqual(field.findings(['lint']), []),
  build: (field) => field.build(),
  inspect: (field) => {
    assert.deepEqual(field.findings(['inspect', '--stage', 'production']), []);
    field.adder(['inspect', '--stage', 'production'], { code: field.cleanCode });
  },
  'draft again'(field) {
    reset(field.folder);
    mess(field);
    field.adder(['draft']);
    const { name, contract, project } = field;
    if (project.reads !== false) assert.match(reachIn(contract, name), /public/, `${name} is not public:\n${contract}`);
    assert.match(reachIn(contract, 'FARE_SIGNING_KEY'), /server|build/);
    field.adder(['values', 'development']);
    field.adder(['values', 'production']);
  },
  'draft by trial'(field) {
    if (field.project.reads === false) return '';
    const drafted = field.adder(['draft', '--trial', '--dry-run', '--bundle', field.bundle, '--', ...field.command]);
    assert.match(reachIn(drafted, field.name), /public/, drafted);
    assert.match(reachIn(drafted, 'FARE_SIGNING_KEY'), /server|build/, drafted);
    return undefined;
  },
  'lint again': (field) => assert.deepEqual(field.findings(['lint']), []),
  arrives(field) {
    field.build();
    if (field.project.reads === false) return;
    assert.ok(field.shipped(values.production), `${values.production} is in no file of ${field.output}`);
    assert.ok(!field.shipped(values.development), `${values.development} is in ${field.output}`);
  },
  trial(field) {
    if (field.project.reads === false) return '';
    const { rows, findings } = field.trial();
    const all = rows.filter(({ name }) => name.endsWith('FERRY_API_URL')).flatMap(({ arrivesIn }) => arrivesIn);
    // A map has the text of its sources as it is, and an app its native code; other members of archives are not found as text.
    const arrivals = all.map((one) => ({ ...one, path: one.path.replace(/(?<=\.(map|apk)) → .*/, '') }));
    const found = arrivals.filter(
      ({ path, encoding }) => encoding.join() === 'plain' && !path.includes(' → ') && field.isInOutput(path),
    );
    const real = field.filesWith(values.production);
    assert.deepEqual(unhashed(found.map(({ path }) => path)), unhashed(real));
    const wrong = findings.filter(({ level, code }) => level !== 'note' && code !== 'trial/asked').map(describe);
    assert.deepEqual(wrong, []);
    return undefined;
  },
  async opened(field) {
    const folder = field.project.reads === false ? undefined : field.page;
    if (folder === undefined) return '';
    const instead = await missingFromPage(folder, values.production);
    assert.equal(instead, undefined, `the page in ${folder} does not have ${values.production}`);
    return undefined;
  },
  'inspect again': (field) => {
    assert.deepEqual(field.findings(['inspect']), []);
    field.adder(['inspect'], { code: field.cleanCode });
  },
  misspelt(field) {
    if (field.project.reads === false || field.project.misspells === false) return;
    const { name } = field;
    const wrong = name.replace('FERRY', 'FERY');
    const before = sources(field);
    for (const path of before.keys())
      if (before.get(path).includes(name)) write(field.folder, path, before.get(path).replaceAll(name, wrong));
    const found = field.findings(['lint']);
    assert.ok(
      found.some((one) => one.includes('code/unknown-name') && one.includes(name)),
      `lint does not report ${wrong}:\n${found.join('\n')}`,
    );
    field.adder(['lint', '--fix'], { code: found.some((one) => /code\/(?!unknown-name)/.test(one)) ? 1 : 0 });
    assert.deepEqual(field.findings(['lint']), [], 'after lint --fix');
    for (const [path, text] of before) assert.equal(field.read(path), text, `${path} after lint --fix`);
  },
  leak(field) {
    const { entry, client, read, reads } = field.project;
    const path = client?.path ?? entry;
    const before = field.read(path);
    const expression = read(field.name);
    const at = before.lastIndexOf(expression);
    if (reads === false || at < 0) field.use(`'${secret}p'`);
    else
      write(
        field.folder,
        path,
        `${before.slice(0, at)}${expression} + '${secret}p'${before.slice(at + expression.length)}`,
      );
    const lint = field.findings(['lint']);
    assert.ok(
      lint.some((one) => /code\/(secret-in-code|hard-coded)/.test(one)),
      `lint does not report the secret:\n${lint.join('\n')}`,
    );
    if (field.project.leaks === false) return write(field.folder, path, before);
    field.build();
    const found = field.findings(['inspect']);
    assert.ok(
      found.some((one) => one.startsWith('error leak/known-value')),
      `inspect does not report the secret:\n${found.join('\n')}`,
    );
    write(field.folder, path, before);
    field.build();
    for (const one of field.findings(['inspect'])) assert.match(one, /the last build did not write this file/, one);
  },
  stale(field) {
    if (field.project.reads === false) return;
    replace(field.folder, field.project.files?.production ?? '.env.production', values.production, values.later);
    const found = field.findings(['inspect']);
    assert.ok(
      found.some((one) => one.includes('stale/')),
      `inspect does not report the old value:\n${found.join('\n')}`,
    );
    field.build();
    assert.ok(field.shipped(values.later), `${values.later} is in no file of ${field.output}`);
  },
};

function reachIn(contract, name) {
  const at = contract.search(new RegExp(`^ {2}${name}:`, 'm'));
  return at < 0 ? '' : contract.slice(at).split('\n').slice(0, 3).join(' ');
}

/** The entry and the files beside it that a read may be in. */
function sources({ project, folder }) {
  const paths = [project.entry, ...(project.client ? [project.client.path] : [])];
  return new Map(paths.map((path) => [path, readFileSync(join(folder, path), 'utf8')]));
}
