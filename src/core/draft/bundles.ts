import { dart } from '../toolchains/dart.js';
import { toolchains } from '../toolchains/index.js';
import { EXPO_PREFIX } from '../toolchains/metro.js';
import { defaultPrefix, type RunsIn } from '../toolchains/toolchain.js';
import type { ConfigFile, Material, Package } from './material.js';
import { serverPackages, shells } from './packages.js';

/** A bundle as the draft has it. */
export interface DraftBundle {
  name: string;
  /** The package's folder, with its slash; empty for the root. */
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

/** Configuration files in the package's folder and below, as far as no package lies between. */
function configsOf({ folder }: Package, configs: readonly ConfigFile[], packages: readonly Package[]): ConfigFile[] {
  const nearest = (path: string) =>
    packages.filter((one) => path.startsWith(one.folder)).sort((a, b) => b.folder.length - a.folder.length)[0];
  return configs.filter(({ path }) => nearest(path)?.folder === folder);
}

function bundleOf(one: Package, configs: readonly ConfigFile[], exists: Material['exists']): DraftBundle | undefined {
  const inFolder = (paths: readonly string[]) => paths.map((path) => one.folder + path);
  const base = { name: labelOf(one), folder: one.folder, serverCode: [], prefix: '' };
  const manifest = one.folder + (one.isDart ? 'pubspec.yaml' : 'package.json');
  if (one.isDart) {
    const code = inFolder(dart.code).filter(exists);
    if (code.length === 0) return undefined;
    return {
      ...base,
      runs: 'mobile',
      toolchain: 'dart',
      code,
      output: inFolder(dart.output),
      because: `${manifest} is a Dart package`,
    };
  }
  const baseName = ({ path }: ConfigFile) => path.slice(path.lastIndexOf('/') + 1);
  const tools = Object.values(toolchains);
  const byConfig = tools.find(
    ({ detect: { config } }) => config && configs.some((file) => config.test(baseName(file))),
  );
  const byPackage = tools.find(({ detect }) => detect.packages.some((name) => one.dependencies.includes(name)));
  const tool = [byConfig, byPackage]
    .filter((one) => one !== undefined)
    .sort((a, b) => tools.indexOf(a) - tools.indexOf(b))[0];
  if (!tool) {
    const server = serverPackages.find((name) => one.dependencies.includes(name));
    if (server === undefined) return undefined;
    const code = inFolder(['src', 'server', 'lib', 'index.js', 'server.js', 'app.js']).filter(exists);
    return {
      ...base,
      runs: 'server',
      toolchain: 'other',
      code,
      output: [],
      because: `${manifest} depends on ${server}, and on no build tool for browsers`,
    };
  }
  const config = configs.find((file) => tool.detect.config?.test(baseName(file)));
  const shell = Object.keys(shells).find((name) => one.dependencies.includes(name));
  const isExpo = tool.name === 'metro' && one.dependencies.includes('expo');
  const usual = isExpo ? EXPO_PREFIX : defaultPrefix(tool);
  const written = config && prefixIn(config.text);
  const output = config ? outputIn(config) : undefined;
  const reasons = [
    config
      ? `${config.path} exists`
      : `${manifest} depends on ${tool.detect.packages.find((name) => one.dependencies.includes(name))}`,
    shell && `runs in ${shell}`,
    written !== undefined && written !== usual && `${config?.path} sets the prefix`,
    output !== undefined && `${config?.path} sets the output`,
  ];
  return {
    ...base,
    runs: shell ? (shells[shell] as RunsIn) : tool.runs,
    toolchain: tool.name,
    code: inFolder(tool.code).filter(exists),
    serverCode: inFolder(tool.serverCode ?? []).filter(exists),
    output: output ? [joined(one.folder, output)] : usualOutput(inFolder(tool.output), exists),
    prefix: written ?? usual,
    because: reasons.filter(Boolean).join('; '),
  };
}

/** The folders that are there, or the first of the usual ones. */
function usualOutput(paths: readonly string[], exists: Material['exists']): string[] {
  const there = paths.filter(exists);
  return there.length > 0 ? there : paths.slice(0, 1);
}

/** A package's name without its scope, or its folder's, as the contract can have it. */
function labelOf({ name, folder }: Package): string {
  const last = name.replace(/^@[^/]+\//, '') || folder.split('/').filter(Boolean).at(-1) || 'app';
  return last.replace(/[^A-Za-z0-9._-]+/g, '-').replace(/^[^A-Za-z0-9]+/, '') || 'app';
}

/** `envPrefix: 'APP_'`, where the text says it in plain words. */
function prefixIn(text: string): string | undefined {
  return /\benvPrefix\s*:\s*\[?\s*['"`]([A-Za-z0-9_]+)['"`]/.exec(text)?.[1];
}

/** The output folder, where the text names it in plain words. */
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
