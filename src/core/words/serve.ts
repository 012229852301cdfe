import { localTime } from '../text/display.js';
import { firstWords, joinWords } from '../text/nearest.js';
import { knownValue } from './leak.js';
import { run, steps } from './remedy.js';
import { writeAgain } from './stale.js';
import { words } from './words.js';

/** A values file of a bundle: see the words about old values. */
export type ValuesFile = Parameters<typeof writeAgain>[0];

/** A content coding as a phrase. */
function encodingText(encoding: string): string {
  return encoding === 'identity' ? 'uncompressed files' : encoding;
}

/** How long browsers may keep a file. */
export interface Kept {
  /** The duration as a text, such as `10 minutes`. */
  duration: string;
  /** The header that says so. */
  header: string;
}

/** A build that a site serves, and should not. */
export interface OtherBuild {
  bundle: string;
  builtAt: string;
  /** Header of an answer that a cache gave. */
  cache?: string | undefined;
  /** Header that says that no cache gave it. */
  fromServer?: string | undefined;
}

/** Remedy for a site that serves another build, depending on the state of the cache in front of it. */
function deployed({ cache, fromServer }: OtherBuild, what: string): string {
  if (cache)
    return `if ${what} was deployed, empty the cache in front of the site, which answered (${cache}); otherwise deploy it`;
  if (fromServer) return `deploy ${what}: no cache answered, the server has the other one (${fromServer})`;
  return `deploy ${what}; if it was deployed, empty the caches in front of the site (CDN, proxy)`;
}

