// Files that npm packages ship, as something to search: downloaded by npm into a cache directory, and not kept in the repository.
import { spawnSync } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { extname, join } from 'node:path';

const cache = join(import.meta.dirname, '../node_modules/.cache/adder-bench');
const kinds = new Set(['.js', '.mjs', '.cjs', '.map', '.css', '.wasm', '.json', '.html']);
/** Corpora of the bench, by their names. */
export const packages = 'typescript three antd @mui/material plotly.js-dist monaco-editor echarts rxjs mathjs d3';

/** The files of build output's kinds in some packages. @param {string} name of the directory that is kept for them */
export function packageFiles(name, list) {
  const folder = join(cache, name);
  if (!existsSync(join(folder, 'done'))) {
    mkdirSync(folder, { recursive: true });
    writeFileSync(join(folder, 'package.json'), '{ "private": true }');
    const args = ['install', '--no-audit', '--no-fund', '--ignore-scripts', ...list.split(' ')];
    if (spawnSync('npm', args, { cwd: folder, stdio: 'inherit' }).status !== 0)
      throw new Error(`npm could not install ${list}`);
    writeFileSync(join(folder, 'done'), '');
  }
  return filesBelow(join(folder, 'node_modules'));
}

function filesBelow(folder) {
  return readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .map((path) => join(folder, path))
    .filter((path) => kinds.has(extname(path)) && statSync(path).isFile());
}

/** A directory of large files, made once. @param {number} bytes */
export function largeCorpus(bytes) {
  const folder = join(cache, `corpus-${bytes}`);
  if (!existsSync(`${folder}.done`)) {
    copyFiles(packageFiles('packages', packages), folder, bytes);
    writeFileSync(`${folder}.done`, '');
  }
  return folder;
}

/** @param {string} from a directory @param {number} bytes at least so many */
export function copyUntil(from, to, bytes) {
  copyFiles(filesBelow(from), to, bytes);
}

/** Bundles and maps are large: the largest files come first, again and again until there are enough. */
function copyFiles(paths, to, bytes) {
  mkdirSync(to, { recursive: true });
  const all = paths
    .map((path) => ({ path, size: statSync(path).size }))
    .filter(({ size }) => size > 100_000 && size < bytes / 4)
    .sort((a, b) => b.size - a.size);
  let sum = 0;
  for (let copy = 0; sum < bytes; copy++)
    for (const { path, size } of all) {
      if (sum >= bytes) return;
      const name = path.slice(path.lastIndexOf('node_modules') + 'node_modules'.length + 1);
      cpSync(path, join(to, `${copy}-${name.replaceAll('/', '~')}`.slice(-200)));
      sum += size;
    }
}
