import { Parser } from 'htmlparser2';
import { withoutEndBlanks } from '../text/trim.js';
import { PAGE_FILE, type RuntimeFile } from './runtime.js';

/** A script of a page. Offsets are UTF-16 units of the page, `end` after `</script>`. */
export interface PageScript {
  start: number;
  end: number;
  /** Absent for an inline script. */
  src?: string;
  integrity?: string;
  /** When it runs: as the parser meets it, after the whole page, or whenever it has come. */
  runs: 'at once' | 'after the page' | 'any time';
}

/** Elements of a page that decide when and whether its scripts run. */
export interface Page {
  /** Scripts that run, in their order. */
  scripts: PageScript[];
  /** Where another script can be inserted in the head. */
  place: number;
  /** The address that relative ones are taken from. */
  base?: string;
  /** Content security policies that the page has in itself. */
  policies: string[];
}

/** Script elements by type and attributes (HTML Living Standard, 4.12.1), except those in comments and templates. */
export function readPage(html: string): Page {
  const page: Page = { scripts: [], place: 0, policies: [] };
  let open: PageScript | undefined;
  let head: number | undefined;
  let templates = 0;
  const parser = new Parser({
    onopentag(name, attributes) {
      if (name === 'template') templates++;
      if (name === 'head') head = parser.endIndex + 1;
      if (name === 'body') head ??= parser.startIndex;
      if (name === 'base' && attributes.href !== undefined) page.base ??= attributes.href;
      if (name === 'meta' && attributes['http-equiv']?.toLowerCase() === 'content-security-policy')
        page.policies.push(attributes.content ?? '');
      if (name === 'script' && templates === 0 && isCode(attributes.type))
        open = { start: parser.startIndex, end: html.length, ...attributesOf(attributes) };
    },
    onclosetag(name) {
      if (name === 'template') templates--;
      if (name !== 'script' || !open) return;
      page.scripts.push({ ...open, end: parser.endIndex + 1 });
      open = undefined;
    },
  });
  parser.end(html);
  page.place = page.scripts[0]?.start ?? head ?? 0;
  return page;
}

function isCode(type = ''): boolean {
  return /^(|module|(text|application)\/(x-)?(java|ecma)script)$/i.test(type.trim());
}

function attributesOf(attributes: Readonly<Record<string, string>>): Omit<PageScript, 'start' | 'end'> {
  const { src, integrity, type } = attributes;
  const isModule = type?.trim().toLowerCase() === 'module';
  const isAsync = 'async' in attributes && (src !== undefined || isModule);
  const isLate = isModule || ('defer' in attributes && src !== undefined);
  return {
    ...(src !== undefined && { src }),
    ...(integrity !== undefined && { integrity }),
    runs: isAsync ? 'any time' : isLate ? 'after the page' : 'at once',
  };
}

/** Tells whether a script of a page is a file of values. */
export function isValues({ src = '' }: Pick<PageScript, 'src'>): boolean {
  return PAGE_FILE.test(fileOf(src));
}

/** The deepest directory that contains all of some files, with its slash; empty for the top. */
export function commonFolder(paths: readonly string[]): string {
  const [first = [], ...others] = paths.map((path) => path.split('/').slice(0, -1));
  const shared = first.filter((part, index) =>
    others.every((one) => one[index] === part && one.slice(0, index).join('/') === first.slice(0, index).join('/')),
  );
  return shared.length > 0 ? `${shared.join('/')}/` : '';
}

/** The last part of an address. */
export function fileOf(src: string): string {
  return src.replace(/[?#].*$/, '').replace(/^.*\//, '');
}

/** The page as it is without a file of values. */
export function withoutValues(html: string): string {
  let text = html;
  for (const { start, end } of readPage(html).scripts.filter(isValues).reverse()) {
    const before = withoutEndBlanks(text.slice(0, start));
    text = before + text.slice(end).replace(/^\r?\n/, '');
  }
  return text;
}

/**
 * The page with a tag that loads the file before the page's own scripts; a tag of an earlier file is replaced. Nothing else
 * changes.
 * @param path the page's path from the output directory, with `/`
 * @param files the output's files, as such paths
 */
export function pointAt(
  html: string,
  { name, integrity }: Pick<RuntimeFile, 'name' | 'integrity'>,
  path: string,
  files: ReadonlySet<string>,
): string {
  const plain = withoutValues(html);
  const page = readPage(plain);
  const tag = `<script src="${rootOf(page, path, files)}${name}" integrity="${integrity}" crossorigin="anonymous"></script>`;
  const before = plain.slice(0, page.place);
  const indent = before.slice(withoutEndBlanks(before).length);
  const at = page.place - indent.length;
  return `${plain.slice(0, at)}${indent}${tag}\n${plain.slice(at)}`;
}

/** How a page names the directory of the output: as its own scripts do, which it may be served with under any path. */
function rootOf({ base, scripts }: Page, path: string, files: ReadonlySet<string>): string {
  if (base !== undefined) return '';
  for (const { src = '' } of scripts) {
    const parts = src.replace(/[?#].*$/, '').split('/');
    const isRelative = !/^(\/|[a-z][a-z+.-]*:)/i.test(src);
    for (let cut = 1; !isRelative && cut < parts.length; cut++)
      if (files.has(parts.slice(cut).join('/'))) return `${parts.slice(0, cut).join('/')}/`;
  }
  return '../'.repeat(path.split('/').length - 1) || './';
}

/**
 * Tells whether a policy lets the file of values run (Content Security Policy Level 3, 6.7): by its address or its digest. A nonce
 * cannot be in a page that is the same for all.
 */
export function allows(policy: string, { src = '', integrity = '' }: PageScript): boolean {
  const directives = new Map(
    policy.split(';').map((one): [string, string[]] => {
      const [name = '', ...values] = one.trim().split(/\s+/);
      return [name.toLowerCase(), values];
    }),
  );
  const sources = directives.get('script-src-elem') ?? directives.get('script-src') ?? directives.get('default-src');
  if (!sources) return true;
  const byDigest = integrity !== '' && integrity.split(/\s+/).every((one) => sources.includes(`'${one}'`));
  if (byDigest) return true;
  if (sources.includes("'strict-dynamic'")) return false;
  const host = /^[a-z][a-z+.-]*:\/\/([^/]+)/i.exec(src)?.[1];
  if (host === undefined) return sources.includes("'self'") || sources.some((one) => /^(\*|https?:)$/.test(one));
  return sources.some((one) => one === '*' || one === 'https:' || one.replace(/^https?:\/\//, '').startsWith(host));
}