export const serveWords = words({
  'serve/missing-file': {
    meaning: 'a page loads a file that is missing, or does not load its values file',
    help: '`adder probe` also reports scripts, style sheets, fonts and images that the site names and does not have. Values file: the app reads values when it loads, and stops with an error or has none. `adder emit runtime --stage STAGE --into DIST` writes the file and adds it to every page. Run it after each build, because a build writes the pages again.',
    variants: {
      values: (f: ValuesFile & { names: readonly string[] }) => ({
        message: `the page loads no values file, but the app reads ${joinWords(f.names)} when it loads`,
        remedy: writeAgain(f),
      }),
      'values-file': (f: ValuesFile & { file: string }) => ({
        message: `the page loads ${f.file}, which does not exist`,
        remedy: writeAgain(f),
      }),
      script: ({ url }: { url: string }) => ({
        message: `the page loads ${url}, and no file of the output has that name`,
        remedy: 'empty the output directory and build again; if something else serves the file, accept the finding',
      }),
      answer: ({ url, status }: { url: string; status: number }) => ({
        message: `loads ${url}, which answers with status ${status}`,
        remedy: 'deploy all files of one build; keep those of the previous build until browsers have the new page',
      }),
      'of-build': ({ urls, status, builtAt }: { urls: readonly string[]; status: number; builtAt: string }) => ({
        message: `the site serves the build of ${localTime(builtAt)}, but not all of its scripts: ${firstWords(urls, 3)} ${
          urls.length === 1 ? 'answers' : 'answer'
        } ${status < 400 ? 'with a page' : `with status ${status}`}`,
        remedy: 'deploy all files of the build',
      }),
    },
  },
  'serve/late-runtime-file': {
    meaning: 'a page may run a script before its values are loaded',
    help: 'The tag of the values file must come before every script of the page, without async or defer. `adder emit runtime --into DIST` puts it there.',
    variants: {
      script: (f: ValuesFile) => ({
        message: 'the page may run a script before its values are loaded',
        remedy: writeAgain(f),
      }),
    },
  },
  'serve/blocked-runtime-file': {
    meaning: 'a browser will block the values file',
    help: "The digest in the page belongs to another file, or the page's content security policy forbids the file. Allow `'self'` or the digest in `script-src`.",
    variants: {
      digest: (f: ValuesFile) => ({
        message: 'browsers block the file: its digest differs from the one in the page',
        remedy: writeAgain(f),
      }),
      policy: ({ digest, isServed }: { digest?: string | undefined; isServed?: boolean | undefined }) => ({
        message: "browsers block the file: the page's content security policy forbids it",
        remedy: `add 'self' or '${digest ?? 'its digest'}' to script-src${isServed ? ', and deploy it' : ''}`,
      }),
    },
  },
  'serve/cached-runtime-file': {
    meaning: 'the name of the values file does not change with its content',
    help: 'Browsers and proxies may keep using the old file under a fixed name. `adder emit runtime --into DIST` puts a digest into the name.',
    variants: {
      name: (f: ValuesFile) => ({
        message: 'the file name does not contain a digest of the content, so browsers and proxies may keep old values',
        remedy: writeAgain(f),
      }),
      header: (f: { kept?: Kept | undefined; stage: string; bundle: string }) => ({
        message: `browsers may keep these load-time values ${
          f.kept ? `for ${f.kept.duration} (${f.kept.header})` : 'as long as they choose: no header says how long'
        }`,
        remedy: `send \`cache-control: no-cache\` for this file, or use a name with a digest: adder emit runtime --stage ${f.stage} --bundle ${f.bundle} --into DIST`,
      }),
    },
  },
  'serve/wrong-type': {
    meaning: 'a site sends a script or style sheet with a type that browsers refuse',
    help: 'Often the file is missing and the server answers with the start page and status 200. Deploy all files of the build, and answer missing files with 404. Otherwise send the right `content-type`.',
    variants: {
      page: ({ kind }: { kind: string }) => ({
        message: `is a page, but is loaded as a ${kind}: the site probably lacks the file and answers with its start page`,
        remedy: 'deploy all files of the build, and let the server answer paths of missing files with status 404',
      }),
      type: ({ kind, type, right }: { kind: string; type: string; right: string }) => ({
        message: `has the type ${type === '' ? '(none)' : type}, so browsers refuse it as a ${kind}`,
        remedy: `send \`content-type: ${right}\``,
      }),
    },
  },
  'serve/cross-origin': {
    meaning: 'a module or font is on another host that does not allow the page to use it',
    help: 'Browsers refuse modules, fonts and files with `crossorigin` or `integrity` from another host without the header `access-control-allow-origin`. The message names the host and the value.',
    variants: {
      header: (f: { kind: string; host: string; origin: string; allowsOther: boolean }) => ({
        message: `browsers refuse this ${f.kind}: it is on another host, which ${
          f.allowsOther ? 'allows another origin' : 'sends no `access-control-allow-origin`'
        }`,
        remedy: `let ${f.host} send \`access-control-allow-origin: ${f.origin}\` (or \`*\`) for scripts and fonts`,
      }),
    },
  },
  'serve/long-cache': {
    meaning: 'browsers may cache a file whose name has no content hash',
    help: 'After a deployment, browsers with the old page load files that are gone, or keep showing the old values. Send `cache-control: no-cache` for pages and for files without a digest in their names; files with a digest may be kept for ever.',
    variants: {
      page: ({ duration, header }: Kept) => ({
        message: `browsers may cache this page, and with it the old build, for ${duration} (${header})`,
        remedy: 'send `cache-control: no-cache` for pages',
      }),
      file: ({ duration, header }: Kept) => ({
        message: `browsers may cache this file for ${duration} (${header}): its name has no content hash`,
        remedy: 'send `cache-control: no-cache` for it, or let the build put a digest into its name',
      }),
    },
  },
  'serve/kept-by-worker': {
    meaning: 'a service worker keeps a values file, or the start page, under a fixed name',
    help: 'Start page: browsers show the build that the service worker keeps until it has updated, so new values come later than the deployment. Values file: browsers get the file from the service worker, whatever the server sends. Leave it out of the list of kept files, or use a name with a digest (`adder emit runtime --into DIST`).',
    variants: {
      values: ({ url }: { url: string }) => ({
        message: `this service worker keeps ${url}: browsers get old load-time values from it`,
        remedy: 'leave the values file out of the list of files that the service worker keeps',
      }),
      page: (_: object) => ({
        message:
          'this service worker answers with the start page that it keeps: after a deployment, each browser shows the old build, with its values, until the worker has updated and the page is opened again',
        remedy:
          'if new values must arrive at once, ask the network first for pages, or reload the page when the worker has updated',
      }),
    },
  },
  'serve/out-of-date': {
    meaning: 'a site serves an older build, or a build for another stage',
    help: 'The digests of the served files are those of a receipt that is not the newest one of the stage. Deploy the current build.',
    variants: {
      'other-stage': (f: { bundle: string; stage: string; builtFor: string; builtAt: string }) => ({
        message: `the site serves the ${f.builtFor} build of ${f.bundle} (built ${localTime(f.builtAt)}), not a ${f.stage} build`,
        remedy: steps`deploy a build for ${f.stage}: ${run('adder', 'with', f.stage, '--bundle', f.bundle)}`,
      }),
      older: (f: OtherBuild & { newest: string; hasAllValues?: boolean | undefined }) => ({
        message: `the site serves the build of ${localTime(f.builtAt, f.newest)}; the newest one is of ${localTime(f.newest, f.builtAt)}${
          f.hasAllValues ? '; both have the same values' : ''
        }`,
        remedy: `${deployed(f, `the current build of ${f.bundle}`)}${f.hasAllValues ? '; after a rollback, pass --build previous' : ''}`,
      }),
      'not-declared': (f: OtherBuild & { declared: string }) => ({
        message: `the site serves the build of ${localTime(f.builtAt, f.declared)}; --build names the one of ${localTime(f.declared, f.builtAt)}`,
        remedy: deployed(f, `the build of ${localTime(f.declared, f.builtAt)}`),
      }),
    },
  },
  'serve/mixed-builds': {
    meaning: 'a site serves files of several builds',
    help: 'A deployment is not finished, or a cache in front of the site keeps old files. An app of two builds may stop with errors, or use the values of both.',
    variants: {
      files: (f: { urls: readonly string[]; otherBuiltAt: string; builtAt: string; cache?: string | undefined }) => ({
        message: `${f.urls.length === 1 ? 'this file is' : `${firstWords(f.urls, 3)} are`} of ${
          f.otherBuiltAt < f.builtAt ? 'an older' : 'a newer'
        } build, of ${localTime(f.otherBuiltAt, f.builtAt)}; the site serves the one of ${localTime(f.builtAt, f.otherBuiltAt)}`,
        remedy: f.cache
          ? `empty the cache in front of the site: the answer came from there (${f.cache})`
          : 'finish the deployment, and empty the caches in front of the site (CDN, proxy)',
      }),
      encoding: (f: { encoding: string; usual?: string | undefined }) => ({
        message: `clients that accept only ${encodingText(f.encoding)} get other content of this file than clients that get ${encodingText(f.usual ?? 'identity')}`,
        remedy:
          'compress the files again after each build (.gz and .br beside them), deploy both, and empty the caches in front of the site',
      }),
    },
  },
  'serve/env-file': {
    meaning: 'a site answers a path that only developers may read',
    help: 'An env file, the contract, a receipt or a version control directory was copied to the server, or the server serves the project directory. Remove it, serve only the output directory, and replace every secret in it: assume that it is known.',
    variants: {
      answer: ({ what, copied, output }: { what: string; copied: string; output: string }) => ({
        message: `the site answers with ${what}`,
        remedy: `remove ${copied} from what is served, serve only ${output}, and replace every secret in it: assume that it is known`,
      }),
      listing: (_: object) => ({
        message: 'the site lists the files of this directory, so anybody finds each of them',
        remedy: 'turn off the listing of directories in the settings of the server',
      }),
    },
  },
  'serve/secret-in-answer': {
    meaning: 'an answer contains a secret, in its body or a header',
    help: 'For paths given with `--also`, texts of errors, and headers of all answers. The message names the header. Remove the value from the answer, then rotate it.',
    variants: {
      header: ({ header, variable, reach }: { header: string; variable: string; reach: string }) => ({
        message: `the header ${header} contains the value of ${variable}, a ${reach}-only variable`,
        remedy: 'remove it from the answer, then rotate the key: assume it is known',
      }),
      ...knownValue,
    },
  },
  'serve/lost-in-browser': {
    meaning: 'a value in the server-rendered page disappears after hydration',
    help: 'Found by `adder probe --browser`. The server reads the value from its environment, and the browser code reads `undefined` and renders again. Read it from the public runtime configuration of the framework, or inline it.',
    variants: {
      value: ({ variable, error }: { variable: string; error?: string | undefined }) => ({
        message: `the server-rendered page has the value of ${variable}, but it disappears after hydration${
          error === undefined ? '' : `; the browser's console: ${error}`
        }`,
        remedy:
          'read it in browser code as a public value: inlined, or from the public runtime configuration of the framework',
      }),
    },
  },
});
