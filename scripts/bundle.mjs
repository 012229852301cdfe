// The one way in which Adder's sources become files to run: for what is shipped, for the page of a report, and for scripts.
import { rolldown } from 'rolldown';
import { moduleForms } from './module-forms.mjs';

/** Packages with programs of their own for each system, and one that plugins share with their bundler's other plugins; npm installs them. */
const external = [/^oxc-/, 'unplugin'];

/**
 * @param {Record<string, string>} input output name to source
 * @param {import('rolldown').OutputOptions} output written to `dir`; kept in memory without one
 * @param {import('rolldown').InputOptions} [more]
 * @returns {Promise<(import('rolldown').OutputChunk | import('rolldown').OutputAsset)[]>}
 */
export async function bundle(input, output, more = {}) {
  const bundled = await rolldown({
    input,
    platform: 'node',
    external,
    resolve: { alias: moduleForms },
    transform: { target: 'node20.19' },
    // A package asks for the place of a configuration file that Adder does not have.
    checks: { emptyImportMeta: false },
    ...more,
  });
  const { output: files } = await (output.dir === undefined ? bundled.generate(output) : bundled.write(output));
  await bundled.close();
  return files;
}
