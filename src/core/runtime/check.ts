import { posix } from 'node:path';
import type { Bundle, Contract } from '../contract/contract.js';
import { finding, type Place, type RawFinding } from '../findings/finding.js';
import type { Resolution } from '../resolve/resolve.js';
import { textPlaces } from '../text/positions.js';
import { allows, commonFolder, fileOf, isValues, type Page, type PageScript, readPage } from './page.js';
import {
  digestName,
  emitRuntime,
  PAGE_VALUES,
  parseRuntimeFile,
  runtimeEntries,
  runtimeJson,
  VALUES_FILE,
  valuesFileVariables,
} from './runtime.js';
import { settingsIn } from './settings-script.js';

/** A bundle's output as far as its runtime values are concerned. Paths are relative to the contract's directory, with `/`. */
export interface RuntimeOutput {
  contract: Contract;
  bundle: Bundle;
  /** The values that the page should have. */
  resolution: Resolution;
  /** The other stages, to say whose a wrong value is. */
  others: readonly Resolution[];
  /** Every file of the output. */
  files: ReadonlySet<string>;
  /** The text of a file that is small, or undefined. */
  read(path: string): string | undefined;
  /** Tells whether the files are those of a site, which needs a deployment to change. */
  isServed?: true;
  /** Content security policies of the answer with a page, if it is served. */
  policiesOf?(path: string): readonly string[];
}

/**
 * Tells whether the values that an app reads when it loads will be there: pointed at by each page, before its own scripts, exactly
 * those of the stage, under a name that may be cached, and allowed by the page's own policy.
 */
export function runtimeFindings(output: RuntimeOutput): RawFinding[] {
  const names = valuesFileVariables(output.contract, output.bundle).map(({ name }) => name);
  if (names.length === 0 || output.bundle.runs === 'server') return [];
  const check = new Check(output, names);
  return [...check.pages(), ...check.valueFiles()];
}

class Check {
  /** The command that writes the values file, and whether the file is on a site. */
  readonly #again: { command: string[]; isServed?: true };
  /** The directory that is served, found by its pages; with its slash, or empty. */
  readonly #served: string;

