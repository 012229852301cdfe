import type { Bundle, Contract } from '../core/contract/contract.js';
import { finding, type RawFinding } from '../core/findings/finding.js';
import { linksInPage } from '../core/probe/links.js';
import { isPage, type Resource } from '../core/probe/resource.js';
import { type AskedSite, shownUrl, siteFinding } from '../core/probe/site.js';
import { startedValues } from '../core/probe/started.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { startedVariables } from '../core/runtime/runtime.js';
import { reveal } from '../core/secrets/secret.js';
import { toolchainOf } from '../core/toolchains/index.js';

/** Values that the server of a framework filled into its pages when it started, compared with those of a stage. */
export class StartedKeys {
  /** Names in code to variables. */
  readonly #names: ReadonlyMap<string, string>;
  readonly #startedIn;
  /** URLs of files that the server fills with values. */
  readonly urls: string[] = [];
  /** By variable: the value, and the URL of the first file that has it. */
  readonly #found = new Map<string, { value: string; url: string }>();

  constructor(
    contract: Contract,
    bundle: Bundle,
    readonly resolution: Resolution,
    readonly others: readonly Resolution[],
  ) {
    this.#startedIn = toolchainOf(bundle).startedIn;
    this.#names = new Map([...startedVariables(contract, bundle)].map(([name, variable]) => [name, variable.name]));
  }

  /** Collects the values in one file of the site. */
  read(resource: Resource, body: Uint8Array): void {
    const { url } = resource;
    if (!this.#startedIn || this.#names.size === 0) return;
    const { property, file } = this.#startedIn;
    const isFile = file !== undefined && shownUrl(url).endsWith(`/${file}`);
    if (!isFile && !isPage(resource)) return;
    this.urls.push(url);
    const text = Buffer.from(body).toString();
    for (const script of isFile ? [text] : linksInPage(text, url).scripts)
      for (const [variable, value] of startedValues(script, property, this.#names))
        if (!this.#found.has(variable)) this.#found.set(variable, { value, url });
  }

  /** One finding for each variable whose value is not that of the stage. Messages repeat no value. */
  findings(site: AskedSite): RawFinding[] {
    return [...this.#found].flatMap(([variable, { value, url }]) => {
      const right = this.#valueIn(this.resolution, variable);
      if (right === undefined || right === value) return [];
      const of = this.others.find((one) => value !== '' && this.#valueIn(one, variable) === value)?.stage.name;
      const about = { variable, stage: site.stage, isEmpty: value === '', ...(of !== undefined && { of }) };
      return [{ ...siteFinding(site, shownUrl(url), finding('stale/runtime-file', 'started', about)), variable }];
    });
  }

  #valueIn({ values }: Resolution, variable: string): string | undefined {
    const value = values.get(variable)?.value;
    return value && reveal(value);
  }
}
