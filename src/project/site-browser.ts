import { finding, type RawFinding } from '../core/findings/finding.js';
import { weakness } from '../core/needles/weak.js';
import { isAboutValues, READABLE_TEXT, readableText } from '../core/probe/rendered.js';
import type { Resource } from '../core/probe/resource.js';
import { type AskedSite, shownUrl, siteFinding } from '../core/probe/site.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { reveal } from '../core/secrets/secret.js';
import { startedPage } from '../host/browser.js';
import type { HttpClient } from '../host/http.js';
import type { World } from '../host/world.js';
import { resourceOf } from './site-answers.js';

/** Findings and recorded responses of a page that was opened in a browser. */
export interface OpenedPage {
  findings: RawFinding[];
  /** Answers to requests of the page's code. */
  answers: { resource: Resource; body: Uint8Array }[];
}

/**
 * Opens the first page in a browser: finds values that the server rendered into it and that are gone after the app started, and records
 * the answers to requests of its code.
 * @param html the page as the server sent it
 * @param client sends the page's requests if the site needs credentials or other connection settings @throws Failure if there is no browser to open it with
 */
export async function openInBrowser(
  site: AskedSite,
  html: string,
  { values }: Resolution,
  world: World,
  client: HttpClient | undefined,
): Promise<OpenedPage> {
  const sent = readableText(html);
  const shown = [...values.values()].flatMap(({ variable, value }) => {
    const text = variable.reach === 'public' && value ? reveal(value) : '';
    return text !== '' && !weakness(text) && sent.includes(text) ? [{ name: variable.name, text }] : [];
  });
  const hosts = new Set(site.resources.map(({ url }) => new URL(url).host));
  const isAllowed = (url: string) => !/^https?:/.test(url) || hosts.has(new URL(url).host);
  const requests = { isAllowed, client, origin: new URL(site.url).origin };
  const { text: after, errors, answers } = await startedPage(site.url, READABLE_TEXT, requests, world);
  const [error] = errors.filter(isAboutValues);
  const findings = shown
    .filter(({ text }) => !after.includes(text))
    .map(({ name }) =>
      siteFinding(site, shownUrl(site.url), finding('serve/lost-in-browser', 'value', { variable: name, error })),
    );
  return { findings, answers: answers.map((one) => ({ resource: resourceOf(one), body: one.body })) };
}
