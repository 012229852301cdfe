import { rmSync } from 'node:fs';
import type { TestProject } from '../support/adder.js';
import { hostToken, MadeUpHost } from '../support/host.js';
import { clean, commit, contractWith } from './project.js';
import { append, type Beside, edit, type Found, type Situation } from './situation.js';

const key = 'made-up-fare-signing-key-of-the-tests-0001';
const url = 'https://api.saltmarsh.example/v1';
const everywhere = ['build', 'runtime'];

type Values = Record<string, { value: string; scopes: string[] }>;

const right = {
  API_URL: { value: url, scopes: everywhere },
  FARE_SIGNING_KEY: { value: key, scopes: ['runtime'] },
} satisfies Values;

interface HostBeside extends Beside {
  set(values: Values): Promise<void>;
}

const set = (console_: string) => `    set:
      url: ${console_}/stages/{stage}/values/{name}
      headers: { Authorization: "Bearer {HARBOUR_TOKEN}" }
      body: { value: "{value}", scopes: "{scopes}" }
`;

/** A host with these values for production. The contract gets the addresses of its console. */
function hostWith(values: Values, isSettable = true) {
  return async (at: TestProject): Promise<HostBeside> => {
    const host = await MadeUpHost.start(at, { values: { production: values } });
    const console_ = host.urls.console;
    let stop = () => host.stop();
    append(
      at,
      'adder.yaml',
      `hosts:
  harbour:
    list:
      url: ${console_}/stages/{stage}/values
      headers: { Authorization: "Bearer {HARBOUR_TOKEN}" }
      items: data.items
      name: key
      scope: scopes
      next: next
${isSettable ? set(console_) : ''}    scopes: { build: build, server: runtime }`,
    );
    return {
      url: console_,
      env: { HARBOUR_TOKEN: hostToken },
      stop: () => stop(),
      set: async (changed) => {
        host.stop();
        rmSync(at.path('host-urls.json'));
        const after = await MadeUpHost.start(at, { values: { production: changed } });
        edit(at, 'adder.yaml', new RegExp(console_, 'g'), after.urls.console);
        stop = () => after.stop();
      },
    };
  };
}

const files = {
  ...clean,
  'adder.yaml': contractWith({ more: '' }).replace(
    'bundles:\n',
    'bundles:\n  quay: { runs: server, code: [server] }\n',
  ),
  'server/sign.js': 'export const key = () => process.env.FARE_SIGNING_KEY;\n',
};
const check = 'handoff production';

/** A person at the console of the host. */
function atConsole(change: Values) {
  return (_: TestProject, __: Found, beside: Beside | undefined) => (beside as HostBeside).set(change);
}

/** Every code about a host: one situation, and what its remedy says to do. */
export const ofHosts: readonly Situation[] = [
  { code: 'host/missing', variant: 'name', files, check, beside: hostWith({ API_URL: right.API_URL }) },
  {
    code: 'host/misspelt',
    variant: 'name',
    files,
    check,
    beside: hostWith({ API_URL: right.API_URL, FARE_SIGNIN_KEY: right.FARE_SIGNING_KEY }, false),
    says: /^set FARE_SIGNING_KEY, and remove FARE_SIGNIN_KEY on harbour/,
    follow: atConsole(right),
  },
  {
    code: 'host/different',
    variant: 'value',
    files,
    check,
    beside: hostWith({ ...right, API_URL: { value: 'https://old.saltmarsh.example', scopes: everywhere } }),
  },
  {
    code: 'host/malformed',
    variant: 'value',
    files,
    check,
    beside: hostWith({ ...right, API_URL: { value: '"https://api.saltmarsh.example/v1"', scopes: everywhere } }),
  },
  {
    code: 'host/wrong-scope',
    variant: 'scope',
    files,
    // In a clone, no file has the value.
    before: commit,
    check,
    beside: hostWith({ ...right, API_URL: { value: url, scopes: ['runtime'] } }),
  },
  {
    code: 'host/exposed',
    variant: 'build',
    files,
    check,
    beside: hostWith({ ...right, FARE_SIGNING_KEY: { value: key, scopes: everywhere } }),
  },
  {
    code: 'host/extra',
    variant: 'name',
    files,
    check,
    beside: hostWith({ ...right, HARBOUR_PILOT: { value: 'north', scopes: everywhere } }),
    says: /^declare it in the contract, or remove it from the host/,
    follow: atConsole(right),
  },
];
