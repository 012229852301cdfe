// Which packages are in what Adder ships: those that are bundled, and those that npm installs with it.
import { readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { Contrib, Enums, Models, Serialize, Spec } from '@cyclonedx/cyclonedx-library';
import { PackageURL } from 'packageurl-js';

/**
 * @typedef {object} ShippedPackage
 * @property {string} folder as the lock file names it, such as `node_modules/zod`
 * @property {string} name
 * @property {string} version
 * @property {string} [license] an SPDX expression
 * @property {boolean} isBundled otherwise npm installs it
 * @property {boolean} isOptional npm installs it on some systems only
 */

const root = join(import.meta.dirname, '..');
const readJson = (path) => JSON.parse(readFileSync(join(root, path), 'utf8'));

/**
 * @param {readonly (import('rolldown').OutputChunk | import('rolldown').OutputAsset)[]} files of all bundles
 * @returns {ShippedPackage[]} by folder
 */
export function shippedPackages(files) {
  const { packages: locked } = readJson('package-lock.json');
  const found = new Map();
  for (const path of files.flatMap(({ modules = {} }) => Object.keys(modules))) {
    const [, folder] = /^(.*node_modules\/(?:@[^/]+\/)?[^/]+)\//.exec(path) ?? [];
    if (folder) found.set(relative(root, folder).replaceAll('\\', '/'), { isBundled: true, isOptional: false });
  }
  const install = (folder, { dependencies = {}, optionalDependencies = {} }) => {
    for (const name of new Set([...Object.keys(dependencies), ...Object.keys(optionalDependencies)])) {
      const at = resolved(locked, folder, name);
      if (at === undefined || found.get(at)?.isBundled === false) continue;
      found.set(at, { isBundled: found.has(at), isOptional: locked[at].optional ?? false });
      install(at, locked[at]);
    }
  };
  install('', { dependencies: locked[''].dependencies });
  return [...found.keys()].sort().map((folder) => {
    const { name = folder.replace(/^.*node_modules\//, ''), version, license } = locked[folder];
    return { folder, name, version, license, ...found.get(folder) };
  });
}

/** The folder in which Node.js would find a dependency of the package in another folder. */
function resolved(locked, folder, name) {
  for (let from = folder; ; from = from.slice(0, Math.max(0, from.lastIndexOf('/node_modules/')))) {
    const at = `${from === '' ? '' : `${from}/`}node_modules/${name}`;
    if (locked[at]) return at;
    if (from === '') return undefined;
  }
}

/** The licences of what is bundled: npm installs the others with their own. @param {readonly ShippedPackage[]} packages */
export function licenceTexts(packages) {
  const texts = packages
    .filter(({ isBundled }) => isBundled)
    .map(({ folder, name, version, license }) => {
      const file = readdirSync(join(root, folder)).find((one) => /^licen[cs]e/i.test(one));
      const text = file ? readFileSync(join(root, folder, file), 'utf8') : `${license}\n`;
      return `${name} ${version}\n\n${text.trim()}\n`;
    });
  return texts.join(`\n${'-'.repeat(80)}\n\n`);
}

/** A bill of materials in CycloneDX 1.6, as JSON. @param {readonly ShippedPackage[]} packages */
export function billOfMaterials(packages) {
  const builder = new Contrib.FromNodePackageJson.Builders.ComponentBuilder(
    new Contrib.FromNodePackageJson.Factories.ExternalReferenceFactory(),
    new Contrib.License.Factories.LicenseFactory(),
  );
  const component = ({ name, version, license }, type) => {
    const made = builder.makeComponent({ name, version, license }, type);
    const [, namespace = null, base = name] = /^(@[^/]+)\/(.*)$/.exec(name) ?? [];
    made.purl = new PackageURL('npm', namespace, base, version, null, null).toString();
    made.bomRef.value = made.purl;
    return made;
  };
  const bom = new Models.Bom();
  const adder = component(readJson('package.json'), Enums.ComponentType.Application);
  bom.metadata.component = adder;
  // npm may install one version in several places.
  const versions = new Map(packages.map((one) => [`${one.name}@${one.version}`, one]));
  for (const one of versions.values()) {
    const made = component(one, Enums.ComponentType.Library);
    made.scope = one.isOptional ? Enums.ComponentScope.Optional : Enums.ComponentScope.Required;
    bom.components.add(made);
    adder.dependencies.add(made.bomRef);
  }
  const serializer = new Serialize.JsonSerializer(new Serialize.JSON.Normalize.Factory(Spec.Spec1dot6));
  return `${serializer.serialize(bom, { sortLists: true, space: 2 })}\n`;
}
