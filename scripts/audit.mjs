// Asks the registry's service for known holes in exactly the packages that Adder ships: `npm run audit`, after a build. Exits 1 if one of
// level high or critical is known, and says so if the service does not answer.
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { PackageURL } from 'packageurl-js';
import semver from 'semver';

const { components } = JSON.parse(readFileSync(join(import.meta.dirname, '../dist/sbom.cdx.json'), 'utf8'));
const versions = {};
for (const { purl } of components) {
  const { namespace, name, version } = PackageURL.fromString(purl);
  const id = namespace ? `${namespace}/${name}` : name;
  versions[id] = [...(versions[id] ?? []), version];
}

const advisories = await asked(versions).catch((error) => {
  console.log(`audit: not checked, because the service did not answer (${error.cause?.code ?? error.message})`);
});
if (advisories) report(advisories);

/** The advisories for each package (npm's bulk advisory service). */
async function asked(body) {
  const registry = execFileSync('npm', ['config', 'get', 'registry'], { encoding: 'utf8' }).trim();
  const url = new URL('-/npm/v1/security/advisories/bulk', registry.replace(/\/?$/, '/'));
  const response = await fetch(url, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
    signal: AbortSignal.timeout(30_000),
  });
  if (!response.ok) throw new Error(`status ${response.status}`);
  const answer = await response.json();
  // A registry without the service may answer with something else.
  if (!Object.values(answer).every(Array.isArray)) throw new Error('an unknown answer');
  return answer;
}

function report(answer) {
  const known = Object.entries(answer).flatMap(([name, all]) =>
    all
      .filter(({ vulnerable_versions }) => versions[name]?.some((one) => semver.satisfies(one, vulnerable_versions)))
      .map(({ severity, title, url }) => ({ name, severity, title, url })),
  );
  for (const { name, severity, title, url } of known) console.log(`audit: ${name}: ${severity}: ${title} (${url})`);
  const grave = known.filter(({ severity }) => severity === 'high' || severity === 'critical');
  const number = `${components.length} packages`;
  console.log(
    `audit: ${number} checked, ${grave.length} known ${grave.length === 1 ? 'hole' : 'holes'} of level high or critical`,
  );
  if (grave.length > 0) process.exitCode = 1;
}
