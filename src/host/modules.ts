import { createRequire } from 'node:module';
import { dirname } from 'node:path';
import { markupExtensions, scriptExtensions } from '../core/files/languages.js';
import { loadBinary } from '../core/syntax/binary-missing.js';

const components = markupExtensions.filter((one) => !one.startsWith('htm'));
const extensions = [...[...scriptExtensions, ...components].map((one) => `.${one}`), '.dart', '.json'];

/**
 * Resolves what modules load as bundlers do: tsconfig's paths, package exports with the browser's conditions, endings that
 * are left out. Built on the resolver of a compiler, loaded at first use.
 */
export class ModuleResolver {
  readonly #resolver: InstanceType<typeof import('oxc-resolver')['ResolverFactory']>;

  /** @param alias beginnings of specifiers to absolute directories, as frameworks set them @throws BinaryMissing */
  constructor(alias: Readonly<Record<string, string>> = {}) {
    const { ResolverFactory } = loaded();
    this.#resolver = new ResolverFactory({
      extensions,
      extensionAlias: {
        '.js': ['.ts', '.tsx', '.js', '.jsx'],
        '.jsx': ['.tsx', '.jsx'],
        '.mjs': ['.mts', '.mjs'],
        '.cjs': ['.cts', '.cjs'],
      },
      conditionNames: ['browser', 'import', 'module', 'default'],
      mainFields: ['browser', 'module', 'main'],
      aliasFields: [['browser']],
      tsconfig: 'auto',
      alias: Object.fromEntries(Object.entries(alias).map(([from, to]) => [from, [to]])),
    });
  }

  /** @returns an absolute path, or undefined for what cannot be found and for modules of Node itself */
  resolve(from: string, specifier: string): string | undefined {
    const plain = specifier.replace(/[?#].*$/, '');
    const { path } = this.#resolver.resolveFileSync(from, plain);
    if (path) return path;
    return this.#resolver.sync(dirname(from), plain).path ?? undefined;
  }
}

function loaded(): typeof import('oxc-resolver') {
  return loadBinary('oxc-resolver', createRequire(import.meta.url)) as typeof import('oxc-resolver');
}
