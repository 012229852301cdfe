import { needsOf } from '../core/build/needs.js';
import {
  credentialsOf,
  fillTemplate,
  type Host,
  type HostCommand,
  type HostListing,
  type HostSetter,
  hasStage,
  placeholdersIn,
  type RequestTemplate,
  stageOnHost,
} from '../core/contract/hosts.js';
import { Failure } from '../core/findings/failure.js';
import type { Place, RawFinding } from '../core/findings/finding.js';
import { compareHost, type HostNeeds, type HostRow } from '../core/handoff/compare.js';
import { type Listed, type ListingFormat, parseListing } from '../core/handoff/listing.js';
import { firstPage, nextPage } from '../core/handoff/pages.js';
import { type HostPlan, type HostStep, planFor } from '../core/handoff/plan.js';
import { fillRequest, takesOneScope, wordsFor } from '../core/handoff/request.js';
import { limits } from '../core/limits/index.js';
import { lastErrorLine } from '../core/mask/error-text.js';
import { planMask } from '../core/mask/plan.js';
import { TextMask } from '../core/mask/text-mask.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { matcherFor } from '../core/search/matcher-for.js';
import { reveal, Secret } from '../core/secrets/secret.js';
import { echoed, suggest } from '../core/text/nearest.js';
import { hostOf } from '../host/addresses.js';
import { describeFileError } from '../host/files.js';
import { HttpClient, HttpProblem } from '../host/http.js';
import { describeStatus, type Patience, sendPatiently } from '../host/retry.js';
import type { World } from '../host/world.js';
import type { Project } from './open.js';
import { keepReplaced } from './recording.js';
import { stageInAllScopes } from './resolve.js';
import { sharedFiles } from './shared-files.js';

/** Seconds for one request, attempts for each, and pages of one listing. */
const [REQUEST_SECONDS, ATTEMPTS, MOST_PAGES] = [30, 7, 200];

/** The hosts of a stage, or the one that was named. @throws Failure if there is none */
export function hostsOf({ contract }: Project, stage: string, named?: string): Host[] {
  if (contract.hosts.size === 0)
    throw new Failure(
      'the contract has no host',
      'add one, with the file, command or URL that lists its names: `hosts: { harbour: { list: names.txt } }`',
    );
  if (named !== undefined && !contract.hosts.has(named)) {
    const given = echoed(named, contract.hosts.keys());
    throw new Failure(
      given === undefined ? 'the contract has no such host' : `the contract has no host ${given}`,
      suggest(named, contract.hosts.keys()),
    );
  }
  const hosts = [...contract.hosts.values()].filter(
    (host) => (named === undefined || host.name === named) && hasStage(host, stage),
  );
  if (hosts.length > 0) return hosts;
  throw new Failure(
    named === undefined ? `no host of the contract has ${stage}` : `${named} does not have ${stage}`,
    `add ${stage} to the host's \`stages\``,
  );
}

/** One host, compared with what a stage needs; or why it could not be. */
export interface ComparedHost {
  host: Host;
  /** Where the listing comes from. */
  source: string;
  rows: HostRow[];
  findings: RawFinding[];
  ids: ReadonlyMap<string, string>;
  wrong: ReadonlyMap<string, Secret>;
  because?: string;
}

/** The hosts of one stage: what they have, and setting what they lack. */
export class Handoff {
  readonly #resolutions: readonly Resolution[];
  readonly #isShared: (path: string) => boolean;

  /** @throws Failure if a layer of the stage exists and cannot be read */
  constructor(
    readonly project: Project,
    readonly stage: string,
    readonly world: World,
  ) {
    this.#resolutions = stageInAllScopes(project, stage, world);
    this.#isShared = sharedFiles(project);
  }

