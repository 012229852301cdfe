import type { Contract } from '../contract/contract.js';
import { type NamedValue, resolveStage } from '../resolve/resolve.js';
import { reveal } from '../secrets/secret.js';
import type { DraftBundle } from './bundles.js';
import type { StageValue } from './evidence.js';
import { layerOfText, layerText, type Material } from './material.js';
import type { DraftStage } from './stages.js';

const nothingDeclared: Omit<Contract, 'stages'> = {
  path: '',
  bundles: new Map(),
  variables: new Map(),
  passes: [],
  levels: {},
  accept: [],
  hosts: new Map(),
  history: { isRequired: false },
};

/** Value of each name in each stage: the layers are resolved as they will be under the contract. */
export function valuesByName(
  { files }: Material,
  stages: readonly DraftStage[],
  bundles: readonly DraftBundle[],
): Map<string, StageValue[]> {
  const byName = new Map<string, StageValue[]>();
  const divided = bundles.filter(({ layers }) => Object.keys(layers).length > 0);
  const ofPackages = [...new Map(divided.map(({ folder, layers }) => [folder, layers]))];
  for (const { name, layers } of stages) {
    const scopes = [
      ['', [] as readonly string[]] as const,
      ...ofPackages.map(([owner, own]) => [owner, own[name] ?? []] as const),
    ];
    for (const [owner, own] of scopes) {
      const read = [...layers, ...own].flatMap((text) => files.find((file) => layerText(file) === text)?.layer ?? []);
      const { undeclared } = resolveStage({ ...nothingDeclared, stages: new Map() }, { name, layers: [] }, read);
      const isOwn = ({ from: { path = '' } }: NamedValue) =>
        owner === '' || own.some((text) => layerOfText(text).path === path);
      for (const { name: variable, value, from } of undeclared.filter(isOwn)) {
        const known = byName.get(variable) ?? [];
        byName.set(variable, [...known, { stage: name, owner, text: reveal(value), from }]);
      }
    }
  }
  for (const { kind, layer } of files) {
    if (kind === 'example') for (const { name } of layer.offers) if (!byName.has(name)) byName.set(name, []);
  }
  return byName;
}
