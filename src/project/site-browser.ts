import type { RawFinding } from '../core/findings/finding.js';
import { weakness } from '../core/needles/weak.js';
import { isAboutValues, READABLE_TEXT, readableText } from '../core/probe/rendered.js';
import { type Site, shownUrl, siteFinding } from '../core/probe/site.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { reveal } from '../core/secrets/secret.js';
import { startedPage } from '../host/browser.js';
import type { World } from '../host/world.js';

/**
 * Values that the server rendered into the page, and that are gone after the app started.
 * @param html the page as the server sent it
 * @throws Failure if there is no browser to open it with
 */
export async function lostInBrowser(
  site: Site,
  html: string,
  { values }: Resolution,
  world: World,
): Promise<RawFinding[]> {
  const sent = readableText(html);
  const shown = [...values.values()].flatMap(({ variable, value }) => {
    const text = variable.reach === 'public' && value ? reveal(value) : '';
    return text !== '' && !weakness(text) && sent.includes(text) ? [{ name: variable.name, text }] : [];
  });
  const hosts = new Set(site.resources.map(({ url }) => new URL(url).host));
  const isAllowed = (url: string) => !/^https?:/.test(url) || hosts.has(new URL(url).host);
  const { text: after, errors } = await startedPage(site.url, READABLE_TEXT, isAllowed, world);
  const [error] = errors.filter(isAboutValues);
  const because = error === undefined ? '' : `; the browser's console: ${error}`;
  return shown
    .filter(({ text }) => !after.includes(text))
    .map(({ name }) =>
      siteFinding(site, 'serve/lost-in-browser', shownUrl(site.url), {
        variable: name,
        message: `the page that the server sends has the value of ${name}, but it is gone after the app starts${because}`,
        remedy:
          'read it in browser code as a public value: inlined, or from the public runtime configuration of the framework',
      }),
    );
}
