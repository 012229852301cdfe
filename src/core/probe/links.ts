import { Parser } from 'htmlparser2';
import { sourceMapAddress } from '../inspect/source-map.js';
import { jsonIn, stringValues } from '../text/json.js';
import type { Link, ResourceKind } from './resource.js';

/** URLs that a page loads and links to. `links`: other pages. */
export interface PageLinks {
  /** The URL that relative ones are taken from (HTML, 4.2.3). */
  base: string;
  loads: Link[];
  links: string[];
  /** Texts of inline scripts. */
  scripts: string[];
}

/** Attributes that name images and media, by element. */
const mediaAttributes: Readonly<Record<string, readonly string[]>> = {
  img: ['src', 'srcset'],
  source: ['src', 'srcset'],
  video: ['src', 'poster'],
  audio: ['src'],
  object: ['data'],
  embed: ['src'],
};

/** Relations of `link` elements to what they load. */
const relations: Readonly<Record<string, ResourceKind>> = {
  stylesheet: 'style',
  modulepreload: 'script',
  manifest: 'manifest',
};
const preloads: Readonly<Record<string, ResourceKind>> = {
  script: 'script',
  style: 'style',
  font: 'font',
  fetch: 'data',
};

/** @param url of the page, for relative references */
export function linksInPage(html: string, url: string): PageLinks {
  const found: PageLinks = { base: url, loads: [], links: [], scripts: [] };
  const load = (reference: string | undefined, kind: ResourceKind, isCors: boolean) => {
    const absolute = resolved(reference, found.base);
    if (absolute !== undefined) found.loads.push({ url: absolute, kind, isCors, isGuess: false });
  };
  let isBased = false;
  let script: string[] | undefined;
  const parser = new Parser({
    onopentag(name, attributes) {
      const isCors = attributes.crossorigin !== undefined || attributes.integrity !== undefined;
      if (name === 'base' && !isBased) {
        found.base = resolved(attributes.href, url) ?? url;
        isBased = true;
      }
      if (name === 'a') {
        const target = resolved(attributes.href, found.base);
        if (target !== undefined) found.links.push(target);
      }
      if (name === 'script') {
        const type = attributes.type?.trim().toLowerCase();
        if (attributes.src !== undefined) load(attributes.src, 'script', isCors || type === 'module');
        else script = [];
      }
      if (name === 'iframe') load(attributes.src, 'page', false);
      for (const attribute of mediaAttributes[name] ?? [])
        for (const reference of references(attribute, attributes[attribute])) load(reference, 'image', false);
      if (name === 'link') {
        linkElement(attributes, isCors, load);
        const target = isAlternate(attributes) ? resolved(attributes.href, found.base) : undefined;
        if (target !== undefined) found.links.push(target);
      }
    },
    ontext: (text) => void script?.push(text),
    onclosetag(name) {
      if (name !== 'script' || !script) return;
      const text = script.join('');
      found.loads.push(...linksInScript(text, found.base, found.base));
      found.scripts.push(text);
      script = undefined;
    },
  });
  parser.end(html);
  return found;
}

/** URLs of an attribute; `srcset` lists several, each with a descriptor (HTML, 4.8.4.2.1). */
function references(attribute: string, value: string | undefined): string[] {
  if (value === undefined) return [];
  if (attribute !== 'srcset') return [value];
  return [...value.matchAll(/[^\s,][^\s]*[^\s,](?=[\s,]|$)/g)]
    .map(([one]) => one)
    .filter((one) => !/^[\d.]+[wxh]$/.test(one));
}

/** Tells whether an element links to the same page in another language, or to another version of it. */
function isAlternate({ rel = '', type = 'text/html' }: Readonly<Record<string, string>>): boolean {
  return /(^|\s)(alternate|amphtml)(\s|$)/i.test(rel) && /^text\/html/i.test(type);
}

function linkElement(
  { rel = '', href, as = '' }: Readonly<Record<string, string>>,
  isCors: boolean,
  load: (reference: string | undefined, kind: ResourceKind, isCors: boolean) => void,
): void {
  for (const word of rel.toLowerCase().split(/\s+/)) {
    const kind = word === 'preload' || word === 'prefetch' ? preloads[as] : relations[word];
    if (kind) load(href, kind, isCors || word === 'modulepreload' || kind === 'font');
    if (word === 'icon' || word === 'apple-touch-icon') load(href, 'image', false);
  }
}

