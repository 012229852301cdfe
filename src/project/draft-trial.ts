import { parseContract } from '../core/contract/parse.js';
import type { Draft } from '../core/draft/draft.js';
import { outputsSeen, type SeenBuild } from '../core/draft/seen.js';
import { contractText } from '../core/draft/write.js';
import { Failure } from '../core/findings/failure.js';
import { ships } from '../core/resolve/value-rules.js';
import { joinWords } from '../core/text/nearest.js';
import type { World } from '../host/world.js';
import { chooseBundle, type Project } from './open.js';
import { trialBuild } from './trial.js';

export interface DraftTrial {
  /** The stage to build for; the last one that ships if absent. */
  stage?: string | undefined;
  bundle?: string | undefined;
  /** The words of the command; if none, the build of each bundle that the draft found. */
  command: readonly string[];
  real: readonly string[];
  /** Also for values without room for a marker. */
  twice: boolean;
  /** Gets the output of the builds. */
  log: NodeJS.WritableStream;
}

/**
 * Builds a project as its draft describes it, with made-up values.
 * @param at where the contract will be
 * @throws Failure if there is nothing to build, or a build fails
 */
export async function seenBuilds(
  drafted: Draft,
  at: Omit<Project, 'contract'>,
  { stage: asked, bundle: named, command, real, twice, log }: DraftTrial,
  world: World,
): Promise<SeenBuild[]> {
  const project = asProject(drafted, drafted.bundles, at);
  const stage = asked ?? usualStage(drafted);
  const seen: SeenBuild[] = [];
  for (const bundle of bundlesToBuild(project, named, command, world.cwd)) {
    const own = drafted.bundles.find(({ name }) => name === bundle);
    let outputs: string[] = [];
    const words = command.length > 0 ? command : undefined;
    const { evidence } = await trialBuild(
      project,
      { stage, bundle, command: words, real, twice, log },
      world,
      (files) => {
        outputs = own ? outputsSeen(own, files) : [];
        if (outputs.length === 0) return project;
        const others = drafted.bundles.map((one) => (one === own ? { ...one, output: outputs } : one));
        return asProject(drafted, others, at);
      },
    );
    seen.push({ ...{ stage, bundle, evidence, outputs }, ...(words && { command: words.join(' ') }) });
  }
  return seen;
}

function asProject(drafted: Draft, bundles: Draft['bundles'], at: Omit<Project, 'contract'>): Project {
  const { contract } = parseContract(contractText({ ...drafted, bundles }), at.contractPath);
  if (!contract) throw new Error('the draft is not a contract');
  return { ...at, contract };
}

function usualStage({ stages }: Draft): string {
  const shipping = stages.filter(({ name }) => ships(name));
  const one = shipping.find(({ name }) => name === 'production') ?? shipping.at(-1) ?? stages.at(-1);
  if (one) return one.name;
  throw new Failure('the draft has no stage to build for', 'run `adder draft` without --trial');
}

function bundlesToBuild(
  project: Project,
  named: string | undefined,
  command: readonly string[],
  cwd: string,
): string[] {
  const all = [...project.contract.bundles.values()].filter(({ runs }) => runs !== 'server');
  if (named !== undefined || command.length > 0) {
    const one = chooseBundle(project, named, cwd);
    if (one) return [one.name];
  }
  const buildable = all.filter(({ build }) => build !== undefined).map(({ name }) => name);
  if (buildable.length > 0) return buildable;
  throw all.length === 0
    ? new Failure(
        'the draft has no bundle for browsers or devices, so there is nothing to build',
        'run `adder draft` without --trial, and add the bundle',
      )
    : new Failure(
        `Adder does not know how ${joinWords(all.map(({ name }) => name))} ${all.length === 1 ? 'is' : 'are'} built`,
        'give the command: `adder draft --trial -- npm run build`',
      );
}
