import { parse as parseYaml } from 'yaml';
import { globMatcher } from '../../files/glob.js';
import { isEnvLike, valueFileOf } from '../../files/value-files.js';
import type { LintFinding } from '../model.js';
import type { RepositoryFacts } from './facts.js';

/** Whatever is shipped and would take an env file along. */
export function packedRules(facts: RepositoryFacts): LintFinding[] {
  const envFiles = facts.paths.filter(isEnvLike);
  return [
    ...publicFolders(envFiles),
    ...facts.paths.flatMap((path) => {
      const name = path.slice(path.lastIndexOf('/') + 1);
      if (name === 'pubspec.yaml') return assets(facts, path, envFiles);
      if (name === 'package.json') return packageManifest(facts, path, envFiles);
      if (/^(Dockerfile|Containerfile)(\.[\w.-]+)?$|\.(dockerfile|containerfile)$/i.test(name))
        return container(facts, path, envFiles);
      return [];
    }),
  ];
}

function packed(
  path: string,
  message: string,
  remedy: string,
  at: { line?: number; level?: 'warning' } = {},
): LintFinding {
  const { line, level } = at;
  return {
    code: 'repo/packed',
    ...(level && { level }),
    message,
    remedy,
    place: { path, inside: [], ...(line && { line, column: 1 }) },
  };
}