/** Kinds by the ending of a path. */
const endings: readonly [RegExp, ResourceKind][] = [
  [/\.[cm]?js$/i, 'script'],
  [/\.css$/i, 'style'],
  [/\.(woff2?|ttf|otf|eot)$/i, 'font'],
  [/\.(png|jpe?g|gif|svg|webp|avif|ico)$/i, 'image'],
  [/\.map$/i, 'map'],
  [/\.webmanifest$/i, 'manifest'],
  [/\.html?$/i, 'page'],
];

/** Purpose of a path, by its ending. */
export function kindByName(path: string): ResourceKind {
  return endings.find(([ending]) => ending.test(path))?.[1] ?? 'data';
}

/** A string in a script that may name a file. Longer ones are no paths. */
const fileString =
  /(["'`])((?:[^"'`\\\s]|\\\/){1,300}?\.(?:[cm]?js|css|json|wasm|webmanifest|html))(?:\?[^"'`\s\\]{0,200})?\1/g;

/**
 * Files that a script names: imports, workers, and strings that look like paths, which are guesses.
 * @param url of the script @param base of the page that loads it
 */
export function linksInScript(text: string, url: string, base: string): Link[] {
  const found = new Map<string, Link>();
  const add = (reference: string, kind: ResourceKind, isGuess: boolean) => {
    const absolute = resolved(reference, baseFor(reference, url, base));
    const known = absolute === undefined ? undefined : found.get(absolute);
    if (absolute === undefined || (known && !known.isGuess)) return;
    found.set(absolute, { url: absolute, kind, isCors: kind === 'script', isGuess });
  };
  for (const { 2: reference = '', index } of text.matchAll(fileString)) {
    const before = text.slice(Math.max(0, index - 60), index);
    const path = reference.replaceAll('\\/', '/');
    // A template, and the ending of a name that is computed.
    if (path.includes('${')) continue;
    if (/(^|\/)\.[^/]*$/.test(path) && !/^\.{0,2}\/[^.]/.test(path)) continue;
    // A name without a directory is a package, or text.
    const isImport = /(?:\bimport\s*\(?\s*|\bfrom\s*)$/.test(before) && /^(\.{0,2}\/|https?:)/.test(path);
    const isWorker = /(serviceWorker\s*\.\s*register\s*\(|importScripts\s*\()\s*$/.test(before);
    // Code may register a service worker only under a condition.
    add(path, isWorker ? 'worker' : kindByName(path), !isImport);
  }
  for (const path of chunkNames(text)) add(path, kindByName(path), true);
  const map = sourceMapAddress(text);
  if (map !== undefined && !map.startsWith('data:')) add(map, 'map', false);
  return [...found.values()];
}

/**
 * The file name of a chunk as a bundler's runtime computes it: `{7:"abc"}[e]+".js"`, the hash of a chunk with what follows; and what comes
 * before it: a prefix, and the chunk's name or id. Repetitions are bounded, so that no text takes long.
 */
const chunkHashes = /\{([^{}]{1,200000})\}\s{0,9}\[\w{1,40}\]\s{0,9}\+\s{0,9}"([^"]{0,200}\.(?:js|css))"/g;
const beforeHashes =
  /(?:"([^"]{0,200})"\s{0,9}\+\s{0,9})?(?:\(?\{([^{}]{0,20000})\}\s{0,9}\[\w{1,40}\]\s{0,9}\|\|\s{0,9}\w{1,40}\)?|(?<!\w)\w{1,40})\s{0,9}\+\s{0,9}"([^"]{0,20})"\s{0,9}\+\s{0,9}$/;

/** A longer map of names is not read. */
const MOST_BEFORE = 20_000;

function chunkNames(text: string): string[] {
  return [...text.matchAll(chunkHashes)].flatMap(([, hashes = '', end = ''], index, all) => {
    const at = (all[index] as RegExpExecArray).index;
    const before = beforeHashes.exec(text.slice(Math.max(0, at - MOST_BEFORE), at));
    if (!before) return [];
    const [, prefix = '', names = '', separator = ''] = before;
    const nameOf = new Map(pairsIn(names));
    return pairsIn(hashes).map(([id, hash]) => `${prefix}${nameOf.get(id) ?? id}${separator}${hash}${end}`);
  });
}

function pairsIn(object: string): [string, string][] {
  return [...object.matchAll(/["']?([\w-]{1,200})["']?\s{0,9}:\s{0,9}["']([^"']{0,200})["']/g)].map(
    ([, key = '', value = '']) => [key, value],
  );
}

/** Relative to the script, or for `assets/a.js` to the directory that contains `assets`, or to the page. */
function baseFor(reference: string, url: string, base: string): string {
  if (/^(\.{1,2}\/|\/|[a-z]+:)/i.test(reference)) return url;
  const [first = ''] = reference.split('/');
  const { pathname } = new URL(url);
  const at = reference.includes('/') ? pathname.indexOf(`/${first}/`) : -1;
  if (at >= 0) return new URL(pathname.slice(0, at + 1), url).href;
  return reference.includes('/') ? base : url;
}

/** Files that a style sheet loads (CSS Syntax; `url()` and `@import`). */
export function linksInStyle(text: string, url: string): Link[] {
  const references = [
    ...text.matchAll(/url\(\s{0,9}(["']?)([^"'()]{1,2000})\1\s{0,9}\)/g),
    ...text.matchAll(/@import\s{1,9}(["'])([^"']{1,2000})\1/g),
  ].map(([, , reference]) => reference);
  const map = sourceMapAddress(text);
  const maps = map === undefined || map.startsWith('data:') ? [] : [map];
  return [...references, ...maps].flatMap((reference) => {
    const absolute = resolved(reference, url);
    if (absolute === undefined) return [];
    const kind = kindByName(new URL(absolute).pathname);
    return [{ url: absolute, kind, isCors: kind === 'font', isGuess: false }];
  });
}

/** Files that a web manifest, a build manifest or another JSON document names: each string that is a path. */
export function linksInJson(text: string, url: string, base: string): Link[] {
  return stringValues(jsonIn(text)).flatMap(({ text: one }) => {
    if (!/^[^\s"'<>{}]{1,300}\.(?:[cm]?js|css|json|html|png|svg|webmanifest)$/.test(one)) return [];
    const absolute = resolved(one, baseFor(one, url, base));
    return absolute === undefined
      ? []
      : [{ url: absolute, kind: kindByName(new URL(absolute).pathname), isCors: false, isGuess: true }];
  });
}

/** An absolute URL of the web without its fragment; undefined for anything else. */
function resolved(reference: string | undefined, base: string): string | undefined {
  if (reference === undefined || /^(data|blob|javascript|mailto|tel|about):/i.test(reference.trim())) return undefined;
  if (!URL.canParse(reference, base)) return undefined;
  const url = new URL(reference, base);
  if (!/^https?:$/.test(url.protocol) || url.username !== '' || url.password !== '') return undefined;
  url.hash = '';
  return url.href;
}

/** URLs of pages in a sitemap, and of other sitemaps (sitemaps.org protocol 0.9); `undefined` for other documents. */
export function linksInSitemap(text: string, url: string): { pages: string[]; sitemaps: string[] } | undefined {
  const [, root] = /^(?:\s|<\?[^>]{0,500}\?>|<!--[\s\S]{0,2000}?-->){0,20}<(urlset|sitemapindex)\b/.exec(text) ?? [];
  if (root === undefined) return undefined;
  const found: string[] = [];
  let location: string | undefined;
  const parser = new Parser(
    {
      onopentag(name) {
        if (name === 'loc') location = '';
      },
      ontext(piece) {
        if (location !== undefined) location += piece;
      },
      onclosetag() {
        const target = location === undefined ? undefined : resolved(location.trim(), url);
        if (target !== undefined) found.push(target);
        location = undefined;
      },
    },
    { xmlMode: true },
  );
  parser.end(text);
  return root === 'urlset' ? { pages: found, sitemaps: [] } : { pages: [], sitemaps: found };
}

/** URLs of sitemaps that a robots.txt names (RFC 9309, 2.2.4). */
export function sitemapsInRobots(text: string, url: string): string[] {
  return [...text.matchAll(/^[ \t]*sitemap[ \t]*:[ \t]*(\S+)/gim)].flatMap(([, one]) => resolved(one, url) ?? []);
}
