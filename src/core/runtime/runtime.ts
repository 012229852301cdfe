import { createHash } from 'node:crypto';
import type { Bundle, Contract, Variable } from '../contract/contract.js';
import { belongsTo } from '../contract/names.js';
import { valueLiteral } from '../inline/literal.js';
import type { Resolution } from '../resolve/resolve.js';
import { reveal } from '../secret.js';

/** The name under which a page's values are found. */
export const PAGE_VALUES = 'adderValues';

/** Values that are read when an app loads, as a file beside it. */
export interface RuntimeFile {
  /** Carries a digest of the content, so that it may be cached for ever. */
  name: string;
  text: string;
  /** For the script tag: Subresource Integrity (W3C), SHA-384. */
  integrity: string;
}

/** The public variables that are delivered to a bundle when it loads. Nothing else ever comes into the file. */
export function runtimeVariables(contract: Contract, bundle: Bundle): Variable[] {
  return [...contract.variables.values()].filter(
    (variable) => variable.reach === 'public' && variable.delivery === 'runtime' && belongsTo(bundle, variable),
  );
}

/** The file of one stage: a script without anything that a content security policy forbids. */
export function runtimeFile(contract: Contract, bundle: Bundle, resolution: Resolution): RuntimeFile {
  const text = `globalThis.${PAGE_VALUES} = Object.freeze({\n${entries(contract, bundle, resolution)
    .map(([name, literal]) => `  ${name}: ${literal},\n`)
    .join('')}});\n`;
  const digest = createHash('sha384').update(text).digest();
  return {
    name: `adder-values.${digest.toString('hex').slice(0, 12)}.js`,
    text,
    integrity: `sha384-${digest.toString('base64')}`,
  };
}

/** The same values as JSON, for an app that fetches them. */
export function runtimeJson(contract: Contract, bundle: Bundle, resolution: Resolution): string {
  const members = entries(contract, bundle, resolution).map(
    ([name, literal]) => `  ${JSON.stringify(name)}: ${literal.replaceAll('<\\/', '</')}`,
  );
  return members.length === 0 ? '{}\n' : `{\n${members.join(',\n')}\n}\n`;
}

function entries(contract: Contract, bundle: Bundle, { values }: Resolution): [string, string][] {
  return runtimeVariables(contract, bundle).flatMap((variable) => {
    const value = values.get(variable.name)?.value;
    const literal = value ? valueLiteral(variable, reveal(value)) : 'undefined';
    return literal === 'undefined' ? [] : [[variable.name, literal] as [string, string]];
  });
}

/** A file's name that {@link runtimeFile} gave, whatever was in it. */
export const runtimeName = /^adder-values\.[0-9a-f]{12}\.js$/;
const tag = /[ \t]*<script\b[^>]*\bsrc=(["'])[^"']*adder-values\.[0-9a-f]{12}\.js\1[^>]*><\/script>\r?\n?/gi;

/**
 * A page that loads the file before any script of its own; a tag of an earlier file is replaced. The page stays as it is in
 * all else.
 * @param depth how many folders the page lies below the file
 */
export function pointAt(
  html: string,
  { name, integrity }: Pick<RuntimeFile, 'name' | 'integrity'>,
  depth: number,
): string {
  const plain = html.replace(tag, '');
  const [, base = ''] = /<script\b[^>]*\bsrc=["'](\/(?!\/)(?:[^"']*\/)?)?[^"']*["']/i.exec(plain) ?? [];
  // Pages of one app may be served under any path, so the root of its own scripts is the root of this one.
  const root = base === '' ? '../'.repeat(depth) || './' : base.replace(/(assets|static|_next|js|build|_app)\/.*$/, '');
  const added = `<script src="${root}${name}" integrity="${integrity}" crossorigin="anonymous"></script>\n`;
  const before = /<script\b|<\/head>|<body\b/i.exec(plain);
  const at = before ? before.index : 0;
  const indent = /[ \t]*$/.exec(plain.slice(0, at))?.[0] ?? '';
  return `${plain.slice(0, at)}${added}${indent}${plain.slice(at)}`;
}
