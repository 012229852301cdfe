import type { Bundle, Contract, Stage, Variable } from '../contract/contract.js';
import { belongsTo, nameIn } from '../contract/names.js';
import type { JudgedFinding, RawFinding } from '../findings/finding.js';
import type { GivenValue } from '../receipt/serves-both.js';
import { describeSource } from '../resolve/layer.js';
import type { Resolution } from '../resolve/resolve.js';
import { reveal } from '../secrets/secret.js';
import { namesIn } from '../toolchains/known-names.js';

/** Names of the parent's environment that any program needs. `*` stands for the rest of a name. */
const shortList: readonly string[] = [
  ...['PATH', 'HOME', 'USER', 'LOGNAME', 'SHELL', 'TMPDIR', 'TMP', 'TEMP', 'TZ', 'LANG', 'LANGUAGE', 'LC_*', 'CI'],
  ...[
    'TERM',
    'COLORTERM',
    'NO_COLOR',
    'FORCE_COLOR',
    'COLUMNS',
    'LINES',
    'XDG_CACHE_HOME',
    'XDG_CONFIG_HOME',
    'XDG_DATA_HOME',
    'XDG_RUNTIME_DIR',
  ],
  ...['HTTP_PROXY', 'HTTPS_PROXY', 'ALL_PROXY', 'NO_PROXY', 'SSL_CERT_FILE', 'SSL_CERT_DIR', 'NODE_EXTRA_CA_CERTS'],
  ...['DO_NOT_TRACK', '*_TELEMETRY_DISABLED'],
  ...[
    'SYSTEMROOT',
    'SYSTEMDRIVE',
    'WINDIR',
    'COMSPEC',
    'PATHEXT',
    'USERPROFILE',
    'HOMEDRIVE',
    'HOMEPATH',
    'APPDATA',
    'LOCALAPPDATA',
  ],
  ...['PROGRAMDATA', 'PROGRAMFILES', 'PROGRAMFILES(X86)', 'NUMBER_OF_PROCESSORS', 'OS', 'PROCESSOR_ARCHITECTURE'],
];

const passesByDefault = namesIn(shortList, 'i');

/** Names by which hosts tell a server where to listen (systemd's, and those of frameworks). */
const isForServers = namesIn([
  'PORT',
  'HOST',
  'HOSTNAME',
  'NITRO_PORT',
  'NITRO_HOST',
  'LISTEN_PID',
  'LISTEN_FDS',
  'LISTEN_FDNAMES',
]);

/** The stage's name travels under this one, as tools force their own variables. */
export const STAGE_NAME = 'ADDER_STAGE';

/** The bundle's name, for the plugin. */
export const BUNDLE_NAME = 'ADDER_BUNDLE';

/**
 * A build's environment, made from nothing: the short list and `passes` from the parent, the stage's name, and the values
 * that the bundle may have under the names that its code reads.
 */
export function childEnvironment(
  parent: Readonly<Record<string, string | undefined>>,
  contract: Contract,
  stage: Stage,
  given: ReadonlyMap<string, GivenValue>,
  bundle: Bundle | undefined,
): Record<string, string> {
  const passed = Object.entries(parent).flatMap(([name, text]) =>
    text === undefined || passReason(name, contract, bundle) === undefined
      ? []
      : [[name, isWithoutCredentials(name, contract) ? withoutCredentials(text) : text] as const],
  );
  const values = [...given.values()].map(({ variable, value }) => [readName(bundle, variable), reveal(value)]);
  return {
    ...Object.fromEntries(passed),
    ...(stage.buildAs && { NODE_ENV: stage.buildAs }),
    [STAGE_NAME]: stage.name,
    ...(bundle && { [BUNDLE_NAME]: bundle.name }),
    ...Object.fromEntries(values),
  };
}

/** The build of `adder with` that a process is part of. */
export interface Within {
  stage: string;
  /** The environment, with each value of the build also under its variable's own name. */
  env: Readonly<Record<string, string | undefined>>;
}

/**
 * Whoever resolves a stage again within its build finds there what the process environment and commands gave: the environment of their
 * caller is gone, and without it commands could give something else.
 * @returns nothing outside of `adder with`, which alone names the bundle
 */
export function within(env: Within['env'], { bundles, variables }: Contract): Within | undefined {
  const stage = env[STAGE_NAME];
  const bundle = bundles.get(env[BUNDLE_NAME] ?? '');
  if (stage === undefined || !bundle) return undefined;
  const own = Object.assign(Object.create(null), env) as Record<string, string | undefined>;
  for (const variable of variables.values())
    if (belongsTo(bundle, variable)) own[variable.name] ??= env[readName(bundle, variable)];
  return { stage, env: own };
}

/** Why a name of the parent's environment is passed on; undefined if it is not. */
function passReason(name: string, contract: Contract, bundle: Bundle | undefined): string | undefined {
  if (ownNames(contract).has(name)) return undefined;
  if (contract.passes.includes(name)) return 'listed in `passes`';
  const isServer = bundle?.runs === 'server' || bundle?.serverPart !== undefined;
  if (isServer && isForServers(name)) return 'tells a server where to listen';
  if (!passesByDefault(name)) return undefined;
  return isWithoutCredentials(name, contract)
    ? 'needed by most programs; without user name and password'
    : 'needed by most programs';
}

