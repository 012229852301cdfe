import { existsSync } from 'node:fs';
import { dirname, join, sep } from 'node:path';
import { glob } from 'tinyglobby';
import { nameOf } from '../core/draft/file-names.js';
import { wholeNeedles } from '../core/inspect/plan.js';
import type { LintFinding } from '../core/lint/model.js';
import { dependencyRule, type PackageFile } from '../core/lint/repository/dependencies.js';
import type { Past, RepositoryFacts } from '../core/lint/repository/facts.js';
import { lintRepositoryFacts } from '../core/lint/repository/index.js';
import { readsIn } from '../core/reads/index.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { findAll } from '../core/search/matcher.js';
import { matcherFor } from '../core/search/matcher-for.js';
import { byteSize, count } from '../core/text/display.js';
import { readIfPossible } from '../host/files.js';
import { ModuleResolver } from '../host/modules.js';
import {
  blobSizes,
  blobsOf,
  commitsWith,
  ignoredAmong,
  readBlobs,
  touchesOf,
  trackedFiles,
  visibleFiles,
} from '../host/version-control.js';
import type { World } from '../host/world.js';
import type { LintedCode } from './lint.js';
import { type Project, packageFolder } from './open.js';

/** Bounds of the search through the history, so that an old repository does not take minutes. */
const MOST_BLOBS = 100_000;
const LARGEST_BLOB = 1024 * 1024;
const MOST_BLOB_BYTES = 512 * 1024 * 1024;
/** Bounds of the look into packages. */
const MOST_PACKAGE_FILES = 3000;

/** What the repository lets out: asked of version control, and read from the files as they are. */
export async function lintRepository(project: Project, code: LintedCode, world: World): Promise<LintFinding[]> {
  const facts = await gatherFacts(project, code.context.stages, world);
  return [...lintRepositoryFacts(facts), ...dependencies(project, code)];
}

async function gatherFacts(
  { contract, root }: Project,
  stages: readonly Resolution[],
  world: World,
): Promise<RepositoryFacts> {
  const known = trackedFiles(root);
  const isVersioned = known !== undefined;
  const tracked = new Set(known);
  const visible = visibleFiles(root) ?? [];
  const ignore = ['**/node_modules/**', '**/.git/**', '**/dist/**', '**/build/**', '**/.adder/**'];
  // Env files count though they are ignored; without version control the folder is all there is.
  const present = await glob(isVersioned ? ['**/.env*', '**/*.env', '**/env'] : ['**/*'], {
    cwd: root,
    dot: true,
    deep: 8,
    ignore,
    followSymbolicLinks: false,
  });
  const paths = [...new Set([...visible, ...present])].sort();
  const layerPaths = stages.flatMap(({ layers }) => layers.flatMap(({ path }) => path ?? []));
  const asked = [...new Set([...layerPaths, ...paths.filter((path) => nameOf(path))])];
  const ignored = isVersioned ? ignoredAmong(root, asked) : new Set<string>();
  const history = isVersioned ? await searchHistory(root, tracked, contract, stages, world) : { pastValues: [] };
  return {
    contract,
    stages,
    paths,
    isVersioned,
    tracked,
    isIgnored: (path) => ignored.has(path),
    past: isVersioned ? pastFiles(root) : [],
    ...history,
    text: (path) => readIfPossible(join(root, path))?.toString(),
  };
}

/** Env files and keys of any commit, examples left out. */
function pastFiles(root: string): Past[] {
  const patterns = [
    ':(glob)**/.env',
    ':(glob)**/.env.*',
    ':(glob)**/*.env',
    ':(glob)**/id_rsa',
    ':(glob)**/id_ed25519',
    ':(glob)**/*.p12',
    ':(glob)**/*.jks',
    ':(glob)**/*.keystore',
  ];
  const byPath = new Map<string, Past>();
  for (const { path, id, day } of touchesOf(root, patterns)) {
    if (nameOf(path)?.kind === 'example') continue;
    const known = byPath.get(path);
    if (known) known.first = { id, day };
    else byPath.set(path, { path, first: { id, day }, last: { id, day } });
  }
  return [...byPath.values()];
}

