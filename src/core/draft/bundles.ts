import { dart } from '../toolchains/dart.js';
import { toolchains } from '../toolchains/index.js';
import { EXPO_PREFIX } from '../toolchains/metro.js';
import { defaultPrefix, type RunsIn, type Toolchain } from '../toolchains/toolchain.js';
import type { ConfigFile, Material, Package } from './material.js';
import { serverPackages, shells } from './packages.js';

/** A drafted bundle. */
export interface DraftBundle {
  name: string;
  /** The package's directory, with its slash; empty for the root. */
  folder: string;
  runs: RunsIn;
  toolchain: string;
  code: string[];
  serverCode: string[];
  output: string[];
  prefix: string;
  because: string;
}

/** One bundle per package with a build tool, a mobile app or a server. */
export function draftBundles({ packages, configs, exists }: Material): DraftBundle[] {
  const bundles = packages.flatMap((one) => bundleOf(one, configsOf(one, configs, packages), exists) ?? []);
  const taken = new Set<string>();
  return bundles.map((bundle) => {
    let name = bundle.name;
    for (let n = 2; taken.has(name); n++) name = `${bundle.name}-${n}`;
    taken.add(name);
    return { ...bundle, name };
  });
}

/** Configuration files in the package's directory and below, without those of packages below it. */
function configsOf({ folder }: Package, configs: readonly ConfigFile[], packages: readonly Package[]): ConfigFile[] {
  const nearest = (path: string) =>
    packages.filter((one) => path.startsWith(one.folder)).sort((a, b) => b.folder.length - a.folder.length)[0];
  return configs.filter(({ path }) => nearest(path)?.folder === folder);
}

type Exists = Material['exists'];

function bundleOf(one: Package, configs: readonly ConfigFile[], exists: Exists): DraftBundle | undefined {
  if (one.isDart) return dartBundle(one, exists);
  const tool = toolOf(one, configs);
  return tool ? toolBundle(one, tool, configs, exists) : serverBundle(one, exists);
}

/** What every bundle of a package has. */
function baseOf(one: Package): Pick<DraftBundle, 'name' | 'folder' | 'serverCode' | 'prefix'> {
  return { name: labelOf(one), folder: one.folder, serverCode: [], prefix: '' };
}

function inFolder({ folder }: Package, paths: readonly string[]): string[] {
  return paths.map((path) => folder + path);
}

function dartBundle(one: Package, exists: Exists): DraftBundle | undefined {
  const code = inFolder(one, dart.code).filter(exists);
  if (code.length === 0) return undefined;
  const output = inFolder(one, dart.output);
  const because = `${one.folder}pubspec.yaml is a Dart package`;
  return { ...baseOf(one), runs: 'mobile', toolchain: 'dart', code, output, because };
}

/** A package without a build tool for browsers that depends on a server framework. */
function serverBundle(one: Package, exists: Exists): DraftBundle | undefined {
  const server = serverPackages.find((name) => one.dependencies.includes(name));
  if (server === undefined) return undefined;
  const code = inFolder(one, ['src', 'server', 'lib', 'index.js', 'server.js', 'app.js']).filter(exists);
  const because = `${one.folder}package.json depends on ${server}, and on no build tool for browsers`;
  return { ...baseOf(one), runs: 'server', toolchain: 'other', code, output: [], because };
}

/** The first toolchain of the table with a configuration file or a package here. */
function toolOf({ dependencies }: Package, configs: readonly ConfigFile[]): Toolchain | undefined {
  return Object.values(toolchains).find(
    (tool) => configOf(tool, configs) !== undefined || tool.detect.packages.some((name) => dependencies.includes(name)),
  );
}

function configOf({ detect }: Toolchain, configs: readonly ConfigFile[]): ConfigFile | undefined {
  return configs.find(({ path }) => detect.config?.test(path.slice(path.lastIndexOf('/') + 1)));
}

function toolBundle(one: Package, tool: Toolchain, configs: readonly ConfigFile[], exists: Exists): DraftBundle {
  const { folder, dependencies } = one;
  const config = configOf(tool, configs);
  const shell = Object.keys(shells).find((name) => dependencies.includes(name));
  const usual = tool.name === 'metro' && dependencies.includes('expo') ? EXPO_PREFIX : defaultPrefix(tool);
  const prefix = config && prefixIn(config.text);
  const output = config && outputIn(config);
  const dependency = tool.detect.packages.find((name) => dependencies.includes(name));
  const reasons = [
    config ? `${config.path} exists` : `${folder}package.json depends on ${dependency}`,
    shell && `runs in ${shell}`,
    prefix !== undefined && prefix !== usual && `${config?.path} sets the prefix`,
    output !== undefined && `${config?.path} sets the output`,
  ];
  return {
    ...baseOf(one),
    runs: shell ? (shells[shell] as RunsIn) : tool.runs,
    toolchain: tool.name,
    code: inFolder(one, tool.code).filter(exists),
    serverCode: inFolder(one, tool.serverCode ?? []).filter(exists),
    output: output ? [joined(folder, output)] : usualOutput(inFolder(one, tool.output), exists),
    prefix: prefix ?? usual,
    because: reasons.filter(Boolean).join('; '),
  };
}

/** The existing directories, or the first usual one. */
function usualOutput(paths: readonly string[], exists: Material['exists']): string[] {
  const there = paths.filter(exists);
  return there.length > 0 ? there : paths.slice(0, 1);
}

/** A package's name without its scope, or its directory's, as the contract can have it. */
function labelOf({ name, folder }: Package): string {
  const last = name.replace(/^@[^/]+\//, '') || folder.split('/').filter(Boolean).at(-1) || 'app';
  return last.replace(/[^A-Za-z0-9._-]+/g, '-').replace(/^[^A-Za-z0-9]+/, '') || 'app';
}

/** `envPrefix: 'APP_'`, if it is a literal. */
function prefixIn(text: string): string | undefined {
  return /\benvPrefix\s*:\s*\[?\s*['"`]([A-Za-z0-9_]+)['"`]/.exec(text)?.[1];
}

/** The output directory, if it is a literal. */
function outputIn({ text }: ConfigFile): string | undefined {
  const plain = /\b(?:outDir|outdir|outputPath|distDir)["']?\s*[:=]\s*['"`]([^'"`$]+)['"`]/.exec(text)?.[1];
  if (plain) return plain;
  return /\bpath\s*:\s*(?:path\.)?(?:resolve|join)\(\s*(?:__dirname|import\.meta\.dirname)\s*,\s*['"`]([^'"`$]+)['"`]\s*\)/.exec(
    text,
  )?.[1];
}

function joined(folder: string, path: string): string {
  const parts: string[] = [];
  for (const part of `${folder}${path.replace(/^\.\//, '').replace(/\/$/, '')}`.split('/')) {
    if (part === '..' && parts.length > 0) parts.pop();
    else if (part !== '.' && part !== '') parts.push(part);
  }
  return parts.join('/');
}