/** Every name that a variable has: its older ones and those that bundles read may hold the value of a server variable too. */
function ownNames(contract: Contract): ReadonlySet<string> {
  let names = ownNamesOf.get(contract);
  if (!names) {
    const all = [...contract.variables.values()];
    names = new Set(all.flatMap((variable) => [variable.name, ...variable.aka, ...Object.values(variable.names)]));
    ownNamesOf.set(contract, names);
  }
  return names;
}

const ownNamesOf = new WeakMap<Contract, ReadonlySet<string>>();

/** The address of a proxy is for every program, its password for those that the contract names. */
function isWithoutCredentials(name: string, { passes }: Contract): boolean {
  return /_PROXY$/i.test(name) && !passes.includes(name);
}

function withoutCredentials(text: string): string {
  return text.replace(/^((?:[a-z][a-z0-9+.-]*:)?\/\/)?[^/?#]*@/i, '$1');
}

/** A build's environment by names alone: what it gets and why, and what is kept from it. */
export interface EnvironmentNames {
  given: { name: string; because: string }[];
  withheld: string[];
}

export function environmentNames(
  parent: Readonly<Record<string, string | undefined>>,
  contract: Contract,
  stage: Stage,
  given: ReadonlyMap<string, GivenValue>,
  bundle: Bundle | undefined,
): EnvironmentNames {
  const values = [...given.values()].map(({ variable, from }) => ({
    name: readName(bundle, variable),
    because: `${variable.reach} value${from ? ` from ${describeSource(from)}` : ''}`,
  }));
  const own = [
    ...values,
    { name: STAGE_NAME, because: `the stage, ${stage.name}` },
    ...(bundle ? [{ name: BUNDLE_NAME, because: `the bundle, ${bundle.name}` }] : []),
    ...(stage.buildAs ? [{ name: 'NODE_ENV', because: `\`build-as\` of ${stage.name}, ${stage.buildAs}` }] : []),
  ];
  const taken = new Set(own.map(({ name }) => name));
  const others = Object.keys(parent)
    .filter((name) => parent[name] !== undefined && !taken.has(name))
    .sort();
  const passed = others.flatMap((name) => {
    const because = passReason(name, contract, bundle);
    return because === undefined ? [] : [{ name, because }];
  });
  const isPassed = new Set(passed.map(({ name }) => name));
  return { given: [...own, ...passed], withheld: others.filter((name) => !isPassed.has(name)) };
}

/**
 * The variables that a build of the bundle gets. Without bundles in the contract: all public and build ones. A value that is
 * delivered when the app loads is kept from a build, so that one build is the same for all stages; a server reads it as it starts.
 */
export function variablesOf(contract: Contract, bundle: Bundle | undefined): Variable[] {
  return [...contract.variables.values()].filter((variable) => {
    if (!bundle) return variable.reach !== 'server';
    const comesLater = variable.delivery === 'runtime' && bundle.runs !== 'server';
    return belongsTo(bundle, variable) && !comesLater;
  });
}

export function readName(bundle: Bundle | undefined, variable: Variable): string {
  return bundle ? nameIn(bundle, variable) : variable.name;
}

/** The name under which the environment of a bundle's build has a variable. */
export function givenName(bundle: Bundle | undefined, variable: Variable): string {
  return variable.reach === 'public' ? readName(bundle, variable) : variable.name;
}

/** The values that a build of the bundle gets. */
export function givenValues(
  contract: Contract,
  bundle: Bundle | undefined,
  resolution: Resolution,
): Map<string, GivenValue> {
  const given = new Map<string, GivenValue>();
  for (const variable of variablesOf(contract, bundle)) {
    const { value, from } = resolution.values.get(variable.name) ?? {};
    if (value) given.set(variable.name, { variable, value, ...(from && { from }) });
  }
  return given;
}

/**
 * Tells whether an error stops a build: one of a variable that it gets, or a line that could not be parsed, since it may set any
 * name. A server variable that is missing on this machine does not stop a browser build.
 */
export function canStopBuild(
  contract: Contract,
  bundle: Bundle | undefined,
): (finding: Pick<RawFinding, 'code' | 'variable'>) => boolean {
  const names = new Set(variablesOf(contract, bundle).map(({ name }) => name));
  return ({ variable, code }) => {
    if (variable === undefined || names.has(variable)) return true;
    return (code === 'file/syntax' || code === 'file/encoding') && !contract.variables.has(variable);
  };
}

/**
 * The errors that stop a build.
 * @param starts whether the command may start a server, which then needs what only its host has otherwise; its build does not
 */
export function buildErrors(
  contract: Contract,
  bundle: Bundle | undefined,
  findings: readonly JudgedFinding[],
  starts = false,
): JudgedFinding[] {
  const stops = canStopBuild(contract, bundle);
  const isElsewhere = ({ code, variant }: JudgedFinding) =>
    starts && code === 'value/missing' && variant === 'elsewhere';
  return findings
    .filter((one) => (one.level === 'error' || isElsewhere(one)) && stops(one))
    .map((one) => ({ ...one, level: 'error' }));
}
