import type { Bundle, Contract } from '../contract/contract.js';
import { toolchains } from '../contract/toolchains.js';
import type { RawFinding } from '../findings/finding.js';
import { Names } from '../lint/names.js';
import type { ReadLayer } from '../resolve/layers.js';

/** The env files that a bundle's tool reads by itself in a build, the last one wins. Names, without a folder. */
export function toolFiles({ toolchain }: Bundle, mode: string): string[] {
  return (toolchains[toolchain]?.envFiles ?? []).map((name) => name.replace('{mode}', mode));
}

/**
 * What such files would bring into a build besides what Adder gives it: the tool reads them on its own, and a name that is not
 * given in the environment is taken from there.
 * @param files those that are there
 */
export function toolFileFindings(contract: Contract, bundle: Bundle, files: readonly ReadLayer[]): RawFinding[] {
  const names = new Names(contract, bundle);
  return files.flatMap(({ path = '', offers }) =>
    offers.flatMap(({ name, source: { line, column } }): RawFinding[] => {
      const place = { path, inside: [], ...(line && { line }), ...(column && { column }) };
      const meaning = names.meaning(name);
      const isExposed = bundle.prefix !== '' && name.startsWith(bundle.prefix);
      if (!isExposed || meaning.kind === 'public') return [];
      const what =
        meaning.kind === 'narrow'
          ? `which is for the ${meaning.variable.reach} alone`
          : 'which the contract does not have for this bundle';
      return [
        {
          code: 'value/undeclared',
          bundle: bundle.name,
          message: `${bundle.toolchain} reads ${path} by itself, and would put ${name} from there into the bundle, ${what}`,
          remedy: `take the line out; or add adder/${bundle.toolchain} to the build, which switches such reading off`,
          place,
        },
      ];
    }),
  );
}
