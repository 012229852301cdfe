// Tries the guides of docs/guides on real projects: lays each out in a temporary directory, lets npm install its framework,
// builds it through Adder, and looks at what came out. It downloads much and takes minutes, so it is run by hand:
//   npm run guides              all of them
//   npm run guides -- nuxt      one
import assert from 'node:assert/strict';
import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { setTimeout as rest } from 'node:timers/promises';

function layOut({ files, packages }) {
  const folder = mkdtempSync(join(tmpdir(), 'adder-guide-'));
  const write = (path, text) => {
    mkdirSync(join(folder, dirname(path)), { recursive: true });
    writeFileSync(join(folder, path), text);
  };
  const manifest = { name: 'saltmarsh', private: true, type: 'module' };
  for (const [path, text] of Object.entries({ 'package.json': JSON.stringify(manifest), ...files })) write(path, text);
  const installed = spawnSync('npm', ['install', '--no-audit', '--no-fund', ...packages], { cwd: folder });
  if (installed.status !== 0) throw new Error(`npm could not install ${packages.join(', ')}:\n${installed.stderr}`);
  return new Project(folder, write);
}

/** A project that a guide is tried on. */
class Project {
  constructor(folder, write) {
    this.folder = folder;
    this.write = write;
  }

  read(path) {
    return readFileSync(join(this.folder, path), 'utf8');
  }

  /** Runs Adder. @returns its exit code and all that it said */
  adder(line) {
    console.log(`  $ adder ${line}`);
    const { status, stdout, stderr } = spawnSync(process.execPath, [program, ...line.split(' ')], {
      cwd: this.folder,
      env: { ...process.env, DO_NOT_TRACK: '1', NEXT_TELEMETRY_DISABLED: '1', ASTRO_TELEMETRY_DISABLED: '1' },
      encoding: 'utf8',
    });
    return { code: status, said: stdout + stderr };
  }

  /** Runs Adder, which must end with a given code. @returns its output */
  expect(code, line) {
    const ran = this.adder(line);
    assert.equal(ran.code, code, `adder ${line}:\n${ran.said}`);
    return ran.said;
  }

  /** The text that a server gives, which is started through Adder and ended again. */
  async served(line, address) {
    console.log(`  $ adder ${line}`);
    const child = spawn(process.execPath, [program, ...line.split(' ')], { cwd: this.folder, stdio: 'ignore' });
    try {
      for (let tries = 0; tries < 100; tries++) {
        await rest(200);
        const answer = await fetch(address).catch(() => undefined);
        if (answer) return await answer.text();
      }
      throw new Error(`nobody answers at ${address}`);
    } finally {
      child.kill('SIGINT');
    }
  }
}

const program = resolve('dist/adder.cjs');
const wanted = process.argv.slice(2);
const names = readdirSync('scripts/guides').map((name) => name.replace('.mjs', ''));
const unknown = wanted.find((name) => !names.includes(name));
if (unknown) throw new Error(`there is no guide ${unknown}; known: ${names.join(', ')}`);

for (const name of names.filter((one) => wanted.length === 0 || wanted.includes(one))) {
  const { default: guide } = await import(`./guides/${name}.mjs`);
  console.log(`${name}: ${guide.title}`);
  const project = layOut(guide);
  await guide.tryOut(project);
  console.log(`${name}: all as the guide says, in ${project.folder}`);
}