  constructor(
    readonly output: RuntimeOutput,
    readonly names: readonly string[],
  ) {
    const { bundle, resolution } = output;
    this.#served = commonFolder(this.#paths(/\.html?$/));
    const into = this.#served.replace(/\/$/, '') || (bundle.output[0] ?? 'DIST');
    this.#again = {
      command: emitRuntime(resolution.stage.name, bundle.name, into),
      ...(output.isServed && { isServed: true }),
    };
  }

  pages(): RawFinding[] {
    const pages = this.#paths(/\.html?$/).flatMap((path) => {
      const html = this.output.read(path);
      const page = html === undefined ? undefined : readPage(html);
      return html !== undefined && page && page.scripts.length > 0 ? [{ path, html, page }] : [];
    });
    const isFetched = !pages.some(({ page }) => page.scripts.some(isValues)) && this.#json().length > 0;
    return isFetched ? [] : pages.flatMap(({ path, html, page }) => this.#page(path, html, page));
  }

  /** Files of values, whatever they are called: the script, constants in a package, JSON. */
  valueFiles(): RawFinding[] {
    const scripts = this.#paths(VALUES_FILE).flatMap((path) => {
      const text = this.output.read(path);
      return text?.includes(PAGE_VALUES) ? this.#script(path, text) : [];
    });
    return [
      ...scripts,
      ...this.#json().flatMap(({ path, text, values }) => this.#values(path, text, values, this.#asJson)),
    ];
  }

  #page(path: string, html: string, { scripts, policies }: Page): RawFinding[] {
    const at = ({ start }: { start: number }): Place => ({ path, inside: [], ...textPlaces(html)(start) });
    const first = scripts.find(isValues);
    if (!first) {
      const own = this.#handMade(path, scripts);
      if (own) return own;
      const about = { ...this.#again, names: [...this.names] };
      return [this.#report(finding('serve/missing-file', 'values', about), { path, inside: [] })];
    }
    const file = this.#fileFor(path, first);
    const text = file && this.output.read(file);
    const late = scripts.find((script) => !isValues(script) && isSooner(script, first, scripts));
    const policy = [...policies, ...(this.output.policiesOf?.(path) ?? [])].find((one) => !allows(one, first));
    const isOther = text && first.integrity && !first.integrity.split(/\s+/).includes(digestName(text).integrity);
    const served = this.output.isServed;
    const problems: [boolean, PageScript, RawFinding][] = [
      [
        file === undefined,
        first,
        finding('serve/missing-file', 'values-file', { ...this.#again, file: first.src ?? '' }),
      ],
      [late !== undefined, late ?? first, finding('serve/late-runtime-file', 'script', this.#again)],
      [Boolean(isOther), first, finding('serve/blocked-runtime-file', 'digest', this.#again)],
      [
        policy !== undefined,
        first,
        finding('serve/blocked-runtime-file', 'policy', { digest: first.integrity, isServed: served }),
      ],
    ];
    return problems.flatMap(([isTrue, script, of]) => (isTrue ? [this.#report(of, at(script))] : []));
  }

  /** A settings script that the app's authors write themselves, such as `env.js`. @returns undefined if the page has none */
  #handMade(page: string, scripts: readonly PageScript[]): RawFinding[] | undefined {
    for (const script of scripts) {
      const { src = '' } = script;
      if (src === '' || /^([a-z][a-z+.-]*:)?\/\//i.test(src)) continue;
      const path = this.#pathOf(page, src);
      const text = path && this.output.read(path);
      const values = text ? settingsIn(text, this.names) : undefined;
      if (path && text && values) return this.#values(path, text, values, this.#asJson, { byHand: path });
      if (!path && /(^|[/._-])(env|config|settings|runtime)[^/]*\.js/i.test(src)) {
        const missing = posix.join(posix.dirname(page), src.replace(/[?#].*$/, ''));
        const place = { path: page, inside: [] };
        return [this.#report(finding('serve/missing-file', 'values-file', { ...this.#again, file: missing }), place)];
      }
    }
    return undefined;
  }

  /** A script's file: beside the page, or from the directory that is served. */
  #pathOf(page: string, src: string): string | undefined {
    const plain = src.replace(/[?#].*$/, '');
    const beside = [posix.join(posix.dirname(page), plain), posix.join(this.#served, plain.replace(/^\.?\//, ''))];
    return beside.find((path) => this.output.files.has(path));
  }

  #fileFor(page: string, { src = '' }: PageScript): string | undefined {
    const beside = posix.join(posix.dirname(page), src);
    if (this.output.files.has(beside)) return beside;
    return [...this.output.files].find((path) => posix.basename(path) === fileOf(src));
  }

  #script(path: string, text: string): RawFinding[] {
    const place = { path, inside: [] };
    const values = parseRuntimeFile(text);
    if (!values) return [this.#report(finding('stale/runtime-file', 'foreign', this.#again), place)];
    const { contract, bundle, resolution } = this.output;
    const findings = this.#values(path, text, values, new Map(runtimeEntries(contract, bundle, resolution)));
    const isConstants = text.startsWith('export ');
    if (!isConstants && posix.basename(path) !== digestName(text).name)
      findings.push(this.#report(finding('serve/cached-runtime-file', 'name', this.#again), place));
    return findings;
  }

  /** Messages repeat no value of the file, because anything may be in it. */
  #values(
    path: string,
    text: string,
    values: ReadonlyMap<string, string>,
    expected: ReadonlyMap<string, string>,
    written: { byHand?: string } = {},
  ): RawFinding[] {
    const { contract, resolution } = this.output;
    const stage = resolution.stage.name;
    return [...new Set([...expected.keys(), ...values.keys()])].flatMap((name) => {
      const [right, there] = [expected.get(name), values.get(name)];
      const isKnown = contract.variables.has(name);
      // JSON that an app fetches may have more in it than values of the contract.
      if (right === there || (right === undefined && !isKnown && !text.includes(PAGE_VALUES))) return [];
      const at = Math.max(0, text.search(new RegExp(`\\b${name}\\b`)));
      const place = { path, inside: [], ...textPlaces(text)(at) };
      const about = { ...this.#again, ...written, variable: name, stage };
      const unset = this.names.includes(name) ? 'unset' : 'unwanted';
      const found =
        there !== undefined && right !== undefined
          ? finding('stale/runtime-file', 'different', { ...about, of: this.#whose(name, there) })
          : finding('stale/runtime-file', there === undefined ? 'lacks' : unset, about);
      return [this.#report(found, place)];
    });
  }

  /** The stage whose value it is, if any. */
  #whose(name: string, literal: string): string | undefined {
    const { contract, bundle, others } = this.output;
    const other = others.find((one) =>
      runtimeEntries(contract, bundle, one).some(([key, value]) => key === name && value === literal),
    );
    return other?.stage.name;
  }

  get #asJson(): Map<string, string> {
    const { contract, bundle, resolution } = this.output;
    return jsonValues(runtimeJson(contract, bundle, resolution)) ?? new Map();
  }

  /** JSON that an app fetches: an object that has a member for every value that the stage delivers. */
  #json(): { path: string; text: string; values: Map<string, string> }[] {
    const needed = [...this.#asJson.keys()];
    return this.#paths(/\.json$/).flatMap((path) => {
      const text = this.output.read(path);
      const values = text === undefined ? undefined : jsonValues(text);
      if (text === undefined || !values || needed.length === 0 || !needed.every((name) => values.has(name))) return [];
      return [{ path, text, values }];
    });
  }

  #paths(pattern: RegExp): string[] {
    return [...this.output.files].filter((path) => pattern.test(path)).sort();
  }

  #report(of: RawFinding, place: Place): RawFinding {
    const { bundle, resolution } = this.output;
    return { ...of, stage: resolution.stage.name, bundle: bundle.name, place };
  }
}

/** Tells whether a script may run before another one of the page. */
function isSooner(script: PageScript, than: PageScript, scripts: readonly PageScript[]): boolean {
  if (script.runs === 'any time') return scripts.indexOf(script) < scripts.indexOf(than) || than.runs !== 'at once';
  if (than.runs === 'any time') return true;
  if (script.runs === than.runs) return scripts.indexOf(script) < scripts.indexOf(than);
  return script.runs === 'at once';
}

function jsonValues(text: string): Map<string, string> | undefined {
  if (!text.trimStart().startsWith('{')) return undefined;
  try {
    const entries = Object.entries(JSON.parse(text) as Record<string, unknown>);
    return new Map(entries.map(([name, value]) => [name, JSON.stringify(value).replaceAll('</', '<\\/')]));
  } catch {
    return undefined;
  }
}
