import { finding, type RawFinding } from '../core/findings/finding.js';
import { weakness } from '../core/needles/weak.js';
import { isAboutValues, READABLE_TEXT, readableText } from '../core/probe/rendered.js';
import { type AskedSite, shownUrl, siteFinding } from '../core/probe/site.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { reveal } from '../core/secrets/secret.js';
import { startedPage } from '../host/browser.js';
import type { HttpClient } from '../host/http.js';
import type { World } from '../host/world.js';

/**
 * Values that the server rendered into the page, and that are gone after the app started.
 * @param html the page as the server sent it
 * @param client sends the page's requests if the site needs credentials or other connection settings @throws Failure if there is no browser to open it with
 */
export async function lostInBrowser(
  site: AskedSite,
  html: string,
  { values }: Resolution,
  world: World,
  client: HttpClient | undefined,
): Promise<RawFinding[]> {
  const sent = readableText(html);
  const shown = [...values.values()].flatMap(({ variable, value }) => {
    const text = variable.reach === 'public' && value ? reveal(value) : '';
    return text !== '' && !weakness(text) && sent.includes(text) ? [{ name: variable.name, text }] : [];
  });
  const hosts = new Set(site.resources.map(({ url }) => new URL(url).host));
  const isAllowed = (url: string) => !/^https?:/.test(url) || hosts.has(new URL(url).host);
  const { text: after, errors } = await startedPage(site.url, READABLE_TEXT, { isAllowed, client }, world);
  const [error] = errors.filter(isAboutValues);
  return shown
    .filter(({ text }) => !after.includes(text))
    .map(({ name }) =>
      siteFinding(site, shownUrl(site.url), finding('serve/lost-in-browser', 'value', { variable: name, error })),
    );
}
