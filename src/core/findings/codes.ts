import { table } from '../text/table.js';

/** From the gravest. */
export const levels = ['error', 'warning', 'note'] as const;
export type Level = (typeof levels)[number];

/** One kind of finding. The reference page is generated from this table. */
export interface CodeEntry {
  level: Level;
  /** One line, without a full stop. */
  meaning: string;
  /** Explanation, example and remedy, in sentences. */
  help: string;
}

export const codes = table({
  'contract/unreadable': {
    level: 'error',
    meaning: 'the contract has a mistake',
    help: '`adder.yaml` is not valid YAML, or an entry has an invalid value. Adder uses no part of a contract that it does not understand completely. Example: `reach: pubic`. Fix each line; all mistakes are reported together.',
  },
  'contract/unknown-key': {
    level: 'error',
    meaning: 'the contract has an unknown key',
    help: 'Ignoring an unknown key would silently drop a rule. Example: `requird: true`. Use the key that the message suggests, or remove the line.',
  },
  'contract/risky-public': {
    level: 'error',
    meaning: "a public variable has a secret's name, or a value with a secret's shape",
    help: 'Anybody can read a public value. Example: `PAYMENT_SECRET: public`, or a private key in a public variable. Change the reach to build or server. If the value really is public, accept the finding, or change the level of this code.',
  },
  'contract/undecided': {
    level: 'note',
    meaning: 'a drafted contract needs a decision',
    help: '`adder draft` gives a variable without evidence the reach server, and reports what speaks against that: a secret-like name with a public prefix, one value in two stages, a file that no tool reads. Decide, and edit `adder.yaml`.',
  },
  'contract/expired-acceptance': {
    level: 'warning',
    meaning: 'an acceptance has expired',
    help: 'The finding counts again from the day after `until`. Fix the finding, or set a later date.',
  },
  'contract/unused-acceptance': {
    level: 'warning',
    meaning: 'an acceptance matches no finding',
    help: 'Only calls that check everything report this. The accepted finding was fixed, or its place was renamed. Remove the acceptance, so that it cannot hide a later finding.',
  },
  'file/syntax': {
    level: 'error',
    meaning: 'a line of an env file cannot be parsed',
    help: 'A line is blank, a comment, or `NAME=value`. Examples: `MY-NAME=1`, or a quote that is never closed. The other lines still count. `$(...)` and backticks are never executed.',
  },
  'file/encoding': {
    level: 'error',
    meaning: 'an env file is not plain UTF-8',
    help: 'Programs read UTF-16, NUL bytes and invalid UTF-8 differently. Save the file as UTF-8 without a byte-order mark. A byte-order mark alone is a warning.',
  },
  'file/read-by-tool': {
    level: 'warning',
    meaning: 'the build tool loads an env file itself, and takes more from it than Adder provides',
    help: 'Many tools load env files beside the code. For a name that Adder provides, the environment wins over the file. A line with the public prefix that is not in the contract is inlined anyway. Remove such lines, or move them to a file that the tool does not load. In Vite, `envDir: false` and the Adder plugin turn the loading off.',
  },
  'value/withheld': {
    level: 'warning',
    meaning: "a build's configuration reads a name that is set here, but that `adder with` withholds from the build",
    help: 'A build gets the values of its bundle, a short list of usual names, and the names under `passes`. Names that a pipeline sets, such as `GITHUB_SHA`, belong into `passes`. Declare a name with a value of the project as a variable.',
  },
  'value/missing': {
    level: 'error',
    meaning: 'a required variable has no value in this stage',
    help: 'No layer of the stage sets the name, and the contract has no default. Add a line to the layer that the message names, or set `required: false`.',
  },
  'value/malformed': {
    level: 'error',
    meaning: 'a value does not match its form',
    help: 'The message says what is wrong without showing the value. Example: a `url` without a scheme. Fix the value, or the form in the contract.',
  },
  'value/empty': {
    level: 'error',
    meaning: 'a required variable is empty',
    help: '`NAME=` is an empty value, which is different from no value: a default does not replace it. Set a value, remove the line, or set `required: false`.',
  },
  'value/untidy': {
    level: 'warning',
    meaning: 'a line of an env file probably does not mean what its author intended',
    help: 'Adder accepts white space around `=` (a note); a shell does not. A lone carriage return is part of the value. Example: `NAME = value`. Remove the spaces, so that every program agrees.',
  },
  'value/shadowed': {
    level: 'warning',
    meaning: 'the process environment wins over a different value in a file',
    help: 'The shell that started Adder has the variable, often from an earlier `export`. Unset it, or change the file, so that they agree.',
  },
  'value/duplicate': {
    level: 'warning',
    meaning: 'a name is set twice in one file',
    help: 'The later line wins. Programs differ on this, so remove one of the lines.',
  },
  'value/ambiguous': {
    level: 'warning',
    meaning: 'programs disagree about a line of an env file',
    help: 'A shell, a container runtime or a service manager may read the same file by other rules. Examples: `GREETING=Mind the tide` is a value here and a command in a shell; in `LIST="a b"`, a container keeps the quotes. A different reading by a shell is a warning; a difference that only concerns plain readers of quotes, comments, references and `export` is a note. Write the line as the message says, or ignore the finding if no other program reads the file.',
  },
  'value/undeclared': {
    level: 'warning',
    meaning: 'a file sets a name that is not in the contract',
    help: 'An undeclared name counts as server: no build gets it, and `inspect` searches artifacts for its value. Declare it, or remove the line.',
  },
  'value/cycle': {
    level: 'error',
    meaning: 'values refer to each other in a circle',
    help: 'The message shows the chain. Example: `A=$B` and `B=$A`. Write one of the values without a reference.',
  },
  'value/not-distinct': {
    level: 'error',
    meaning: 'two stages share a secret, or a value that must differ',
    help: "An error if the contract says `distinct: true`. A warning for a secret of a stage that ships, unless it says `distinct: false`. A key that staging and production share is only as safe as the weaker one, and a shared URL sends one stage's traffic to the other. Give one of them its own value, or remove `distinct`.",
  },
  'value/not-same': {
    level: 'error',
    meaning: 'two stages differ in a value that must be equal',
    help: 'Set the value once, in a layer that both stages have, or remove `same`.',
  },
  'value/old-name': {
    level: 'warning',
    meaning: 'a layer uses an old name of a variable',
    help: 'The name is listed under `aka`, so the value counts. Rename the line, then remove the old name from `aka`.',
  },
  'value/placeholder': {
    level: 'warning',
    meaning: 'a stage that ships has an example or "change me" value',
    help: "The value is the contract's example, or a usual placeholder. Set the real value.",
  },
  'value/unknown-reference': {
    level: 'error',
    meaning: 'a value refers to a name that is not set',
    help: 'No layer of the stage sets the name. Set it, or write a fallback: `${NAME:-text}`.',
  },
  'value/widened': {
    level: 'error',
    meaning: 'a value refers to a value of narrower reach',
    help: 'A public value that contains a server value would publish it, so no build gets it. An undeclared name counts as server. Declare the inner name with its reach, or write its text instead of the reference.',
  },
  'repo/misnamed': {
    level: 'warning',
    meaning: 'a layer is missing, and a file beside it has nearly its name',
    help: 'Examples: `.env.txt`, saved by an editor that adds an extension, or `.evn`. Rename the file, or list it in the layers of the stage.',
  },
  'code/server-read': {
    level: 'error',
    meaning: 'code that reaches the browser reads a build or server variable, or server code sends its value there',
    help: 'Everybody who opens the page would have the value. Examples: a helper that reads `process.env.FARE_SIGNING_KEY` and is imported, through two other files, by `src/main.ts`; or a handler that returns it. The finding shows the chain of imports from the entry. Move the read into code that runs on the server. If anybody may know the value, change its reach to public.',
  },
  'code/unknown-name': {
    level: 'error',
    meaning: 'code reads a name that its bundle does not have',
    help: 'The build leaves `undefined` there without a message. Examples: `import.meta.env.FERRY_API_URL` without the prefix `VITE_`, `VITE_VITE_FERRY_API_URL`, `NEXT_PUBLIC_FERRY_API_URL` in a Vite bundle, or a typo. Use the name that the message suggests (`adder lint --fix` does), or declare it in the contract.',
  },
  'code/unreachable-read': {
    level: 'warning',
    meaning: 'code reads a value in a way that its build never replaces',
    help: 'A build replaces literal reads: `process.env.NAME`. Few builds replace `process.env[key]` or `const { NAME } = process.env`, and none replaces the object of another tool (`process.env` in Vite, `import.meta.env` in webpack). Such code may work on the server and is undefined in the browser. Write the read as the remedy shows.',
  },
  'code/whole-object': {
    level: 'warning',
    meaning: 'code uses the whole environment object',
    help: 'Examples: `console.log(process.env)`, `{ ...import.meta.env }`, `JSON.stringify(process.env)`. In a bundle, the object is empty or contains every value that the tool exposes; on a server, it puts every secret into a log or a response. `process.env[request.query.name]` on a server is an error: the request chooses what it reads. Read only the names that the code needs.',
  },
  'code/hard-coded': {
    level: 'warning',
    meaning: "a stage's value, or a local or private URL, is hard-coded",
    help: 'Example: `fetch("https://api.saltmarsh.example/fares")` in a source file makes the build of every stage use production. `http://localhost:4180` is the visitor\'s own machine. Read the variable that the message names, or declare one.',
  },
  'code/fallback': {
    level: 'warning',
    meaning: 'a fallback in code hides a missing value',
    help: 'Example: `import.meta.env.VITE_FERRY_API_URL ?? "http://localhost:4180"`. If the value is missing, the build succeeds and ships the fallback. Remove the fallback, so that `adder with` refuses the build, or move it to `default` in the contract.',
  },
  'code/switched-by-comment': {
    level: 'warning',
    meaning: 'one value is used, and those of other stages are commented out beside it',
    help: "Example: three lines with the URLs of three stages, two of them commented out. One day the wrong one ships. Set each stage's value in a layer, and read the variable.",
  },
  'code/secret-in-code': {
    level: 'error',
    meaning: 'a secret is hard-coded in source code',
    help: "A source file contains the value of a build or server variable, or a string with the shape of a service's secret key. Everybody who has the repository has it. Read it from the environment, and rotate it: assume it is known.",
  },
  'code/unused': {
    level: 'note',
    meaning: 'no code of its bundles reads a declared variable',
    help: 'Public and build variables are meant for code. Remove the variable from the contract and the layers, or find out why the code no longer reads it. If a dependency or a configuration outside `code` reads it, accept the finding.',
  },
  'code/unread': {
    level: 'warning',
    meaning: 'a source file could not be parsed completely',
    help: 'The parser does not understand this JavaScript, TypeScript, Dart or component file, so its environment reads are unknown. The place is where the parser stopped.',
  },
  'repo/tracked': {
    level: 'error',
    meaning: 'git tracks a file with secrets',
    help: 'An env file with build or server values, or a private key, is tracked: everybody who has the repository has it. Remove it from the index (`git rm --cached FILE`), ignore it, and rotate the values, because they stay in the history.',
  },
  'repo/not-ignored': {
    level: 'warning',
    meaning: 'git does not ignore a file for secrets',
    help: 'The next `git add .` would add it. Add the line in the remedy to `.gitignore`. Layers that do not exist yet are checked too, because somebody will create them.',
  },
  'repo/in-history': {
    level: 'error',
    meaning: 'the git history contains an env file, or a current value',
    help: 'A removed file is still in every clone. Rotate the values that it contained; nothing else helps. Rewriting the history does not change existing clones.',
  },
  'repo/example-drift': {
    level: 'warning',
    meaning: 'the example file does not match the contract',
    help: 'New team members copy the example file. It lacks a name, has one that is not in the contract, or contains a real value. Run `adder emit example --save .env.example` to write it again; `--check` keeps it up to date.',
  },
  'repo/packed': {
    level: 'error',
    meaning: 'something that ships includes an env file',
    help: 'Examples: an app manifest that lists `.env` among its assets, an env file in a public directory, `COPY . .` in a container file whose ignore file lacks env files, `files` of a package manifest. Exclude the file. As a warning: a pipeline stores a build cache, which may contain build values.',
  },
  'repo/pipeline-gap': {
    level: 'warning',
    meaning: 'a pipeline builds a stage and does not provide what the stage needs',
    help: 'The workflow does not set a required variable that no file in the repository has, sets it under a misspelt name, or never names the stage. `adder emit needs --stage STAGE` lists what a pipeline must provide.',
  },
  'repo/literal-in-pipeline': {
    level: 'error',
    meaning: 'a secret is hard-coded in a pipeline or hosting file',
    help: 'A workflow file contains the value of a build or server variable. Move it to the secret store of the pipeline, refer to it there, and rotate it.',
  },
  'repo/dependency-reads': {
    level: 'note',
    meaning: 'a dependency in the bundle reads environment variables',
    help: 'A package reads `process.env.NAME`. Where the build does not replace it, it is undefined or throws. Most packages read only NODE_ENV, to drop development code; `adder with` sets it.',
  },
  'leak/known-value': {
    level: 'error',
    meaning: 'an artifact contains the value of a build or server variable',
    help: 'Everybody who has the artifact has the value, in whatever encoding. Remove the read from code that ships, rebuild, and rotate the value: assume that it has been known since the artifact first shipped.',
  },
  'leak/setting': {
    level: 'note',
    meaning: 'an artifact contains a build or server value that grants no access',
    help: 'Examples: a host name, a path, a locale, a plain word. Such text may have another origin, so each variable is reported once. Declare it public if browsers may know it, set `search: always` if it is a secret, or `search: never` to ignore it.',
  },
  'leak/part-of-value': {
    level: 'error',
    meaning: 'an artifact contains a part of a build or server value that is often used alone',
    help: 'Such parts are the user name and password of a URL, the strings of a JSON document, the lines of a key, the last part of a token, and a long beginning or end of a value. Fix it as a whole value. With `secret-parts: false` in the contract, only whole values of a variable are searched for.',
  },
  'leak/token-shape': {
    level: 'error',
    meaning: 'an artifact contains a token of a known form that the contract does not have',
    help: 'The forms are those of public services and of general kinds: private keys, connection strings, signed web tokens. A secret one was hard-coded, or came from a variable that the contract does not declare: take it out of what ships, and revoke it at its service. A publishable one is a note: declare it public, so that each stage has its own.',
  },
  'leak/random-text': {
    level: 'warning',
    meaning: 'an artifact contains text that looks like a key, beside a name that says so',
    help: 'Nothing but its characters and the name beside it says that it is a secret, so this is a warning. If it is one, take it out of what ships and replace it. If it may be public, declare it as a public variable.',
  },
  'leak/env-file': {
    level: 'error',
    meaning: 'an artifact is or contains an env file',
    help: 'It was copied with other files, imported as text, or packed into an app. Find what does that (a public folder, an asset rule, an import with `?raw`), and remove it from what ships. Then rotate every secret in it.',
  },
  'leak/private-file': {
    level: 'error',
    meaning: 'an artifact is or contains a file that nobody outside may have',
    help: 'Key stores, private keys and files of credentials are errors; repositories and directories of editors are warnings, because some projects publish from one. A public folder or an asset rule copied it. Exclude it there. Whoever has a key can act as its owner, so replace it.',
  },
  'leak/env-dump': {
    level: 'error',
    meaning: 'an artifact contains the environment of the build',
    help: 'A define option or a plugin was given all of `process.env`, so every secret of the build machine may be in it. Name single variables instead, rebuild, and rotate the secrets.',
  },
  'leak/name': {
    level: 'note',
    meaning: 'code for browsers contains the name of a build or server variable',
    help: 'Its value is not there, but the code shows that it exists, and often what for. Code that only a server needs should not be in the bundle.',
  },
  'leak/build-machine': {
    level: 'warning',
    meaning: 'an artifact contains the path of a directory of this machine, or its host name',
    help: 'Such paths contain names of people and show how a project is laid out. They come from source maps with absolute paths, from development builds, and from code that uses `__dirname`.',
  },
  'leak/source-in-map': {
    level: 'warning',
    meaning: 'a source map ships the code of server-only modules, or ships although the contract forbids it',
    help: 'A map contains the text of its sources with comments. Modules below `server-code` of the contract must not be in it: find what imports them in code for browsers. With `source-maps: forbidden` for a bundle, its output must contain no map: turn maps off, or move them elsewhere before the files ship.',
  },
  'stale/receipt': {
    level: 'error',
    meaning: 'an artifact was built from values that have changed',
    help: "The receipt has another fingerprint for the variable than the stage's current value. Rebuild. A warning says that the files are not those that the receipt describes.",
  },
  'stale/past-value': {
    level: 'error',
    meaning: 'an artifact still contains a value from before a change',
    help: 'The build recorded the place, and the file has not changed since: rebuild and ship the new files; browsers may have cached the old ones. If a build with the current value left the old one in, another rebuild does not help. The remedy then names where it comes from: a hard-coded string, a generated file or a cache.',
  },
  'stale/missing-value': {
    level: 'warning',
    meaning: 'a value that the code reads is nowhere in the output',
    help: 'The output was built for another stage, without its define file, or by a tool that does not replace the read; or its files were changed since the receipt was written. Rebuild with `adder with`. If the value is still missing, `adder lint` shows what is wrong with the read. Flags, numbers and short words are not checked: a minifier may leave no trace of them.',
  },
  'stale/runtime-file': {
    level: 'error',
    meaning: 'the load-time values file does not match the stage',
    help: 'One build serves all stages, and the values file beside it selects the stage. Write it again with `adder emit runtime --stage STAGE --into DIST`; no rebuild is needed.',
  },
  'read/unreplaced': {
    level: 'error',
    meaning: 'the build left a read of a public variable in code that ships',
    help: 'Example: `import.meta.env.VITE_FERRY_API_URL` in a script of the output. A browser has no such object, so the script throws there; a placeholder such as `%VITE_TITLE%` in a page stays visible. The bundler has no define option for the name, or the module was not built at all. Strings and comments do not count.',
  },
  'stage/foreign-value': {
    level: 'error',
    meaning: "an artifact contains another stage's value",
    help: "This stage's artifact contains the value that the variable has in another stage. Rebuild it for the right stage: `adder with STAGE`.",
  },
  'stage/local-address': {
    level: 'warning',
    meaning: 'code that ships uses an address that only one machine or network has',
    help: "Examples: `http://localhost:3000`, `http://192.168.1.20`. Visitors' browsers look for it on their own machine or network. Read the address from a public variable with a value for each stage. In a desktop app, which may have a server of its own, this is a note. Stages whose own public values have such an address are not checked, nor are packages, as far as source maps show them.",
  },
  'stage/development-build': {
    level: 'warning',
    meaning: 'a stage that ships has a development build',
    help: 'Either the build left checks of `process.env.NODE_ENV` in the code, so that libraries contain their development version too, and may stop with an error where there is no `process`; or it was made for developers. Such code is larger, slower, and explains its inner workings. Stages with `build-as: development`, and those named like a development or test stage, are not checked.',
  },
  'serve/missing-file': {
    level: 'error',
    meaning: 'a page loads a file that is missing, or does not load its values file',
    help: '`adder probe` also reports scripts, style sheets, fonts and images that the site names and does not have. Values file: the app reads values when it loads, and stops with an error or has none. `adder emit runtime --stage STAGE --into DIST` writes the file and adds it to every page. Run it after each build, because a build writes the pages again.',
  },
  'serve/late-runtime-file': {
    level: 'error',
    meaning: 'a page may run a script before its values are loaded',
    help: 'The tag of the values file must come before every script of the page, without async or defer. `adder emit runtime --into DIST` puts it there.',
  },
  'serve/blocked-runtime-file': {
    level: 'error',
    meaning: 'a browser will block the values file',
    help: "The digest in the page belongs to another file, or the page's content security policy forbids the file. Allow `'self'` or the digest in `script-src`.",
  },
  'serve/cached-runtime-file': {
    level: 'warning',
    meaning: 'the name of the values file does not change with its content',
    help: 'Browsers and proxies may keep using the old file under a fixed name. `adder emit runtime --into DIST` puts a digest into the name.',
  },
  'serve/wrong-type': {
    level: 'error',
    meaning: 'a site sends a script or style sheet with a type that browsers refuse',
    help: 'Often the file is missing and the server answers with the start page and status 200. Deploy all files of the build, and answer missing files with 404. Otherwise send the right `content-type`.',
  },
  'serve/cross-origin': {
    level: 'error',
    meaning: 'a module or font is on another host that does not allow the page to use it',
    help: 'Browsers refuse modules, fonts and files with `crossorigin` or `integrity` from another host without the header `access-control-allow-origin`. The message names the host and the value.',
  },
  'serve/long-cache': {
    level: 'warning',
    meaning: 'browsers may keep a file whose name does not change with its content',
    help: 'After a deployment, browsers with the old page load files that are gone, or keep showing the old values. Send `cache-control: no-cache` for pages and for files without a digest in their names; files with a digest may be kept for ever.',
  },
  'serve/kept-by-worker': {
    level: 'warning',
    meaning: 'a service worker keeps a values file under a fixed name',
    help: 'Browsers get the file from the service worker, whatever the server sends. Leave it out of the list of kept files, or use a name with a digest (`adder emit runtime --into DIST`).',
  },
  'serve/out-of-date': {
    level: 'error',
    meaning: 'a site serves an older build, or a build for another stage',
    help: 'The digests of the served files are those of a receipt that is not the newest one of the stage. Deploy the current build.',
  },
  'serve/mixed-builds': {
    level: 'error',
    meaning: 'a site serves files of several builds',
    help: 'A deployment is not finished, or a cache in front of the site keeps old files. An app of two builds may stop with errors, or use the values of both.',
  },
  'serve/env-file': {
    level: 'error',
    meaning: 'a site answers a path that only developers may read',
    help: 'An env file, the contract, a receipt or a version control directory was copied to the server, or the server serves the project directory. Remove it, serve only the output directory, and replace every secret in it: assume that it is known.',
  },
  'serve/secret-in-answer': {
    level: 'error',
    meaning: 'an answer contains a secret, in its body or a header',
    help: 'For paths given with `--also`, and for headers of all answers. The message names the header. Remove the value from the answer, then rotate it.',
  },
  'serve/lost-in-browser': {
    level: 'error',
    meaning: 'a value is in the page that the server sends, and gone after the app starts',
    help: 'Found by `adder probe --browser`. The server reads the value from its environment, and the browser code reads `undefined` and renders again. Read it from the public runtime configuration of the framework, or inline it.',
  },
  'host/missing': {
    level: 'error',
    meaning: 'a host lacks a name that it must have',
    help: 'The server or the build on this host gets no value: the code reads `undefined`, or the build is refused. `adder handoff STAGE --apply` sets it if the contract describes how (`hosts.NAME.set`).',
  },
  'host/misspelt': {
    level: 'error',
    meaning: 'a host has a name that nothing reads, beside one that is missing',
    help: 'Examples: `FERRY_AP_URL` for `FERRY_API_URL`, an older name (`aka`), or a name with the prefix that only code reads. Set the right name, and remove the other one from the host.',
  },
  'host/different': {
    level: 'error',
    meaning: "a host has another value than the stage's own layers",
    help: 'Builds and servers on the host use a value that this machine does not. Decide which one is right. Hidden values are compared by name only.',
  },
  'host/malformed': {
    level: 'error',
    meaning: 'a value on a host does not match its form',
    help: 'The message says what is wrong without showing the value. Example: quotes or a line break that were pasted into a console.',
  },
  'host/wrong-scope': {
    level: 'error',
    meaning: 'a host has a name, but what needs it does not get it',
    help: 'Example: a public value that only the running server gets is `undefined` at build time. Set it for builds too.',
  },
  'host/exposed': {
    level: 'error',
    meaning: 'a host gives a server value to builds',
    help: 'Many tools inline any name of the build environment that code mentions, and print it in logs. Let only the running server have it.',
  },
  'host/extra': {
    level: 'note',
    meaning: 'a host has a name that is not in the contract',
    help: 'It may be a leftover. Declare it, or remove it from the host. Names of tools and platforms are not reported.',
  },
} as const satisfies Record<string, CodeEntry>);

export type Code = keyof typeof codes;

/** A code; its first part is the group. */
export const codePattern = /^(contract|file|value|code|repo|leak|stale|stage|read|serve|host)\/[a-z]+(-[a-z]+)*$/;

/** Sorts the gravest first. */
export function compareLevels(a: Level, b: Level): number {
  return levels.indexOf(a) - levels.indexOf(b);
}

/** Whether a finding of this level makes the run fail under `--fail-on`. */
export function isAtLeast(level: Level, failOn: Level | 'never'): boolean {
  return failOn !== 'never' && compareLevels(level, failOn) <= 0;
}
