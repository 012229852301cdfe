import { prefixOf } from '../contract/names.js';
import { finding, type RawFinding } from '../findings/finding.js';
import type { Reach } from '../findings/reach.js';
import type { Read } from '../reads/read.js';
import { joinWords } from '../text/nearest.js';
import { namesSecret, shapeOf } from '../tokens/shapes.js';
import { isSecretByText, secretWordIn } from '../tokens/strength.js';
import { isCompiledIn, toolchainOf } from '../toolchains/index.js';
import { readFrom } from '../toolchains/read-from.js';
import type { DraftBundle } from './bundles.js';
import { type Evidence, placeOf, type Use } from './evidence.js';

/** Who may read a value, with the reason as a clause. */
export interface ReachGuess {
  reach: Reach;
  because: string;
  isSecret?: boolean;
  /** Evidence against the reach, for a person to decide. */
  doubt?: RawFinding;
}

/** The reach of a value, with the reason. Unsure means server. */
export function guessReach(evidence: Evidence): ReachGuess {
  const { name: variable } = evidence;
  const exposed = exposure(evidence);
  const isRefuted = evidence.seen?.isNowhere === true && !exposingPrefix(evidence);
  const secret = secrecy(evidence);
  if (secret) {
    const doubt =
      exposed && !isRefuted && finding('contract/undecided', 'secret-exposed', { variable, secret, exposed });
    return { reach: 'server', because: secret, isSecret: true, ...(doubt && { doubt }) };
  }
  const suspicion = exposed && !exposingPrefix(evidence) ? suspicionOf(evidence) : undefined;
  if (exposed && suspicion) {
    const doubt = finding('contract/undecided', 'exposed-suspicious', { variable, exposed, suspicion });
    return { reach: 'server', because: `unsure: ${suspicion}, although it ${exposed}`, doubt };
  }
  if (exposed && isRefuted) {
    const doubt = finding('contract/undecided', 'seen-nowhere', { variable, exposed });
    return { reach: 'server', because: `unsure: it ${exposed}, but a trial build has it nowhere`, doubt };
  }
  const both = exposed && wordAndValue(evidence);
  if (exposed && both) {
    const doubt = finding('contract/undecided', 'exposed-suspicious', { variable, exposed, suspicion: both });
    return { reach: 'public', because: exposed, doubt };
  }
  if (exposed) return { reach: 'public', because: exposed };
  return partOfPublic(evidence) ?? bySide(evidence);
}

/** A name that no code reads, and whose text is in a value with a public prefix: who has that value has this one too. */
function partOfPublic({ uses, partOf, bundles, present }: Evidence): ReachGuess | undefined {
  const whole = partOf.find((name) =>
    bundles.some((one) => one.runs !== 'server' && prefixOf(one, name) !== undefined),
  );
  const isPlain = uses.length === 0 && !randomIn({ present });
  return whole !== undefined && isPlain
    ? { reach: 'public', because: `its text is in the value of ${whole}` }
    : undefined;
}

/** A public prefix says that a value is meant for browsers. A secret's word and a random value together still raise the question. */
function wordAndValue(evidence: Evidence): string | undefined {
  const [word, random] = [secretWordIn(evidence.name), randomIn(evidence)];
  return word && random && `its name contains ${word} and its value in ${random.stage} looks random`;
}

/** Why a name without a public prefix may be a secret's, as a clause. Never contains any part of a value. */
function suspicionOf({ name, present }: Evidence): string | undefined {
  const word = secretWordIn(name);
  if (word) return `its name contains ${word}`;
  const random = randomIn({ present });
  return random && `its value in ${random.stage} looks random`;
}

function randomIn({ present }: Pick<Evidence, 'present'>): Evidence['present'][number] | undefined {
  return present.find(({ text }) => shapeOf(text)?.kind !== 'publishable' && isSecretByText(text));
}

function exposingPrefix({ name, bundles }: Evidence): DraftBundle | undefined {
  return bundles.find((bundle) => bundle.runs !== 'server' && prefixOf(bundle, name) !== undefined);
}

/** Why a value is a secret, as a phrase after the name. Never holds any part of it. */
function secrecy({ name, present }: Evidence): string | undefined {
  for (const { stage, text } of present) {
    const shape = shapeOf(text);
    if (shape?.kind === 'secret') return `has the shape of ${shape.name} in ${stage}`;
  }
  if (namesSecret(name)) return "has a secret's name";
  const withPassword = present.find(({ text }) => /^[a-z][a-z0-9+.-]*:\/\/[^/@\s]*:[^/@\s]+@/i.test(text));
  return withPassword && `contains a password in ${withPassword.stage}`;
}

