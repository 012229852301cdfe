import { lastName, parentOf } from '../../files/directories.js';
import { stageNamed, valueFileOf } from '../../files/value-files.js';
import { finding } from '../../findings/finding.js';
import { placeOfWord } from '../../findings/place.js';
import { textPlaces } from '../../text/positions.js';
import { toolchains } from '../../toolchains/index.js';
import type { WorkspaceApplication } from '../../toolchains/toolchain.js';
import type { LintFinding } from '../model.js';
import type { RepositoryFacts } from './facts.js';

type Facts = Pick<RepositoryFacts, 'contract' | 'paths' | 'text' | 'exists'>;

/** Compares the configurations of a workspace file with the stages: the files that each one ships, and what a dev server builds. */
export function workspaceRules(facts: Facts): LintFinding[] {
  const tools = Object.values(toolchains).flatMap(({ workspace }) => workspace ?? []);
  return facts.paths.flatMap((path) => {
    const workspace = tools.find(({ file }) => file === lastName(path));
    const text = workspace && facts.text(path);
    if (!workspace || text === undefined) return [];
    const file = new WorkspaceFile(facts, path, text);
    return workspace.applications(text).flatMap((one) => file.findings(one));
  });
}

class WorkspaceFile {
  constructor(
    readonly facts: Facts,
    readonly path: string,
    readonly text: string,
  ) {}

  findings(application: WorkspaceApplication): LintFinding[] {
    return [
      ...application.replacements.flatMap((one) => [
        ...this.#missing(one),
        ...this.#wrong(one),
        ...this.#odd(one, application),
      ]),
      ...application.serves.flatMap((one) => this.#served(one, application)),
    ];
  }

  /** The stage that a configuration builds. */
  #stageOf(configuration: string): string | undefined {
    return stageNamed(configuration, this.facts.contract.stages);
  }

  #at(path: string): string {
    return parentOf(this.path) + path;
  }

  #missing({ configuration, replace, with: by }: Replacement): LintFinding[] {
    return [replace, by]
      .filter((path) => !this.facts.exists(this.#at(path)))
      .map((file) =>
        finding('repo/workspace', 'missing', { configuration, file }, { level: 'error', ...this.#place(file) }),
      );
  }

  /** A configuration of one stage that gets the values of another one. */
  #wrong({ configuration, with: by }: Replacement): LintFinding[] {
    const stage = this.#stageOf(configuration);
    if (stage === undefined) return [];
    const owners = this.#ownersOf(by);
    if (owners.length === 0 || owners.includes(stage)) return [];
    return [finding('repo/workspace', 'values', { configuration, file: by, stages: owners }, this.#place(by))];
  }

  /** The stages that have a file by its name, or else as a layer. */
  #ownersOf(path: string): string[] {
    const { stages } = this.facts.contract;
    const named = valueFileOf(path)?.stage;
    if (named !== undefined && stages.has(named)) return [named];
    const layered = [...stages.values()].filter(({ layers }) =>
      layers.some(({ kind, name }) => kind === 'file' && name === this.#at(path)),
    );
    return layered.map(({ name }) => name);
  }

  /** A replacement of another file than that of the other configurations is often a copy that was not adapted. */
  #odd({ configuration, replace }: Replacement, { replacements }: WorkspaceApplication): LintFinding[] {
    const others = replacements
      .filter((one) => one.configuration !== configuration && parentOf(one.replace) === parentOf(replace))
      .map((one) => one.replace);
    const [usual] = others;
    const isOdd = usual !== undefined && !others.includes(replace) && this.#ownersOf(replace).length > 0;
    const isNamed = valueFileOf(replace)?.stage !== undefined;
    return isOdd && isNamed
      ? [finding('repo/workspace', 'replaced', { configuration, file: replace, usual }, this.#place(replace))]
      : [];
  }

  #served(
    { configuration, builds }: WorkspaceApplication['serves'][number],
    { name }: WorkspaceApplication,
  ): LintFinding[] {
    const built = this.#stageOf(builds);
    const served = configuration === '' ? this.#stageOf('development') : this.#stageOf(configuration);
    if (built === undefined || served === undefined || built === served) return [];
    const key = this.text.includes('"browserTarget"') ? 'browserTarget' : 'buildTarget';
    const about = { application: name, configuration, builds, stage: served, key };
    return [finding('repo/workspace', 'served', about, this.#place(`${name}:build:${builds}`))];
  }

  /** The first place of a text in the file; the file alone if it is written otherwise. */
  #place(word: string) {
    const at = this.text.indexOf(`"${word}"`);
    return {
      place:
        at < 0
          ? { path: this.path, inside: [] }
          : placeOfWord({ path: this.path }, textPlaces(this.text)(at + 1), word),
    };
  }
}

type Replacement = WorkspaceApplication['replacements'][number];
