import { other } from '../toolchains/other.js';
import { vite } from '../toolchains/vite.js';

/** How a Storybook is described in a contract. */
export interface Storybook {
  toolchain: string;
  /** Prefixes of the names that its build inlines, from `import.meta.env` (Vite) or `process.env` (webpack). */
  prefixes: readonly string[];
}

/** Where its configuration is, and where it writes. */
export const [STORYBOOK_CODE, STORYBOOK_OUTPUT] = ['.storybook', 'storybook-static'] as const;

/** The script that `storybook init` adds to the manifest. */
export const STORYBOOK_SCRIPT = 'build-storybook';

/** The Storybook of a package, by its dependencies. Both builders were measured with version 10. */
export function storybookOf(dependencies: readonly string[]): Storybook | undefined {
  const own = dependencies.filter((name) => name === 'storybook' || name.startsWith('@storybook/'));
  if (own.length === 0) return undefined;
  const isVite = own.some((name) => /-vite$|^@storybook\/sveltekit$/.test(name));
  return isVite
    ? { toolchain: vite.name, prefixes: ['STORYBOOK_', 'VITE_'] }
    : { toolchain: other.name, prefixes: ['STORYBOOK_'] };
}