  /** Variables with credentials of a host that have no value on this machine. */
  missingCredentials(host: Host): string[] {
    return credentialsOf(host).filter((name) => this.#credential(name) === undefined);
  }

  async compare(host: Host): Promise<ComparedHost> {
    const source = this.#sourceOf(host);
    try {
      const listed = await this.#list(host);
      return { host, source, ...compareHost(this.#needs(host), listed, this.#placeOf(host)) };
    } catch (error) {
      if (!(error instanceof HostProblem)) throw error;
      return { host, source, rows: [], findings: [], ids: new Map(), wrong: new Map(), because: error.message };
    }
  }

  plan(compared: ComparedHost, named: readonly string[]): HostPlan {
    return planFor(this.#needs(compared.host), compared, named);
  }

  /**
   * Sets values one after the other. A step that fails does not stop the others: each value is set or not, and the call can be repeated.
   * @param onStep called after each step @returns for each name, why it was not set, if it was not
   */
  async apply(
    host: Host,
    steps: readonly HostStep[],
    onStep: (name: string, because: string | undefined) => void,
    onWait: (text: string) => void,
  ): Promise<{ name: string; because?: string }[]> {
    const results: { name: string; because?: string }[] = [];
    keepReplaced(this.project, this.stage, steps, undefined, this.world);
    const requests = [host.set, host.change].flatMap((one) => (one?.kind === 'http' ? [one.request] : []));
    const client = this.#client(host, ...requests);
    try {
      for (const step of steps) {
        const because = await this.#set(host, step, client, onWait);
        onStep(step.name, because);
        results.push({ name: step.name, ...(because !== undefined && { because }) });
      }
      const isSet = (name: string) => results.some((one) => one.name === name && one.because === undefined);
      const done = steps.filter(({ name }) => isSet(name));
      keepReplaced(this.project, this.stage, done, host.name, this.world);
      return results;
    } finally {
      await client.close();
    }
  }

  /** @returns why the value was not set, as a phrase after the host's name */
  async #set(
    host: Host,
    { name, value, scopes, replaces, id }: HostStep,
    client: HttpClient,
    onWait: (text: string) => void,
  ): Promise<string | undefined> {
    const set = (replaces ? host.change : undefined) ?? host.set;
    if (!set) return 'has no `set` in the contract';
    if (id === undefined && needsId(set))
      return `was not changed: its list has no id for ${name} that is a text or a number`;
    const words = wordsFor(scopes, host.words);
    const template = set.kind === 'http' ? [set.request.url, set.request.body] : set.command;
    for (const group of takesOneScope(template) ? words.map((word) => [word]) : [words]) {
      const because =
        set.kind === 'command'
          ? this.#setByCommand(host, set, { name, id, value }, group)
          : await this.#send(client, host, set.request, { name, id, value, scopes: group }, onWait);
      if (because !== undefined) return because;
    }
    return undefined;
  }

  /** The value goes to the standard input of the program: arguments are visible to every user of the machine. */
  #setByCommand(
    host: Host,
    { command, seconds }: HostCommand,
    { name, id, value }: { name: string; id: string | undefined; value: Secret },
    scopes: readonly string[],
  ) {
    const inCommand: Record<string, string | undefined> = {
      stage: stageOnHost(host, this.stage),
      name,
      id,
      scope: scopes[0],
    };
    const words = command.map((word) => fillTemplate(word, (one) => inCommand[one]));
    const { root } = this.project;
    const { problem, errors } = this.world.processes.capture(words, {
      cwd: root,
      env: this.world.env,
      seconds,
      input: reveal(value),
    });
    return problem && `was not changed: ${command[0]} ${problem}${this.#said(errors)}`;
  }

  async #send(
    client: HttpClient,
    host: Host,
    template: RequestTemplate,
    values: { name: string; id: string | undefined; value: Secret; scopes: readonly string[] },
    onWait: (text: string) => void,
  ): Promise<string | undefined> {
    const request = fillRequest(template, {
      stage: stageOnHost(host, this.stage),
      credentials: this.#credentials(host),
      ...values,
    });
    try {
      const patience: Patience = {
        attempts: ATTEMPTS,
        onWait: (ms, why) => onWait(`${host.name} ${why}; trying again in ${Math.ceil(ms / 1000)} s`),
      };
      const { status } = await sendPatiently(
        client,
        { ...request, mostBytes: limits.commandOutputBytes.value },
        patience,
      );
      return status >= 200 && status < 300 ? undefined : describeStatus(status);
    } catch (error) {
      if (error instanceof HttpProblem) return error.message;
      throw error;
    }
  }

  async #list(host: Host): Promise<Listed[]> {
    const { list, words } = host;
    const format: ListingFormat = {
      paths: list.paths,
      words,
      stage: stageOnHost(host, this.stage),
    };
    if (list.kind === 'http') return this.#pages(host, list, format);
    const text = list.kind === 'file' ? this.#file(host, list.file) : this.#output(host, list);
    return listedIn(text, format);
  }

  #file(host: Host, template: string): string {
    const { files, root } = this.project;
    try {
      const path = files.path.join(root, this.#filled(host, template));
      return files.readRegular(path, limits.envFileBytes.value).toString();
    } catch (error) {
      throw new HostProblem(describeFileError(error));
    }
  }

