import { displayText } from '../text/display.js';
import { joinWords } from '../text/nearest.js';
import { type Remedy, run, steps } from './remedy.js';
import { words } from './words.js';

/** A name on a host. */
export interface OnHost {
  host: string;
  name: string;
  stage: string;
  /** True if the contract says how a value is set there. */
  isSettable: boolean;
}

export type Scope = 'build' | 'server';
const scopeTexts: Readonly<Record<Scope, string>> = { build: 'builds', server: 'the running server' };

function scopesText(scopes: readonly Scope[]): string {
  return joinWords(scopes.map((scope) => scopeTexts[scope]));
}

/** `builds need`, `the running server needs`. */
function doing(scopes: readonly Scope[], verb: string): string {
  const isOne = scopes.length === 1 && scopes[0] === 'server';
  return `${scopesText(scopes)} ${verb}${isOne ? 's' : ''}`;
}

function fix({ host, stage, isSettable }: OnHost, byHand: string): Remedy {
  return isSettable ? steps`run: ${run('adder', 'handoff', stage, '--apply')}` : steps`${byHand} on ${host}`;
}

export const hostWords = words({
  'host/missing': {
    meaning: 'a host lacks a name that it must have',
    help: 'The server or the build on this host gets no value: the code reads `undefined`, or the build is refused. `adder handoff STAGE --apply` sets it if the contract describes how (`hosts.NAME.set`).',
    variants: {
      name: (f: OnHost & { scopes: readonly Scope[] }) => ({
        message: `${f.host} lacks ${f.name}, which ${doing(f.scopes, 'need')}`,
        remedy: fix(f, `set ${f.name}`),
      }),
    },
  },
  'host/misspelt': {
    meaning: 'a host has a name that nothing reads, beside one that is missing',
    help: 'Examples: `FERRY_AP_URL` for `FERRY_API_URL`, an older name (`aka`), or a name with the prefix that only code reads. Set the right name, and remove the other one from the host.',
    variants: {
      name: (f: OnHost & { scopes: readonly Scope[]; found: string }) => ({
        message: `${f.host} has ${displayText(f.found)}, but ${doing(f.scopes, 'read')} ${f.name}`,
        remedy: fix(f, `set ${f.name}, and remove ${displayText(f.found)}`),
      }),
    },
  },
  'host/different': {
    meaning: "a host has another value than the stage's own layers",
    help: 'Builds and servers on the host use a value that this machine does not. Decide which one is right. Hidden values are compared by name only.',
    variants: {
      value: (f: OnHost) => ({
        message: `${f.name} on ${f.host} differs from the value of ${f.stage} here`,
        remedy: fix(f, 'set the right value in both places'),
      }),
    },
  },
  'host/malformed': {
    meaning: 'a value on a host does not match its form',
    help: 'The message says what is wrong without showing the value. Example: quotes or a line break that were pasted into a console.',
    variants: {
      value: (f: OnHost & { problem: string; form: string }) => ({
        message: `${f.name} on ${f.host} ${f.problem}`,
        remedy: fix(f, `set a valid ${f.form}`),
      }),
    },
  },
  'host/wrong-scope': {
    meaning: 'a host has a name, but what needs it does not get it',
    help: 'Example: a public value that only the running server gets is `undefined` at build time. Set it for builds too.',
    variants: {
      scope: (f: OnHost & { scopes: readonly Scope[] }) => ({
        message: `${f.host} does not give ${f.name} to ${scopesText(f.scopes)}`,
        remedy: fix(f, `set it for ${scopesText(f.scopes)} too`),
      }),
    },
  },
  'host/exposed': {
    meaning: 'a host gives a server value to builds',
    help: 'Many tools inline any name of the build environment that code mentions, and print it in logs. Let only the running server have it.',
    variants: {
      build: (f: OnHost) => ({
        message: `${f.host} gives ${f.name}, a server-only variable, to builds`,
        remedy: fix(f, `let only the running server have ${f.name}`),
      }),
    },
  },
  'host/extra': {
    meaning: 'a host has a name that is not in the contract',
    help: 'It may be a leftover. Declare it, or remove it from the host. Names of tools and platforms are not reported.',
    variants: {
      leftover: ({ host, name }: { host: string; name: string }) => ({
        message: extra(host, name),
        remedy: 'it is probably an earlier misspelling: remove it from the host',
      }),
      name: ({ host, name }: { host: string; name: string }) => ({
        message: extra(host, name),
        remedy: 'declare it in the contract, or remove it from the host',
      }),
    },
  },
});

function extra(host: string, name: string): string {
  return `${host} has ${displayText(name)}, which is not in the contract`;
}
