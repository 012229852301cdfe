import { expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';
import { contractOf, envFile } from '../truth/measure.js';
import { modulesOf, programsOf } from '../truth/program.js';
import { type Tool, tools } from '../truth/tools.js';
import { follow, isFollowed } from './followers.js';
import type { Found } from './found.js';
import { deskOf } from './situation.js';

/** Number of programs for each tool. `npm run remedies` uses more, with a new seed each day. */
const isNightly = process.env.ADDER_REMEDIES === 'all';
const count = isNightly ? 200 : 40;
const seed = isNightly ? Number(new Date().toISOString().slice(0, 10).replaceAll('-', '')) : 34;

test.each(tools.filter(({ name }) => isNightly || name === 'vite'))(
  'remedies of generated programs, $name',
  { timeout: 3_600_000 },
  (tool) => {
    const wrong: string[] = [];
    let followed = 0;
    for (const program of programsOf(seed, count, tool)) {
      const modules = modulesOf(program, tool, 'p');
      // The truth machine already compares `lint --fix` with real builds.
      const all = found(project(tool, modules)).filter((one) => isFollowed(one) && !ofFix.test(one.code));
      for (const one of all) {
        const at = project(tool, modules);
        const known = new Set(found(at).map(({ fingerprint }) => fingerprint));
        const before = textOf(at, modules);
        if (!isDone(at, one) || (textOf(at, modules) === before && one.remedy.startsWith('write'))) continue;
        followed++;
        const after = found(at);
        // Following the remedy can leave an unused alias, which a person removes too.
        const come = after.filter(({ code, fingerprint }) => !known.has(fingerprint) && code !== 'code/whole-object');
        const left = after.filter(({ fingerprint }) => fingerprint === one.fingerprint);
        for (const other of [...left, ...come])
          wrong.push(
            [JSON.stringify(program), `${one.message} → ${one.remedy}`, `then: ${other.message}`, before].join('\n'),
          );
      }
    }
    expect(wrong.join('\n\n')).toBe('');
    expect(followed).toBeGreaterThan(count / 20);
  },
);

const ofFix = /^code\/(unreachable-read|whole-object|hard-coded)$/;

/** Follows a remedy. Returns false for code that only a person can change. */
function isDone(at: TestProject, one: Found): boolean {
  try {
    follow(deskOf(at), one);
    return true;
  } catch {
    return false;
  }
}

function project(tool: Tool, modules: Readonly<Record<string, string>>): TestProject {
  const entry = Object.keys(modules).find((path) => path.startsWith('main.')) ?? '';
  const at = new TestProject({
    'adder.yaml': contractOf(`toolchain: ${tool.name}, code: [src], output: [dist], entry: [src/${entry}]`),
    '.env.production': envFile,
    'package.json': '{ "type": "module", "private": true }',
    [`${tool.name}.config.js`]: tool.config,
  });
  for (const [path, text] of Object.entries(modules)) at.write(`src/${path}`, text);
  return at;
}

function textOf(at: TestProject, modules: Readonly<Record<string, string>>): string {
  return Object.keys(modules)
    .map((path) => `// ${path}\n${at.read(`src/${path}`)}`)
    .join('\n');
}

function found(at: TestProject): Found[] {
  return (at.json(['lint']).report.findings as Found[]).filter(({ level }) => level !== 'note');
}