async function searchHistory(
  root: string,
  tracked: ReadonlySet<string>,
  contract: Project['contract'],
  stages: readonly Resolution[],
  world: World,
): Promise<Pick<RepositoryFacts, 'pastValues'>> {
  const needles = wholeNeedles(contract, stages);
  if (needles.length === 0) return { pastValues: [] };
  const all = blobsOf(root).slice(0, MOST_BLOBS);
  const sizes = blobSizes(
    root,
    all.map(({ id }) => id),
  );
  let bytes = 0;
  const chosen = all.filter((_, index) => {
    const size = sizes[index] ?? 0;
    const isLookedAt = size > 0 && size <= LARGEST_BLOB && bytes + size <= MOST_BLOB_BYTES;
    if (isLookedAt) bytes += size;
    return isLookedAt;
  });
  const progress = new Progress(world, chosen.length, bytes);
  const matcher = matcherFor(needles.map((needle) => needle.bytes));
  const hits = new Map<string, { variable: string; stages: Set<string>; blob: (typeof chosen)[number] }>();
  await readBlobs(
    root,
    chosen.map(({ id }) => id),
    (index, content) => {
      progress.at(index);
      const blob = chosen[index];
      if (!blob) return;
      for (const { needle } of findAll(matcher, content)) {
        for (const { variable, stage = '' } of needles[needle]?.owners ?? []) {
          const key = `${variable}\0${blob.path}`;
          const known = hits.get(key) ?? { variable, stages: new Set<string>(), blob };
          known.stages.add(stage);
          hits.set(key, known);
        }
      }
    },
  );
  progress.end();
  // What a tracked file has now is told of the file as it is.
  const now = (variable: string, path: string) =>
    tracked.has(path) &&
    existsSync(join(root, path)) &&
    findAll(matcher, readIfPossible(join(root, path)) ?? new Uint8Array()).some(({ needle }) =>
      needles[needle]?.owners.some((owner) => owner.variable === variable),
    );
  const pastValues = [...hits.values()]
    .filter(({ variable, blob }) => !now(variable, blob.path))
    .flatMap(({ variable, stages: held, blob }) => {
      const commits = commitsWith(root, blob.id);
      const [last, first] = [commits[0], commits.at(-1)];
      return first && last ? [{ variable, stages: [...held], path: blob.path, first, last }] : [];
    });
  return { pastValues };
}

/** A line on a terminal, when the history is long. */
class Progress {
  #shown = 0;

  constructor(
    readonly world: World,
    readonly total: number,
    readonly bytes: number,
  ) {}

  at(index: number): void {
    if (!this.world.stderr.isTerminal || this.bytes < 16 * 1024 * 1024 || index - this.#shown < 500) return;
    this.#shown = index;
    this.world.stderr.pass(
      `\r\x1b[Kadder: looking through the history, ${index} of ${count(this.total, 'version')}, ${byteSize(this.bytes)}`,
    );
  }

  end(): void {
    if (this.#shown > 0) this.world.stderr.pass('\r\x1b[K');
  }
}

/** Packages that bundles load, followed into their own files as far as the bounds go. */
function dependencies({ root }: Project, { context, files }: LintedCode): LintFinding[] {
  return context.bundles.flatMap(({ bundle, reached }) => {
    if (bundle.runs === 'server' || bundle.toolchain === 'dart') return [];
    const resolver = new ModuleResolver();
    const queue: string[] = [];
    const seen = new Map<string, PackageFile>();
    const follow = (from: string, specifiers: readonly string[]) => {
      for (const specifier of specifiers) {
        const path = resolver.resolve(from, specifier);
        if (
          path === undefined ||
          seen.has(path) ||
          seen.size >= MOST_PACKAGE_FILES ||
          !path.includes(`${sep}node_modules${sep}`)
        )
          continue;
        const text = /\.[cm]?js$/.test(path) ? readIfPossible(path)?.toString() : undefined;
        if (text === undefined) continue;
        seen.set(path, { package: packageOf(path), text });
        queue.push(path);
      }
    };
    for (const path of reached.keys()) {
      const bare = (files.get(path)?.imports ?? [])
        .map(({ specifier }) => specifier)
        .filter((one) => /^[@a-z]/i.test(one));
      if (bare.length > 0) follow(join(root, path), bare);
    }
    for (let path = queue.shift(); path !== undefined; path = queue.shift()) {
      const { text } = seen.get(path) as PackageFile;
      follow(
        path,
        readsIn(path, text, []).imports.map(({ specifier }) => specifier),
      );
    }
    const [entry] = reached.keys();
    return entry === undefined
      ? []
      : dependencyRule(
          seen.values(),
          bundle.name,
          join(packageFolder(root, dirname(entry)), 'package.json')
            .split(sep)
            .join('/'),
        );
  });
}

function packageOf(path: string): string {
  const inside = path.slice(path.lastIndexOf(`${sep}node_modules${sep}`) + '/node_modules/'.length).split(sep);
  return inside[0]?.startsWith('@') ? `${inside[0]}/${inside[1]}` : (inside[0] ?? '');
}
