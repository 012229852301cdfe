import { limits } from '../core/limits/index.js';
import { kindByName } from '../core/probe/links.js';
import type { Link } from '../core/probe/resource.js';
import { type BuiltFile, filesToRequest, type KnownFile, servedBuild, urlsOfBuild } from '../core/probe/version.js';
import type { Receipt } from '../core/receipt/receipt.js';
import { commonFolder } from '../core/runtime/page.js';

/** Files of a build that are requested, and how many are not. */
export interface BuildRequests {
  links: Link[];
  left: number;
}

/**
 * The files of the build that a site serves, which no page or script need name in a way that can be read. If no file of the site is of a
 * build, those of the newest build for the stage.
 * @param url of the first page @param known files of the site @param receipts the newest first
 */
export function requestsForBuild(
  url: string,
  stage: string,
  known: readonly KnownFile[],
  receipts: readonly Receipt[],
): BuildRequests {
  const { receipt } = servedBuild(known, receipts);
  const files = receipt ? urlsOfBuild(receipt, known) : filesOfNewest(url, stage, receipts);
  const loaded = files.filter((file) => !/\.(map|gz|br|zst)$/.test(file.url));
  const { asked, left } = filesToRequest(loaded, limits.probeBuildFiles.value);
  return { links: asked.map(linkTo), left: left.length };
}

function linkTo({ url }: BuiltFile): Link {
  const kind = kindByName(url);
  return { url, kind, isCors: kind === 'script', isGuess: true };
}

function filesOfNewest(url: string, stage: string, receipts: readonly Receipt[]): BuiltFile[] {
  const { subject = [] } = receipts.find(({ predicate }) => predicate.stage === stage) ?? {};
  const served = commonFolder(subject.flatMap(({ name }) => (/\.html?$/.test(name) ? [name] : [])));
  // Frameworks with a server have their pages elsewhere.
  if (served === '' || !subject.some(({ name }) => name === `${served}index.html`)) return [];
  const directory = new URL('.', url);
  return subject.flatMap(({ name, annotations }) => {
    if (!name.startsWith(served)) return [];
    const relative = name.slice(served.length).split('/').map(encodeURIComponent).join('/');
    return [{ url: new URL(relative, directory).href, ...annotations }];
  });
}
