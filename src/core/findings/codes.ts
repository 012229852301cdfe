import { table } from '../text/table.js';

/** From the gravest. */
export const levels = ['error', 'warning', 'note'] as const;
export type Level = (typeof levels)[number];

/** One kind of thing that Adder says. The reference page is made from this table. */
export interface CodeEntry {
  level: Level;
  /** One line, without a full stop. */
  meaning: string;
  /** What it is, an example, and the remedy. */
  help: string;
}

export const codes = table({
  'contract/unreadable': {
    level: 'error',
    meaning: 'the contract has a mistake',
    help: 'adder.yaml is not YAML, or an entry in it is not what it has to be. Nothing is computed from a contract that is only partly understood. Example: `reach: pubic`. Put right each line that is shown; all mistakes are listed in one go.',
  },
  'contract/unknown-key': {
    level: 'error',
    meaning: 'the contract has a key that Adder does not know',
    help: 'A key that is passed over in silence would be a rule that nobody keeps. Example: `requird: true`. Use the nearest known key that the message names, or take the line out.',
  },
  'contract/risky-public': {
    level: 'error',
    meaning: "a public variable has a secret's name, or its value a secret's shape",
    help: 'Anybody can read a public value. Example: `STRIPE_SECRET: public`, or a private key in a public variable. Give it the reach build or server; where the name only looks like it, set the level of this code or accept the finding.',
  },
  'contract/undecided': {
    level: 'note',
    meaning: 'the draft of a contract needs a decision',
    help: 'adder draft takes what is unsure as server and says what speaks for something else: a name that looks like a secret and has the public prefix, one value in two stages, a file that no tool reads. Decide, and write it into adder.yaml.',
  },
  'contract/expired-acceptance': {
    level: 'warning',
    meaning: 'an acceptance has come to its end',
    help: 'The finding counts again from the day after `until`. Mend what it is about, or decide again and write a later day.',
  },
  'contract/unused-acceptance': {
    level: 'warning',
    meaning: 'an acceptance is for a finding that is not there',
    help: 'What it accepted is mended, or its place has another name now. Take it out, so that it does not hide the next one.',
  },
  'file/syntax': {
    level: 'error',
    meaning: 'a line of an env file is not in the grammar',
    help: 'A line is blank, a comment, or NAME=value. Example: `MY-NAME=1` or a quote that is never closed. The other lines of the file still count. `$(...)` and backticks are never run.',
  },
  'file/encoding': {
    level: 'error',
    meaning: 'an env file is not plain UTF-8',
    help: 'UTF-16, NUL bytes and invalid UTF-8 are read differently by every tool. Save the file as UTF-8 without a byte-order mark. A byte-order mark alone is a warning.',
  },
  'file/read-by-tool': {
    level: 'warning',
    meaning: 'the build tool reads an env file by itself, and takes from it what Adder does not give',
    help: 'Most tools read env files beside the code. A name that Adder gives wins over them, as the environment does; a line with the public prefix that the contract does not have goes into the bundle all the same. Take such lines out, or add the plugin of Adder, which switches that reading off where the tool has an option for it.',
  },
  'value/missing': {
    level: 'error',
    meaning: 'a required variable has no value in this stage',
    help: 'No layer of the stage offers the name and the contract has no default. Add a line to the layer that the message names, or say `required: false`.',
  },
  'value/malformed': {
    level: 'error',
    meaning: 'a value does not have the form that the contract gives it',
    help: 'The message says what is wrong without showing the value. Example: a `url` without a scheme. Mend the value, or the form in the contract.',
  },
  'value/empty': {
    level: 'error',
    meaning: 'a required variable is empty',
    help: '`NAME=` is an empty value, which is not the same as none: a default does not stand in for it. Give a value, take the line out, or say `required: false`.',
  },
  'value/untidy': {
    level: 'warning',
    meaning: 'a line is readable, but not as its author probably meant it',
    help: 'White space around `=` (a note) is accepted here and refused by a shell. A lone carriage return is part of the value. Example: `NAME = value`. Write it tightly, so that every reader agrees.',
  },
  'value/shadowed': {
    level: 'warning',
    meaning: "the process's environment wins over another value in a file",
    help: 'The shell that Adder was started in has the variable, often from an `export` of some time ago. Unset it there, or mend the file, so that they agree.',
  },
  'value/duplicate': {
    level: 'warning',
    meaning: 'a name is set twice in one file',
    help: 'The later line wins. Readers differ on this, so keep one of them.',
  },
  'value/ambiguous': {
    level: 'warning',
    meaning: 'other programs read a line of an env file in another way',
    help: 'The same file is often read by a shell, a container runtime or a service manager besides, and their rules differ. Example: `GREETING=Mind the tide` is a value here and a command for a shell; `LIST="a b"` has its quotes in a container. What a shell reads otherwise is a warning; what only the plain readers make of quotes, comments, references and `export` is a note. Write the line as the message says, or leave it where nothing else reads the file.',
  },
  'value/undeclared': {
    level: 'warning',
    meaning: 'a file sets a name that the contract does not have',
    help: 'What is not declared is for the server alone: no build gets it, and inspect looks for its value in artifacts. Declare it, or take the line out.',
  },
  'value/cycle': {
    level: 'error',
    meaning: 'values refer to one another in a circle',
    help: 'The message shows the chain. Example: `A=$B` with `B=$A`. Write one of them out.',
  },
  'value/not-distinct': {
    level: 'error',
    meaning: 'two stages share a secret, or a value that the contract says must differ',
    help: 'An error where the contract says `distinct: true`; a warning for a secret of a stage that ships, unless it says `distinct: false`. A key that staging and production share is as open as the weaker of the two; an address that they share sends one to the other. Give one of them a value of its own, or take `distinct` out.',
  },
  'value/not-same': {
    level: 'error',
    meaning: 'two stages differ in a value that the contract says is the same',
    help: 'Write it once, in a layer that both stages have, or take `same` out.',
  },
  'value/old-name': {
    level: 'warning',
    meaning: 'a layer still uses an older name of a variable',
    help: 'The name is listed under `aka`, so the value counts. Rename the line; then the old name can go.',
  },
  'value/placeholder': {
    level: 'warning',
    meaning: 'a stage that ships has an example or "change me" value',
    help: 'The value is the example of the contract, or one of the words that stand for "to be filled in". Give the real value.',
  },
  'value/unknown-reference': {
    level: 'error',
    meaning: 'a value refers to a name that is not set',
    help: 'No layer of the stage offers the name. Set it, or give a fallback: `${NAME:-text}`.',
  },
  'value/widened': {
    level: 'error',
    meaning: 'a value takes in another one of narrower reach',
    help: 'A public value that is built from a server value would publish it. Nobody gets such a value. What is not declared counts as server. Declare the inner name with the reach that it has, or write its text out.',
  },
  'repo/misnamed': {
    level: 'warning',
    meaning: 'a layer is absent, and a file beside it has nearly its name',
    help: 'Example: `.env.txt`, saved by an editor that adds an ending, or `.evn`. Rename the file, or name it in the layers of the stage.',
  },
  'code/server-read': {
    level: 'error',
    meaning: 'code that reaches the browser reads a build or server variable, or server code sends its value there',
    help: 'Whoever opens the page would have the value. Example: a helper that reads `process.env.FARE_SIGNING_KEY` and is imported, through two other files, by `src/main.ts`; or a handler that answers with it. The chain of imports from the entry is shown. Move the read into code that runs on the server, and let the browser ask for what it needs; or, if anybody may know the value, give the variable the reach public.',
  },
  'code/unknown-name': {
    level: 'error',
    meaning: 'code reads a name that its bundle does not have',
    help: 'The build leaves `undefined` there, and says nothing. Examples: `import.meta.env.FERRY_API_URL` without the prefix VITE_, `VITE_VITE_FERRY_API_URL`, `NEXT_PUBLIC_FERRY_API_URL` in a bundle of Vite, or a slip of the pen. Write the name that the message gives (`adder lint --fix` does), or declare it in the contract.',
  },
  'code/unreachable-read': {
    level: 'warning',
    meaning: 'code reads a value in a way that its build never replaces',
    help: 'A build replaces names that are written out: `process.env.NAME`. It does not see `process.env[key]`, `const { NAME } = process.env`, or another object than its own (`process.env` with Vite, `import.meta.env` with webpack); such code may work on the server, and is empty in the browser. Write the read out as the remedy shows.',
  },
  'code/whole-object': {
    level: 'warning',
    meaning: 'the whole object of the environment is used',
    help: 'Example: `console.log(process.env)`, `{ ...import.meta.env }`, `JSON.stringify(process.env)`. In a bundle it carries every value that the tool exposes along, or is empty; on a server it puts every secret into a log or an answer. Read the names that are needed.',
  },
  'code/written-out': {
    level: 'warning',
    meaning: "a stage's value, or a local or private address, is written out in code",
    help: 'Example: `fetch("https://api.saltmarsh.example/fares")` in a source file: the build of every stage talks to production. Or `http://localhost:4180`, which is the visitor’s own machine. Read the variable that the message names, or declare one.',
  },
  'code/fallback': {
    level: 'warning',
    meaning: 'a fallback in code hides that a value is missing',
    help: 'Example: `import.meta.env.VITE_FERRY_API_URL ?? "http://localhost:4180"`: when the value is missing, the build succeeds and ships the fallback. Take the fallback out, and let `adder with` refuse the build; or say `default` in the contract, where everybody sees it.',
  },
  'code/switched-by-comment': {
    level: 'warning',
    meaning: 'one value is used, and those of other stages stand commented out beside it',
    help: 'Example: three lines with the addresses of three stages, of which one is no comment. The wrong one is shipped on the day somebody forgets. Give each stage its value in a layer, and read the variable.',
  },
  'code/secret-in-code': {
    level: 'error',
    meaning: 'a secret is written out in source code',
    help: 'The value of a build or server variable, or a text with the shape of a service’s secret key, stands in a source file: everybody who has the repository has it, for ever. Read it from the environment, and change the value: it must be taken as known.',
  },
  'code/unused': {
    level: 'note',
    meaning: 'a variable is declared, and no code of its bundles reads it',
    help: 'Public and build variables are meant for code. Take it out of the contract and the layers, or see why the code does not read it any more. A name that only a dependency or a configuration outside `code` reads may be meant so: accept the finding.',
  },
  'code/unread': {
    level: 'warning',
    meaning: 'a source file could not be read in full',
    help: 'It is no JavaScript, TypeScript, Dart or component that the parser understands, so what it reads is not known. The place is where the parser stopped.',
  },
  'repo/tracked': {
    level: 'error',
    meaning: 'version control has a file with secrets in it',
    help: 'An env file with build or server values, or a private key, is tracked by git: everybody who has the repository has it. Take it out of the index (`git rm --cached FILE`), ignore it, and change the values: they stay in the history.',
  },
  'repo/not-ignored': {
    level: 'warning',
    meaning: 'a file for secrets is not ignored by version control',
    help: 'The next `git add .` would take it in. Add the line that the remedy shows to `.gitignore`. Files that do not exist yet are checked too: somebody will make them.',
  },
  'repo/in-history': {
    level: 'error',
    meaning: 'the history of the repository has an env file, or a value of today',
    help: 'A file that was removed is still in every clone. Change the values that it held: only that helps. Rewriting the history does not reach the clones that others have.',
  },
  'repo/example-drift': {
    level: 'warning',
    meaning: 'the example file and the contract are not alike',
    help: 'A newcomer copies the example file. It lacks a name of the contract, has one that is not in it, or has a real value. `adder emit example --save .env.example` writes it anew, and `--check` keeps it so.',
  },
  'repo/packed': {
    level: 'error',
    meaning: 'something that is shipped takes an env file along',
    help: 'Examples: an app manifest that lists `.env` among its assets, an env file in a public folder, `COPY . .` in a container file without the env files in its ignore file, `files` of a package manifest. Take it out of what is packed. As a warning: a pipeline that stores what a build tool keeps for its next build, in which build values may be.',
  },
  'repo/pipeline-gap': {
    level: 'warning',
    meaning: 'a pipeline builds a stage and does not give what the stage needs',
    help: 'A required variable that no file of the repository gives is not set in the workflow, or under a name that is nearly right, or the stage is never named. `adder emit needs --stage STAGE` lists what a pipeline must provide.',
  },
  'repo/literal-in-pipeline': {
    level: 'error',
    meaning: 'a pipeline or hosting file has a secret written out',
    help: 'The value of a build or server variable stands in a workflow file as text. Put it into the secret store of the pipeline, refer to it from there, and change the value.',
  },
  'repo/dependency-reads': {
    level: 'note',
    meaning: 'a dependency in the bundle reads environment variables',
    help: 'Code of a package reads `process.env.NAME`. Where the build does not replace it, it is undefined or throws. Most read NODE_ENV, to leave development code out: `adder with` sets it.',
  },
  'leak/known-value': {
    level: 'error',
    meaning: 'an artifact holds the value of a build or server variable',
    help: 'Whoever has the artifact has the value, in whichever encoding it stands there. Take the read out of the code that ships, build again, and change the value: it must be taken as known from the day the artifact was first shipped.',
  },
  'leak/part-of-value': {
    level: 'error',
    meaning: 'an artifact holds a piece of the value of a build or server variable that often travels alone',
    help: 'Such pieces are user and password of an address, the texts of a JSON document, the lines of a key, the last part of a token, and a long beginning or end of a value, as logs and screens cut it. Mend it as a whole value. `secret-parts: false` in the contract looks for whole values of a variable alone.',
  },
  'stale/receipt': {
    level: 'error',
    meaning: 'an artifact was built from values that have changed',
    help: "The receipt of the build has another fingerprint for the variable than the stage's present value. Build again. A warning says that the files are not the ones that the receipt describes.",
  },
  'stale/past-value': {
    level: 'error',
    meaning: 'an artifact still holds a value from before a change',
    help: 'The place is known from the build, and the file has not changed since. Build again and ship the new files; browsers may have cached the old ones.',
  },
  'stale/missing-value': {
    level: 'warning',
    meaning: 'the present value is nowhere in an artifact that held it when it was built',
    help: 'The files were changed or built in another way since the receipt was written. Build again with `adder with`.',
  },
  'stale/runtime-file': {
    level: 'error',
    meaning: 'the file of values that an app loads is not what the stage says',
    help: 'One build serves all stages, and this file beside it says which one it is for. Write it again with `adder emit runtime --stage STAGE --into DIST`; no build is needed.',
  },
  'stage/foreign-value': {
    level: 'error',
    meaning: "an artifact holds another stage's value",
    help: "The value of the same variable in another stage is in what should be this stage's artifact. Build it for the right stage: `adder with STAGE`.",
  },
  'serve/missing-file': {
    level: 'error',
    meaning: 'a page does not load the file of values, or loads one that is not there',
    help: 'The app reads values when it loads, and will stop with an error, or be without them. `adder emit runtime --stage STAGE --into DIST` writes the file and points every page at it; it has to be called after each build, as a build writes the pages anew.',
  },
  'serve/late-runtime-file': {
    level: 'error',
    meaning: 'a page may run a script of its own before its values are there',
    help: 'The tag of the file of values has to stand before every script of the page, without async or defer. `adder emit runtime --into DIST` puts it there.',
  },
  'serve/blocked-runtime-file': {
    level: 'error',
    meaning: 'a browser will refuse the file of values',
    help: 'The digest in the page is that of another file, or the content security policy in the page does not allow it. Let `script-src` have `self`, or the digest.',
  },
  'serve/cached-runtime-file': {
    level: 'warning',
    meaning: 'the file of values has a name that does not change with what is in it',
    help: 'Under a fixed name browsers and caches in between may go on with the old file. `adder emit runtime --into DIST` gives it a name with a digest.',
  },
} as const satisfies Record<string, CodeEntry>);

export type Code = keyof typeof codes;

/** What a code looks like; the first part is its group. */
export const codePattern = /^(contract|file|value|code|repo|leak|stale|stage|read|serve)\/[a-z]+(-[a-z]+)*$/;

/** Sorts the gravest first. */
export function compareLevels(a: Level, b: Level): number {
  return levels.indexOf(a) - levels.indexOf(b);
}

/** Whether a finding of this level makes the run fail under `--fail-on`. */
export function isAtLeast(level: Level, failOn: Level | 'never'): boolean {
  return failOn !== 'never' && compareLevels(level, failOn) <= 0;
}
