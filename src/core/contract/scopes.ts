import type { Bundle, Contract, Layer, Stage, Variable } from './contract.js';
import { belongsTo } from './names.js';

/** The part of a project whose values come from the same layers. */
export interface Scope {
  /** The bundle with layers of its own; absent for everything that has only the layers of the stages. */
  bundle?: Bundle;
  /** The contract as this part sees it: with its layers, and requiring only its variables. */
  contract: Contract;
  /** Tells whether the part gets a variable, or one of its own layers has the value. */
  shows(variable: Variable, layer?: string): boolean;
}

/** Every part of a project with layers of its own; a single one in most projects. */
export function scopesOf(contract: Contract): Scope[] {
  const bundles = [...contract.bundles.values()];
  const own = bundles.filter(hasOwnLayers);
  if (own.length === 0) return [{ contract, shows: () => true }];
  const others = bundles.filter((bundle) => !hasOwnLayers(bundle));
  const isOfOthers = (variable: Variable) =>
    others.some((bundle) => belongsTo(bundle, variable)) ||
    (variable.bundles === undefined && !bundles.some((bundle) => belongsTo(bundle, variable)));
  const rest = [...contract.variables.values()].some(isOfOthers);
  return [
    ...(rest ? [{ contract: onlyRequiring(contract, isOfOthers), shows: isOfOthers }] : []),
    ...own.map((bundle) => scopeOf(contract, bundle)),
  ];
}

/** The part that a bundle gets its values from: its own, or that of the stages. @param scopes as {@link scopesOf} returns them */
export function scopeWith(scopes: readonly Scope[], bundle: Bundle | undefined): Scope | undefined {
  return (
    scopes.find((scope) => scope.bundle?.name === bundle?.name) ?? scopes.find((scope) => scope.bundle === undefined)
  );
}

/** Stages as a bundle's build sees them, of those of all scopes. */
export function stagesFor<T extends { stage: Stage }>(all: readonly T[], bundle: Bundle): T[] {
  const own = all.filter(({ stage }) => stage.bundle === bundle.name);
  return own.length > 0 ? own : all.filter(({ stage }) => stage.bundle === undefined);
}

/** The contract as a bundle's build sees it; without a bundle, or if it has no layers of its own, the contract itself. */
export function contractFor(contract: Contract, bundle: Bundle | undefined): Contract {
  return bundle && hasOwnLayers(bundle) ? scopeOf(contract, bundle).contract : contract;
}

export function hasOwnLayers({ layers }: Bundle): boolean {
  return layers.size > 0;
}

/** Every layer of a contract, of stages and of bundles. */
export function layersOf({ stages, bundles }: Contract): Layer[] {
  const ofStages = [...stages.values()].flatMap(({ layers }) => layers);
  return [...ofStages, ...[...bundles.values()].flatMap(({ layers }) => [...layers.values()].flat())];
}

function scopeOf(contract: Contract, bundle: Bundle): Scope {
  // A server value has its place among the layers of a bundle that names it, though the bundle's build never gets it.
  const has = (variable: Variable) => variable.bundles?.includes(bundle.name) ?? belongsTo(bundle, variable);
  const stages = [...contract.stages.values()].map(
    (stage): Stage => ({
      ...stage,
      bundle: bundle.name,
      layers: joined(stage.layers, bundle.layers.get(stage.name) ?? []),
    }),
  );
  const byName = new Map(stages.map((stage) => [stage.name, stage]));
  const own = new Set([...bundle.layers.values()].flat().map(({ name }) => name));
  const shows: Scope['shows'] = (variable, layer) => has(variable) || (layer !== undefined && own.has(layer));
  return { bundle, contract: { ...onlyRequiring(contract, has), stages: byName }, shows };
}

/** A bundle's layers win over the stage's files, but not over the process environment. */
function joined(ofStage: readonly Layer[], own: readonly Layer[]): Layer[] {
  const isProcess = ({ kind }: Layer) => kind === 'process';
  const last = [...ofStage, ...own].find(isProcess);
  return [...[...ofStage, ...own].filter((layer) => !isProcess(layer)), ...(last ? [last] : [])];
}

function onlyRequiring(contract: Contract, has: (variable: Variable) => boolean): Contract {
  const variables = [...contract.variables.values()].map((variable) =>
    has(variable) ? variable : { ...variable, required: false },
  );
  return { ...contract, variables: new Map(variables.map((variable) => [variable.name, variable])) };
}