/** Folders whose files are served or copied as they are. */
function publicFolders(envFiles: readonly string[]): LintFinding[] {
  return envFiles
    .filter((path) => /(^|\/)(public|static|www|assets)\//.test(path))
    .map((path) =>
      packed(
        path,
        `${path} is in a directory that the build copies into its output`,
        'move it elsewhere, and rotate the values in it',
      ),
    );
}

/** `flutter: assets:` of a Dart package's manifest: files, and folders with all their files. */
function assets(facts: RepositoryFacts, path: string, envFiles: readonly string[]): LintFinding[] {
  const text = facts.text(path) ?? '';
  const listed = (safely(() => parseYaml(text)) as { flutter?: { assets?: unknown } } | undefined)?.flutter?.assets;
  if (!Array.isArray(listed)) return [];
  const folder = path.slice(0, path.lastIndexOf('/') + 1);
  return listed.flatMap((one): LintFinding[] => {
    const asset = typeof one === 'string' ? one : (one as { path?: string } | null)?.path;
    if (!asset) return [];
    const full = folder + asset.replace(/^\.\//, '');
    const taken = full.endsWith('/')
      ? envFiles.find((file) => file.startsWith(full) && !file.slice(full.length).includes('/'))
      : isEnvName(full)
        ? full
        : undefined;
    return taken === undefined
      ? []
      : [
          packed(
            path,
            `${taken} is packed into the app: ${path} lists ${asset} among its assets`,
            'remove it from the assets, and pass the values at build time: adder emit defines',
            { line: lineOf(text, asset) },
          ),
        ];
  });
}

function packageManifest(facts: RepositoryFacts, path: string, envFiles: readonly string[]): LintFinding[] {
  const text = facts.text(path) ?? '';
  const manifest = safely(() => JSON.parse(text)) as
    | { version?: unknown; private?: boolean; files?: unknown; scripts?: Record<string, string>; build?: unknown }
    | undefined;
  if (!manifest) return [];
  const folder = path.slice(0, path.lastIndexOf('/') + 1);
  const own = envFiles.filter((file) => file.startsWith(folder)).map((file) => file.slice(folder.length));
  const files = Array.isArray(manifest.files) ? manifest.files.filter((one) => typeof one === 'string') : undefined;
  return [
    ...published(facts, path, manifest.private === true || manifest.version === undefined, files, own, text),
    ...shellFiles(path, manifest.build, own, text),
    ...archives(path, manifest.scripts ?? {}, own, text),
  ];
}

/** `files` is a list of patterns as ignore files have them; without it all goes that is not ignored. */
function published(
  facts: RepositoryFacts,
  path: string,
  isPrivate: boolean,
  files: readonly string[] | undefined,
  own: readonly string[],
  text: string,
): LintFinding[] {
  if (isPrivate) return [];
  const folder = path.slice(0, path.lastIndexOf('/') + 1);
  if (files) {
    return files.flatMap((pattern): LintFinding[] => {
      const plain = pattern.replace(/^\.?\//, '').replace(/\/$/, '');
      const matches = globMatcher([plain, `${plain}/**`]);
      const taken = own.find((file) => matches(file));
      return taken === undefined
        ? []
        : [
            packed(
              path,
              `${folder}${taken} is published with the package: \`files\` in ${path} has ${pattern}`,
              'remove it from `files`',
              { line: lineOf(text, pattern) },
            ),
          ];
    });
  }
  if (facts.paths.includes(`${folder}.npmignore`)) return [];
  const taken = own.find((file) => !facts.isIgnored(folder + file));
  return taken === undefined
    ? []
    : [
        packed(
          path,
          `${folder}${taken} would be published with the package: ${path} has no \`files\`, and git does not ignore it`,
          'add "private": true or "files" to the manifest',
        ),
      ];
}

/** Settings of packers of desktop apps name what goes into the app. */
function shellFiles(path: string, build: unknown, own: readonly string[], text: string): LintFinding[] {
  const strings: string[] = [];
  const collect = (one: unknown): void => {
    if (typeof one === 'string') strings.push(one);
    else if (one && typeof one === 'object') for (const inner of Object.values(one)) collect(inner);
  };
  collect(build);
  return strings
    .filter((one) => isEnvName(one) && !one.startsWith('!'))
    .map((one) =>
      packed(
        path,
        `${own.find((file) => file === one) ?? one} is packed into the app: \`build\` in ${path} lists it`,
        'take it out',
        { line: lineOf(text, one) },
      ),
    );
}

/** `zip -r app.zip .` takes hidden files too. */
function archives(
  path: string,
  scripts: Readonly<Record<string, string>>,
  own: readonly string[],
  text: string,
): LintFinding[] {
  const [first] = own;
  if (first === undefined) return [];
  return Object.entries(scripts).flatMap(([name, script]) => {
    const isAll = /\b(?:zip\s+-\S*r\S*\s+\S+\s+(?:\.|\*)|tar\s+\S*c\S*\s+\S+\s+(?:\.|\*))(?:\s|$)/.test(script);
    return isAll && !/(-x|--exclude)\S*[ =]\S*\.env/.test(script)
      ? [
          packed(
            path,
            `the script ${name} in ${path} packs the whole directory, including ${first}`,
            'list what to pack, or exclude the env files',
            { line: lineOf(text, `"${name}"`), level: 'warning' },
          ),
        ]
      : [];
  });
}

/** Dockerfile reference, COPY and ADD; the ignore file's patterns are relative to the build's folder, the last one wins. */
function container(facts: RepositoryFacts, path: string, envFiles: readonly string[]): LintFinding[] {
  const folder = path.slice(0, path.lastIndexOf('/') + 1);
  const text = facts.text(path) ?? '';
  const own = envFiles.filter((file) => file.startsWith(folder)).map((file) => file.slice(folder.length));
  const rules = (facts.text(`${path}.dockerignore`) ?? facts.text(`${folder}.dockerignore`) ?? '')
    .split(/\r?\n/)
    .map((line) => line.trim())
    .filter((line) => line !== '' && !line.startsWith('#'));
  const taken = own.filter((file) => !isDockerIgnored(file, rules));
  const lines = text.split('\n');
  const lastFrom = lines.findLastIndex((line) => /^\s*FROM\s/i.test(line));
  return lines.flatMap((line, index): LintFinding[] => {
    const words = /^\s*(?:COPY|ADD)\s+(?!.*--from=)(?:--\S+\s+)*(.+)$/i
      .exec(line)?.[1]
      ?.replace(/[[\]",]/g, ' ')
      .trim()
      .split(/\s+/);
    if (!words || words.length < 2) return [];
    const sources = words.slice(0, -1).map((word) => word.replace(/^\.\//, '').replace(/\/$/, ''));
    const file = taken.find((one) =>
      sources.some(
        (source) =>
          source === '.' ||
          source === '' ||
          source === one ||
          one.startsWith(`${source}/`) ||
          (/[*?]/.test(source) && globMatcher(source)(one)),
      ),
    );
    if (file === undefined) return [];
    const isFinal = index > lastFrom;
    return [
      packed(
        path,
        `${folder}${file} is copied into the ${isFinal ? 'image' : "image's build stage"}: ${line.trim()}`,
        `add the line ${file} to ${folder}.dockerignore`,
        { line: index + 1, ...(!isFinal && { level: 'warning' }) },
      ),
    ];
  });
}

function isDockerIgnored(file: string, rules: readonly string[]): boolean {
  let ignored = false;
  for (const rule of rules) {
    const negated = rule.startsWith('!');
    const pattern = rule
      .replace(/^!/, '')
      .replace(/^\.?\//, '')
      .replace(/\/$/, '');
    if (globMatcher([pattern, `${pattern}/**`])(file)) ignored = !negated;
  }
  return ignored;
}

function isEnvName(path: string): boolean {
  return valueFileOf(path)?.kind === 'env';
}

function lineOf(text: string, piece: string): number {
  const at = text.indexOf(piece);
  return at < 0 ? 1 : text.slice(0, at).split('\n').length;
}

function safely<T>(read: () => T): T | undefined {
  try {
    return read();
  } catch {
    return undefined;
  }
}