  #output(host: Host, { command, seconds }: HostCommand): string {
    const words = command.map((word) => this.#filled(host, word));
    const { root } = this.project;
    const how = { cwd: root, env: this.world.env, seconds };
    const { output, problem, errors } = this.world.processes.capture(words, how);
    if (problem !== undefined) throw new HostProblem(problem + this.#said(errors));
    return Buffer.from(output).toString();
  }

  /** The end of what a failing program wrote to standard error, masked. */
  #said(errors: string | undefined): string {
    const [first] = this.#resolutions;
    if (!errors || !first) return '';
    const { needles } = planMask(this.project.contract, first, this.#resolutions);
    const ofEnvironment = Object.entries(this.world.env).flatMap(([name, value = '']) =>
      isCredentialName(name) && value.length >= SHORTEST_CREDENTIAL ? [value] : [],
    );
    const line = lastErrorLine(errors, new TextMask(matcherFor(needles)), ofEnvironment);
    return line === undefined ? '' : `: ${line}`;
  }

  async #pages(
    host: Host,
    { request: template, pages }: HostListing & { kind: 'http' },
    format: ListingFormat,
  ): Promise<Listed[]> {
    const credentials = this.#credentials(host);
    const first = fillRequest(template, { stage: stageOnHost(host, this.stage), credentials });
    const client = this.#client(host, template);
    const listed: Listed[] = [];
    try {
      const requested = new Set<string>();
      let url = firstPage(first.url, pages);
      let before = '';
      for (;;) {
        requested.add(url);
        const request = { ...first, url, mostBytes: limits.commandOutputBytes.value };
        const { status, body, headers } = await sendPatiently(client, request, { attempts: ATTEMPTS });
        if (status !== 200) throw new HostProblem(describeStatus(status));
        const text = Buffer.from(body).toString();
        const parsed = parseListing(text, format);
        if ('problem' in parsed) throw new HostProblem(parsed.problem);
        // Some APIs answer a page after the last one with the last one.
        if (pages && parsed.items > 0 && text === before)
          throw new HostProblem(
            'answers with the same page again, so its end is unknown: name the number of pages with `last`',
          );
        before = text;
        listed.push(...parsed.listed);
        const { document, items } = parsed;
        const next = nextPage({ url, document, items, headers }, format.paths, pages);
        if (next === 'end') return listed;
        if ('problem' in next) throw new HostProblem(next.problem);
        if (requested.size >= MOST_PAGES) throw new HostProblem(`has more than ${MOST_PAGES} pages`);
        if (requested.has(next.url)) throw new HostProblem('names a page as its next one that it listed before');
        url = next.url;
      }
    } catch (error) {
      throw error instanceof HttpProblem ? new HostProblem(error.message) : error;
    } finally {
      await client.close();
    }
  }

  /** An API may be on a private network: the contract names it. */
  #client(host: Host, ...requests: readonly RequestTemplate[]): HttpClient {
    const named = new Set(requests.map(({ url }) => hostOf(this.#filled(host, url))));
    return new HttpClient({ env: this.world.env, named, seconds: REQUEST_SECONDS });
  }

  /** @throws HostProblem if a credential has no value */
  #credentials(host: Host): ReadonlyMap<string, Secret> {
    return new Map(
      credentialsOf(host).map((name) => {
        const value = this.#credential(name);
        if (!value) throw new HostProblem(`needs ${name}, which has no value: set it in the environment`);
        this.world.outlet.protect([reveal(value)]);
        return [name, value];
      }),
    );
  }

  #credential(name: string): Secret | undefined {
    const own = this.#resolutions.map(({ values }) => values.get(name)?.value).find((value) => value !== undefined);
    const text = this.world.env[name];
    return own ?? (text ? new Secret(text) : undefined);
  }

  /** The stage in the host's own words. */
  #filled(host: Host, template: string): string {
    return fillTemplate(template, (name) => (name === 'stage' ? stageOnHost(host, this.stage) : undefined));
  }

  #needs(host: Host): HostNeeds {
    const { contract } = this.project;
    const needs = this.#resolutions.flatMap((one) => needsOf(contract, one, this.#isShared));
    return { contract, host, stage: this.stage, resolutions: this.#resolutions, needs };
  }

  #sourceOf(host: Host): string {
    const { list } = host;
    if (list.kind === 'file') return this.#filled(host, list.file);
    return list.kind === 'command' ? `command ${list.command[0]}` : this.#filled(host, list.request.url);
  }

  #placeOf(host: Host): Place | undefined {
    const { list } = host;
    return list.kind === 'file' ? { path: this.#filled(host, list.file), inside: [] } : undefined;
  }
}

/** Shorter values of the environment are no credentials, and would mask ordinary words. */
const SHORTEST_CREDENTIAL = 6;

/** Tells whether the name of a variable of the environment says that it is a credential. */
function isCredentialName(name: string): boolean {
  return /TOKEN|SECRET|PASS|KEY|AUTH|CRED|LOGIN/i.test(name);
}

/** Why a host could not be read, as a phrase after its source. */
class HostProblem extends Error {}

function listedIn(text: string, format: ListingFormat): Listed[] {
  const parsed = parseListing(text, format);
  if ('problem' in parsed) throw new HostProblem(parsed.problem);
  return parsed.listed;
}

/** Tells whether a template names a value by the host's own id. */
function needsId(set: HostSetter): boolean {
  const words = set.kind === 'command' ? set.command : [set.request.url, JSON.stringify(set.request.body ?? null)];
  return words.flatMap(placeholdersIn).includes('id');
}