/** Why browser code has the value already, as a phrase. */
function exposure(evidence: Evidence): string | undefined {
  const { name, uses, bundles, constants, seen } = evidence;
  if (seen?.arrived) return `arrives in ${seen.arrived.path}, as a trial build shows`;
  if (constants.length > 0) return `is a constant in the app's code (${constants[0]})`;
  const exposing = exposingPrefix(evidence);
  if (exposing) return `starts with ${prefixOf(exposing, name)}, which the build of ${exposing.name} exposes`;
  const listing = bundles.find(({ inlined }) => inlined.includes(name));
  if (listing) return `is inlined by the configuration of ${listing.name}`;
  const passing = bundles.flatMap((bundle) => passOf(name, bundle) ?? [])[0];
  if (passing) return passing;
  const use = uses.find((one) => one.side === 'browser' && one.bundle && reaches(one, one.bundle));
  return use && `is read by browser code at ${placeOf(use)}`;
}

/** How a bundle's configuration gives a variable to the app's code, as a clause. */
function passOf(variable: string, { name, passes }: DraftBundle): string | undefined {
  const pass = passes.find(({ carries }) => carries.has(variable));
  if (!pass) return undefined;
  return `is passed to the app by the configuration of ${name}${pass.read === '' ? '' : `, as ${pass.read}`}`;
}

/** Tells whether the bundle's tool replaces this read by the value. */
function reaches({ read }: Use, bundle: DraftBundle): boolean {
  const name = read.name ?? '';
  if (isCompiledIn(bundle) || bundle.inlined.includes(name)) return true;
  if (isOfFreeModule(read, bundle)) return true;
  const isOwn = toolchainOf(bundle).reads.some(({ from }) => from === read.object);
  return bundle.prefixes.length === 0 ? isOwn : prefixOf(bundle, name) !== undefined;
}

/** Tells whether a read is of a module that has any names that its configuration lists, such as `astro:env/client`. */
export function isOfFreeModule({ object }: Read, bundle: Pick<DraftBundle, 'toolchain'>): boolean {
  return toolchainOf(bundle).reads.some(
    ({ from, side, prefix }) =>
      from === object && side !== 'server' && prefix === '' && readFrom(from)?.kind === 'module',
  );
}

function bySide({ name, uses, bundles, seen, namedAt }: Evidence): ReachGuess {
  const lost = uses.find(({ side, bundle }) => side === 'browser' && bundle && bundle.prefixes.length > 0);
  if (lost) {
    const prefixes = lost.bundle?.prefixes ?? [];
    const about = { variable: name, prefixes, isSure: lost.bundle?.toolchain !== 'other' };
    return {
      reach: 'server',
      because: `unsure: browser code reads it without the prefix ${joinWords(prefixes, 'or')}`,
      doubt: finding('contract/undecided', 'no-prefix', about),
    };
  }
  const unreplaced = uses.find((one) => one.side === 'browser' && one.bundle && !reaches(one, one.bundle));
  if (unreplaced) {
    const about = { variable: name, object: unreplaced.read.object, tool: unreplaced.bundle?.toolchain ?? '' };
    return {
      reach: 'server',
      because: `unsure: browser code reads it from ${about.object}, which ${about.tool} does not replace`,
      doubt: finding('contract/undecided', 'not-replaced', about),
    };
  }
  const counting = uses.filter(({ side }) => side !== 'test');
  const server = counting.find(({ side }) => side === 'server');
  if (server) return { reach: 'server', because: `is read by server code at ${placeOf(server)}` };
  const [first] = counting;
  if (first && counting.every(({ side }) => side === 'build'))
    return { reach: 'build', because: `is read only by the build, at ${placeOf(first)}` };
  if (first)
    return {
      reach: 'server',
      because: `unsure: read at ${placeOf(first)}, where Adder cannot tell who runs the code`,
      doubt: finding('contract/undecided', 'unknown-side', { variable: name }),
    };
  if (seen?.askedAt !== undefined && seen.isNowhere)
    return { reach: 'build', because: `a trial build asked for it at ${seen.askedAt}, and has it nowhere` };
  const owner = bundles.find(({ overrides }) => overrides.includes(name));
  if (owner)
    return { reach: 'server', because: `overrides a private key in the runtime configuration of ${owner.name}` };
  if (namedAt !== undefined)
    return { reach: 'server', because: `is named at ${namedAt}, in a way that Adder does not follow` };
  return { reach: 'server', because: 'unsure: no code reads it' };
}
