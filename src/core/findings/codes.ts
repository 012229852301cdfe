export type Level = 'error' | 'warning' | 'note';

/** One kind of thing that Adder says. The reference page is made from this table. */
export interface CodeEntry {
  level: Level;
  /** One line, without a full stop. */
  meaning: string;
  /** What it is, an example, and the remedy. */
  help: string;
}

export const codes = {
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
  'leak/known-value': {
    level: 'error',
    meaning: 'an artifact holds the value of a build or server variable',
    help: 'Whoever has the artifact has the value, in whichever encoding it stands there. Take the read out of the code that ships, build again, and change the value: it must be taken as known from the day the artifact was first shipped.',
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
  'stage/foreign-value': {
    level: 'error',
    meaning: "an artifact holds another stage's value",
    help: "The value of the same variable in another stage is in what should be this stage's artifact. Build it for the right stage: `adder with STAGE`.",
  },
} as const satisfies Record<string, CodeEntry>;

export type Code = keyof typeof codes;

/** What a code looks like; the first part is its group. */
export const codePattern = /^(contract|file|value|code|repo|leak|stale|stage|read|serve)\/[a-z]+(-[a-z]+)*$/;

const order: Record<Level, number> = { error: 0, warning: 1, note: 2 };

/** Sorts the gravest first. */
export function compareLevels(a: Level, b: Level): number {
  return order[a] - order[b];
}

/** Whether a finding of this level makes the run fail under `--fail-on`. */
export function reaches(level: Level, failOn: Level | 'never'): boolean {
  return failOn !== 'never' && order[level] <= order[failOn];
}
