import { joinWords } from '../text/nearest.js';
import { words } from './words.js';

/** A read of a bundle's code, with how it is written correctly. */
export interface WrongRead {
  name: string;
  /** The expression that the build replaces. */
  right: string;
  /** True if the name is read through an alias, which throws where there is no such object. */
  isAlias: boolean;
}

function write({ right, isAlias }: Omit<WrongRead, 'name'>): string {
  return isAlias ? `write ${right}, and remove the alias` : `write ${right}`;
}

/** Where a value goes that server code sends away. */
const destinations = {
  log: 'is logged',
  response: 'is sent in a response',
  result: 'is returned by this handler',
  markup: 'is rendered into markup',
  props: 'is passed as props, which the page sends to the browser',
} as const;
export type Destination = keyof typeof destinations;

export const codeWords = words({
  'code/server-read': {
    meaning: 'code that reaches the browser reads a build or server variable, or server code sends its value there',
    help: 'Everybody who opens the page would have the value. Examples: a helper that reads `process.env.FARE_SIGNING_KEY` and is imported, through two other files, by `src/main.ts`; or a handler that returns it. The finding shows the chain of imports from the entry. Move the read into code that runs on the server. If anybody may know the value, change its reach to public.',
    variants: {
      browser: (f: {
        variable: string;
        name: string;
        reach: string;
        /** Where code of the bundle goes, as a phrase. */
        goes: string;
        bundle: string;
        /** The files from an entry to the read, if the file is not an entry itself. */
        imports: readonly string[];
      }) => ({
        message: `${f.name.endsWith(f.variable) ? f.name : `${f.name} (${f.variable})`}, a ${f.reach}-only variable, is read by code that ${f.goes}${f.imports.length > 1 ? `: ${f.imports.join(' → ')}` : ` of ${f.bundle}`}`,
        remedy: `move the read into code that runs on the server; if anybody may know the value, set ${f.variable}: public in the contract`,
      }),
      sent: ({ variable, reach, to }: { variable: string; reach: string; to: Destination }) => ({
        message: `${variable}, a ${reach}-only variable, ${destinations[to]}`,
        remedy: to === 'log' ? 'remove it from the log' : 'send only what the browser needs, not the value',
      }),
      passed: ({
        variable,
        reach,
        read,
        bundle,
      }: {
        variable: string;
        reach: string;
        read: string;
        bundle: string;
      }) => ({
        message: `the configuration passes ${variable}, a ${reach}-only variable, to the code of ${bundle}${read === '' ? '' : ` as ${read}`}`,
        remedy: `remove it from the configuration; if anybody may know the value, set ${variable}: public in the contract`,
      }),
      app: ({ variable, reach, by }: { variable: string; reach: string; by: string }) => ({
        message: `${by} puts ${variable}, a ${reach}-only variable, into the app`,
        remedy: `move what needs it to a server; if anybody may know the value, set ${variable}: public in the contract`,
      }),
    },
  },
  'code/unknown-name': {
    meaning: 'code reads a name that its bundle does not have',
    help: 'The build leaves `undefined` there without a message. Examples: `import.meta.env.FERRY_API_URL` without the prefix `VITE_`, `VITE_VITE_FERRY_API_URL`, `NEXT_PUBLIC_FERRY_API_URL` in a Vite bundle, or a typo. Use the name that the message suggests (`adder lint --fix` does), or declare it in the contract.',
    variants: {
      misnamed: (f: { name: string; mistake: string; right: string; rendersOnServer: boolean }) => ({
        message: `${f.name} is undefined here: ${f.mistake}${f.rendersOnServer ? ' (it works in the server render)' : ''}`,
        remedy: `write ${f.right}`,
      }),
      undeclared: ({ name, near, right }: { name: string; near: readonly string[]; right?: string }) => ({
        message: `${name} is undefined here: it is not in the contract`,
        remedy:
          near.length === 0
            ? 'declare it in the contract, or remove the read'
            : `did you mean ${joinWords(near, 'or')}? ${right === undefined ? '' : `Then write ${right}. `}Otherwise declare ${name} in the contract`,
      }),
      server: ({ name, near }: { name: string; near: readonly string[] }) => ({
        message: `${name} is not in the contract`,
        remedy:
          near.length > 0
            ? `did you mean ${joinWords(near, 'or')}? Otherwise declare it: ${name}: server`
            : `declare it: ${name}: server`,
      }),
      app: ({ name, near }: { name: string; near: string }) => ({
        message: `${name} is not in the contract`,
        remedy: `did you mean ${near}?`,
      }),
    },
  },
  'code/unreachable-read': {
    meaning: 'code reads a value in a way that its build never replaces',
    help: 'A build replaces literal reads: `process.env.NAME`. Few builds replace `process.env[key]` or `const { NAME } = process.env`, and none replaces the object of another tool (`process.env` in Vite). Such code may work on the server and is undefined in the browser. Write the read as the remedy shows.',
    variants: {
      elsewhere: ({ name, because }: { name: string; because: string }) => ({
        message: `reads ${name}, but ${because}`,
        remedy: 'remove the read, or add this bundle to `bundles` of the variable',
      }),
      computed: ({
        kind,
        right,
        isVersionDependent,
      }: {
        kind: string;
        right: string;
        isVersionDependent: boolean;
      }) => ({
        message: `${isVersionDependent ? 'only some builds replace' : 'no build replaces'} this read: ${kind}`,
        remedy: `write a literal read, such as ${right}`,
      }),
      assigned: ({ name }: { name: string }) => ({
        message: `writes ${name}, but a build replaces reads of it by its own value`,
        remedy: 'use a variable of your own',
      }),
      copied: ({
        read,
        tool,
        path,
        isUncertain,
        isServed,
      }: {
        read: string;
        tool: string;
        path: string;
        isUncertain: boolean;
        isServed: boolean;
      }) => ({
        message: `${read} ${isUncertain ? 'may be' : 'is'} undefined here: ${tool} copies ${isServed ? 'this directory' : 'a script that code starts by its address'}`,
        remedy: isServed
          ? `move ${path} to the code that is built, or pass the value: in the address, or by a message`
          : `make ${path} an entry of the build, or pass the value: in the address, or by a message`,
      }),
      guarded: ({ name, object }: { name: string; object: string }) => ({
        message: `${name} is read only where there is a \`process\`, and a browser has none`,
        remedy: `remove the check: the build replaces ${object}.${name} by its value`,
      }),
      uncertain: (f: WrongRead) => ({
        message: `${f.name} is read through a name that may mean another object by then, so the plugin stops the build`,
        remedy: write(f),
      }),
      object: (f: WrongRead & { bundle: string; tool: string; object: string; objects: readonly string[] }) => ({
        message: `the build of ${f.bundle} does not replace ${f.object} (${f.tool} replaces ${joinWords(f.objects)}), so ${f.name} is not inlined here`,
        remedy: write(f),
      }),
      form: (f: WrongRead & { how: string; tool: string; some?: 'builds' | 'versions' | undefined }) => ({
        message: `${f.name} is ${f.how}, ${
          f.some
            ? `which not every ${f.some === 'builds' ? 'build' : `version of ${f.tool}`} replaces`
            : `but ${f.tool} replaces only literal reads`
        }`,
        remedy: write(f),
      }),
      prefix: (f: WrongRead & { object: string; prefixes: readonly string[] }) => ({
        message: otherPrefix(f),
        remedy: write(f),
      }),
      rename: (f: { name: string; object: string; prefixes: readonly string[] }) => ({
        message: otherPrefix(f),
        remedy: `give it a name that starts with ${joinWords(f.prefixes, 'or')}, in the contract too`,
      }),
      'not-known': ({ bundle, names }: { bundle: string; names: readonly string[] }) => ({
        message: `this configuration computes what it passes to code, so lint cannot tell whether ${bundle} gets ${joinWords(names)}`,
        remedy: 'build, and run `adder inspect`: it reports each value that is missing in the output',
      }),
      unlisted: ({
        name,
        bundle,
        fix,
        plugin,
      }: {
        name: string;
        bundle: string;
        fix: string;
        plugin?: string | undefined;
      }) => ({
        message: `the configuration of ${bundle} does not inline ${name}, so a browser does not get it`,
        remedy: plugin === undefined ? fix : `${fix}, or the Adder plugin (${plugin})`,
      }),
      'at-run': (f: { variable: string; reach: string; on: 'desktop' | 'mobile'; instead: string }) => ({
        message: `${f.variable} is read when the app runs, but ${f.on === 'desktop' ? 'an app that is started from the desktop' : 'an app on a phone'} does not have it`,
        remedy: f.reach === 'public' ? f.instead : 'move what needs it to a server',
      }),
    },
  },
  'code/whole-object': {
    meaning: 'code uses the whole environment object',
    help: 'Examples: `console.log(process.env)`, `{ ...import.meta.env }`, `JSON.stringify(process.env)`. In a bundle, the object is empty or contains every value that the tool exposes; on a server, it puts every secret into a log or a response. `process.env[request.query.name]` on a server is an error: the request chooses what it reads. Read only the names that the code needs.',
    variants: {
      computed: ({ tool, right }: { tool: string; right: string }) => ({
        message: `the name is computed, so ${tool} puts every public value here`,
        remedy: `write a literal read, such as ${right}`,
      }),
      carried: (f: WrongRead & { how: string; tool: string; isVersionDependent: boolean }) => ({
        message: `${f.name} is ${f.how}: ${f.isVersionDependent ? `some versions of ${f.tool} then put` : `${f.tool} then puts`} every public value here, and only some minifiers drop the unused ones`,
        remedy: write(f),
      }),
      tested: ({ object, versions }: { object: string; versions: string }) => ({
        message: `\`${object} && …\` puts every public value here in builds by ${versions}; other versions do not`,
        remedy: `test it with \`${object}?.NAME\``,
      }),
      sent: ({ object, isComputed, to }: { object: string; isComputed: boolean; to: Destination }) => ({
        message: `${isComputed ? `any variable of ${object}, chosen at run time,` : `all of ${object}`} ${destinations[to]}, including every secret in it`,
        remedy: 'use only the values that are needed',
      }),
      passed: ({ read, bundle }: { read: string; bundle: string }) => ({
        message: `the configuration passes the whole environment to the code of ${bundle}${read === '' ? '' : ` as ${read}`}, with every secret that the build has`,
        remedy: 'pass only the names that the code needs, each of them by name',
      }),
      'passed-part': ({ bundle }: { bundle: string }) => ({
        message: `the configuration passes values to the code of ${bundle} that it takes from a text; only a build tells which`,
        remedy: 'run `adder trial`, which shows what arrives; or pass each name by name',
      }),
      request: ({ object }: { object: string }) => ({
        message: `a request chooses the name that is read from ${object}, so it can ask for every secret`,
        remedy: 'read each allowed name literally, and answer every other name with an error',
      }),
      browser: ({ object }: { object: string }) => ({
        message: `uses all of ${object}: some builds inline every value that they have, others some or none`,
        remedy: 'read only the names that the code needs',
      }),
    },
  },
  'code/no-server': {
    meaning: 'a file answers requests, and the app ships as static files',
    help: 'A build with `output: "export"`, a static adapter, a static output or `nuxt generate` has no server. It may write what GET requests answer into files; nothing answers others after the release. A dev server answers them all, so this is seen late.',
    variants: {
      route: ({ methods, bundle }: { methods: string; bundle: string }) => ({
        message: `this file answers ${methods}, but ${bundle} ships as static files, without a server`,
        remedy: 'move it to a server or to a function of the host, or build with a server',
      }),
    },
  },
  'code/hard-coded': {
    meaning: "a stage's value, or a local or private URL, is hard-coded",
    help: 'Example: `fetch("https://api.saltmarsh.example/fares")` in a source file makes the build of every stage use production. `http://localhost:4180` is the visitor\'s own machine. Read the variable that the message names, or declare one.',
    variants: {
      stages: ({ path, stages }: { path: string; stages: readonly string[] }) => ({
        message: `${path} ships the values of every stage: ${joinWords(stages)}`,
        remedy: 'to ship only one stage, move the values to env files and read them by name',
      }),
      value: ({ variable, stages, right }: { variable: string; stages: readonly string[]; right: string }) => ({
        message: `hard-coded value of ${variable} in ${joinWords(stages)}: every stage gets it`,
        remedy: `read ${right}`,
      }),
      base: (f: { variable: string; stages: readonly string[]; base: string; right: string }) => ({
        message: `hard-coded base of ${f.variable} in ${joinWords(f.stages)}, ${f.base}: every stage gets it`,
        remedy: `derive it from ${f.right}`,
      }),
      'local-url': ({ url }: { url: string }) => ({
        message: `hard-coded local or private URL: ${url}`,
        remedy: 'read a variable, and set its value for each stage in a layer',
      }),
      repeated: ({ url, number }: { url: string; number: number }) => ({
        message: `hard-coded in ${number} places, and in no variable: ${url}`,
        remedy: 'declare a public variable with `form: url`, and read it',
      }),
    },
  },
  'code/fallback': {
    meaning: 'a fallback in code hides a missing value',
    help: 'Example: `import.meta.env.VITE_FERRY_API_URL ?? "http://localhost:4180"`. If the value is missing, the build succeeds and ships the fallback. Remove the fallback, so that `adder with` refuses the build, or move it to `default` in the contract.',
    variants: {
      fallback: ({ name }: { name: string }) => ({
        message: `this fallback hides a missing ${name}: a build would ship it without a message`,
        remedy: 'remove it, so that a missing value stops the build, or set `default` in the contract',
      }),
      stage: ({ name, text, stages }: { name: string; text: string; stages: readonly string[] }) => ({
        message: `\`adder with\` does not set ${name}, so this configuration takes ${text} for ${joinWords(stages)}`,
        remedy: `read ADDER_STAGE instead, which is the stage that \`adder with\` was asked for; or declare ${name}: build, and set it in the layers of each stage`,
      }),
    },
  },
  'code/switched-by-comment': {
    meaning: 'one value is used, and those of other stages are commented out beside it',
    help: "Example: three lines with the URLs of three stages, two of them commented out. One day the wrong one ships. Set each stage's value in a layer, and read the variable.",
    variants: {
      comments: ({ name, number }: { name: string; number: number }) => ({
        message: `${name} is switched by comments: ${number === 1 ? 'another value is' : `${number} other values are`} commented out beside it`,
        remedy: "set each stage's value in a layer, read the variable, and remove the comments",
      }),
    },
  },
  'code/secret-in-code': {
    meaning: 'a secret is hard-coded in source code',
    help: "A source file contains the value of a build or server variable, or a string with the shape of a service's secret key. Everybody who has the repository has it. Read it from the environment, and rotate it: assume it is known.",
    variants: {
      value: (f: { variable: string; stages: readonly string[]; encodings: readonly string[] }) => ({
        message: `hard-coded value of ${f.variable} in ${joinWords(f.stages)}${f.encodings.length > 0 ? `, as ${joinWords(f.encodings)}` : ''}`,
        remedy: `read ${f.variable} from the environment, and rotate it: assume it is known`,
      }),
      named: ({ name }: { name: string }) => ({
        message: `${name} is a random text in the source code, and its name says that it is a secret`,
        remedy:
          'read it from the environment, and rotate it: assume it is known; accept the finding if anybody may know it',
      }),
      token: ({ shape }: { shape: string }) => ({
        message: `hard-coded ${shape}`,
        remedy: 'read it from the environment, and rotate it: assume it is known',
      }),
    },
  },
  'code/unset': {
    meaning: 'code needs a variable that a stage has no value for',
    help: 'The contract does not require a value, no layer of the stage has a value, there is no `default`, and the code has no fallback and does not test the value: it is undefined, unless the machine that builds sets it. Often the name is misspelt, or the value was never added after the code was written.',
    variants: {
      nowhere: ({ variable, near }: { variable: string; near: readonly string[] }) => ({
        message: `no stage has a value of ${variable}, so it is undefined here, unless the machine that builds sets it${near.length > 0 ? `; similar names: ${joinWords(near)}` : ''}`,
        remedy: `add ${variable} to a layer, give it a \`default\` in the contract, or a fallback in the code; if the name is wrong, correct it here and remove it from the contract`,
      }),
      stages: ({ variable, stages }: { variable: string; stages: readonly string[] }) => ({
        message: `${variable} has no value in ${joinWords(stages)}, so it is undefined here in a build of it, unless the machine that builds sets it`,
        remedy: `add ${variable} to a layer of ${joinWords(stages)}, give it a \`default\` in the contract, or a fallback in the code`,
      }),
    },
  },
  'code/unused': {
    meaning: 'no code of its bundles reads a declared variable',
    help: 'Public and build variables are meant for code. Remove the variable from the contract and the layers, or find out why the code no longer reads it. If a dependency or a configuration outside `code` reads it, accept the finding.',
    variants: {
      unread: ({ variable }: { variable: string }) => ({
        message: `no code of its bundles reads ${variable}`,
        remedy: 'remove it from the contract and the layers if nothing needs it',
      }),
    },
  },
  'code/unread': {
    meaning: 'a source file could not be parsed completely',
    help: 'The parser does not understand this JavaScript, TypeScript, Dart or component file, so its environment reads are unknown. The place is where the parser stopped.',
    variants: {
      syntax: ({ problem }: { problem: string }) => ({
        message: `cannot parse the file completely: ${problem.charAt(0).toLowerCase()}${problem.slice(1)}`,
        remedy: 'fix it, or remove it from `code` of the bundle',
      }),
    },
  },
});

function otherPrefix({
  name,
  object,
  prefixes,
}: {
  name: string;
  object: string;
  prefixes: readonly string[];
}): string {
  return `${object} has only names that start with ${joinWords(prefixes, 'or')}, so ${name} is undefined here`;
}
