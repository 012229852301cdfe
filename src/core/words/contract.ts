import { count, grouped } from '../text/display.js';
import { joinWords, suggestion } from '../text/nearest.js';
import { table } from '../text/table.js';
import { words } from './words.js';

const fixYaml = 'fix the YAML; indentation and quotes are the usual causes';

/** Problems of YAML texts, by the parser's codes. Its own messages quote the source, which may contain a secret. */
const ofYaml: Readonly<Record<string, string>> = table({
  'TOO-DEEP': 'the file is nested too deeply',
  ALIAS_PROPS: 'an alias (*name) has a tag or an anchor',
  BAD_ALIAS: 'incomplete alias (*name)',
  BAD_COLLECTION_TYPE: 'a tag does not fit its value',
  BAD_DIRECTIVE: 'unknown directive (%)',
  BAD_DQ_ESCAPE: 'unknown escape sequence in double quotes',
  BAD_INDENT: 'the indentation is wrong, or a bracket, brace or quote above is not closed',
  BAD_PROP_ORDER: 'an anchor or tag must come before the value, on the same line',
  BAD_SCALAR_START: 'a value starts with a character that needs quotes',
  BLOCK_AS_IMPLICIT_KEY: 'a map or list is used as a key',
  BLOCK_IN_FLOW: 'an indented block is inside brackets or braces',
  KEY_OVER_1024_CHARS: 'the key is longer than 1024 characters',
  MISSING_CHAR: 'a bracket, brace, quote or comma is missing',
  MULTILINE_IMPLICIT_KEY: 'a key continues on another line: a colon or a quote may be missing',
  MULTIPLE_ANCHORS: 'a value has two anchors',
  MULTIPLE_DOCS: 'the file contains several documents (---)',
  MULTIPLE_TAGS: 'a value has two tags',
  TAB_AS_INDENT: 'a tab is used as indentation',
  TAG_RESOLVE_FAILED: 'unknown tag (!)',
  UNEXPECTED_TOKEN: 'unexpected text',
});

export const contractWords = words({
  'contract/unreadable': {
    meaning: 'the contract has a mistake',
    help: '`adder.yaml` is not valid YAML, or an entry has an invalid value. Adder uses no part of a contract that it does not understand completely. Example: `reach: pubic`. Fix each line; all mistakes are reported together.',
    variants: {
      yaml: ({ problem }: { problem: string }) => ({
        message: ofYaml[problem] ?? 'not valid YAML from here on',
        remedy: fixYaml,
      }),
      alias: (_: object) => ({
        message: 'an alias (*name) refers to an unknown anchor (&name)',
        remedy: 'write the value instead; a value that starts with * needs quotes',
      }),
      aliases: (_: object) => ({
        message: 'aliases (*name) expand the file beyond the limit',
        remedy: 'write the values instead of aliases',
      }),
      'duplicate-key': (_: object) => ({ message: 'duplicate key', remedy: 'remove one of the two' }),
      'prototype-key': (_: object) => ({ message: '"__proto__" cannot be a name', remedy: 'choose another name' }),
      'too-many-variables': ({ number, limit }: { number: number; limit: number }) => ({
        message: `the contract has ${count(number, 'variable')}; the limit is ${grouped(limit)}`,
        remedy: 'split it into one contract per bundle',
      }),
      name: ({ name, rule }: { name: string; rule: string }) => ({ message: `invalid name "${name}"`, remedy: rule }),
      invalid: ({ entry, rule }: { entry: string; rule: string }) => ({ message: `${entry} is invalid`, remedy: rule }),
      missing: ({ entry, kind }: { entry: string; kind: string }) => ({
        message: `${entry} is missing`,
        remedy: `add ${kind}`,
      }),
      'missing-word': ({ entry, known }: { entry: string; known: readonly string[] }) => ({
        message: `${entry} is missing`,
        remedy: known.length === 1 ? `write \`${entry}: ${known[0]}\`` : `write one of ${joinWords(known, 'or')}`,
      }),
      type: ({ entry, kind }: { entry: string; kind: string }) => ({
        message: `${entry} must be ${kind}`,
        remedy: `write ${kind}`,
      }),
      version: ({ version }: { version: string }) => ({
        message: `this Adder reads version ${version} of the contract format only`,
        remedy: 'write `adder: 1`',
      }),
      word: ({ entry, known, near }: { entry: string; known: readonly string[]; near: readonly string[] }) => ({
        message: `${entry} must be ${known.length > 1 ? 'one of ' : ''}${joinWords(known, 'or')}`,
        remedy: near.length > 0 ? `did you mean ${joinWords(near, 'or')}?` : `write ${joinWords(known, 'or')}`,
      }),
      'no-stage': (_: object) => ({
        message: 'the contract has no stage',
        remedy: 'add a stage with its layers under `stages`',
      }),
      'unknown-name': (f: { kind: string; name: string; near: readonly string[]; known: readonly string[] }) => ({
        message: `unknown ${f.kind} "${f.name}"`,
        remedy: suggestion(f.near, f.known),
      }),
      'taken-name': ({ name, other }: { name: string; other: string }) => ({
        message: `"${name}" is already a name of ${other}`,
        remedy: 'remove one of the two',
      }),
      default: (f: { name: string; problem: string; example: string; form: string }) => ({
        message: `the default of ${f.name} ${f.problem}`,
        remedy: `write ${f.example} or another ${f.form}, or change the form`,
      }),
      'env-file-key': ({ name }: { name: string }) => ({
        message: `${name} is an env file and has no keys`,
        remedy: 'remove `key`, or use a .json, .yaml, .ts or .js file',
      }),
      'change-alone': (_: object) => ({
        message: 'a host with `change` also needs `set`',
        remedy: 'describe how a new value is set',
      }),
      'secret-header': ({ name }: { name: string }) => ({
        message: `the header ${name} names no variable, and this file is no place for a secret`,
        remedy: `write {NAME} in the place of the secret, and set NAME in the environment`,
      }),
      'credential-in-url': ({ name }: { name: string }) => ({
        message: `the URL contains {${name}}: URLs are logged, so a credential must not be in them`,
        remedy: `write it into a header, such as Authorization: Bearer {${name}}`,
      }),
      'placeholder-in-header': ({ name }: { name: string }) => ({
        message: `a header contains {${name}}`,
        remedy: 'write the name of a variable in upper case, such as {CONSOLE_TOKEN}',
      }),
      url: (_: object) => ({
        message: 'the URL is invalid',
        remedy: 'write an absolute URL, such as https://console.example/values',
      }),
      'password-in-url': (_: object) => ({
        message: 'the URL contains a credential',
        remedy: 'write it into a header, such as Authorization: Bearer {CONSOLE_TOKEN}',
      }),
      unencrypted: (_: object) => ({
        message: 'values and credentials would be sent without encryption',
        remedy: 'use https',
      }),
      placeholder: ({ name, known }: { name: string; known: readonly string[] }) => ({
        message: `unknown placeholder {${name}}`,
        remedy: `known: ${known.map((one) => `{${one}}`).join(', ')}`,
      }),
      'value-in-url': ({ name }: { name: string }) => ({
        message: `unknown placeholder {${name}}`,
        remedy: 'a value goes into the body of a request, or to the standard input of a command',
      }),
      'no-value': (_: object) => ({
        message: 'the request does not contain {value}',
        remedy: 'add it to `body`, such as { value: "{value}" }',
      }),
      'no-name': (_: object) => ({
        message: 'nothing says which value is set',
        remedy: 'write {name} where the name belongs',
      }),
    },
  },
  'contract/unknown-key': {
    meaning: 'the contract has an unknown key',
    help: 'Ignoring an unknown key would silently drop a rule. Example: `requird: true`. Use the key that the message suggests, or remove the line.',
    variants: {
      key: (f: { entry: string; key: string; near: readonly string[]; known: readonly string[] }) => ({
        message: `${f.entry} has an unknown key "${f.key}"`,
        remedy: suggestion(f.near, f.known),
      }),
    },
  },
  'contract/risky-public': {
    meaning: "a public variable has a secret's name, or a value with a secret's shape",
    help: 'Anybody can read a public value. Example: `PAYMENT_SECRET: public`, or a private key in a public variable. Change the reach to build or server. If the value really is public, accept the finding, or change the level of this code.',
    variants: {
      shape: ({ variable, shape }: { variable: string; shape: string }) => ({
        message: `${variable} is public and has the shape of ${shape}`,
        remedy: notPublic,
      }),
      name: ({ variable }: { variable: string }) => ({
        message: `${variable} is public and has a secret's name`,
        remedy: notPublic,
      }),
    },
  },
  'contract/undecided': {
    meaning: 'a drafted contract needs a decision',
    help: '`adder draft` gives a variable without evidence the reach server, and reports what speaks against that: a secret-like name with a public prefix, one value in two stages, a file that no tool reads. Decide, and edit `adder.yaml`.',
    variants: {
      'hard-coded-url': ({ url }: { url: string }) => ({
        message: `browser code has the URL ${url} in it, so every stage gets it`,
        remedy: 'read a variable instead, and declare it in the contract',
      }),
      'not-read': ({ path, because }: { path: string; because: string }) => ({
        message: `${path} ${because} and was not read`,
        remedy: 'declare the names that it reads by hand',
      }),
      misspelt: ({ variable, near }: { variable: string; near: string }) => ({
        message: `code reads ${variable}, which no file sets; ${near} is set, but no code reads it`,
        remedy: `if it is misspelt, write ${near} in the code and remove ${variable} from the contract`,
      }),
      slip: ({ variable, near }: { variable: string; near: string }) => ({
        message: `code reads ${variable}, which no file sets; ${near} is almost the same, and is set`,
        remedy: `if it is misspelt, write ${near} in the code and remove ${variable} from the contract`,
      }),
      'secret-exposed': ({ variable, secret, exposed }: { variable: string; secret: string; exposed: string }) => ({
        message: `${variable} ${secret}, but ${exposed}, so a build would inline it`,
        remedy: setReach,
      }),
      'exposed-suspicious': (f: { variable: string; exposed: string; suspicion: string }) => ({
        message: `${f.variable} ${f.exposed}, but ${f.suspicion}, so it may be a secret`,
        remedy: setReach,
      }),
      'seen-nowhere': ({ variable, exposed }: { variable: string; exposed: string }) => ({
        message: `${variable} ${exposed}, but a trial build has it nowhere, so it is undefined there or not used`,
        remedy: 'if browser code needs it, find out why the build leaves it out; otherwise leave it server',
      }),
      'other-layer': (f: { variable: string; stage: string; from: string; won: string }) => ({
        message: `a trial build of ${f.stage} takes ${f.variable} from ${f.from}, and the draft from ${f.won}, its last layer`,
        remedy: `change the layers of ${f.stage} if ${f.from} should win; with \`adder with\`, the value of ${f.won} does`,
      }),
      'no-prefix': (f: { variable: string; prefixes: readonly string[]; isSure: boolean }) => ({
        message: `browser code reads ${f.variable} without the prefix ${joinWords(f.prefixes, 'or')}, so it ${f.isSure ? 'is' : 'may be'} undefined there`,
        remedy: setReach,
      }),
      'not-replaced': ({ variable, object, tool }: { variable: string; object: string; tool: string }) => ({
        message: `browser code reads ${variable} from ${object}, which ${tool} does not replace, so it is undefined there`,
        remedy: setReach,
      }),
      'unknown-side': ({ variable }: { variable: string }) => ({
        message: `Adder cannot tell where the code that reads ${variable} runs`,
        remedy: setReach,
      }),
      shared: ({ variable, stages }: { variable: string; stages: readonly string[] }) => ({
        message: `${variable} has the same value in ${joinWords(stages)}`,
        remedy: 'set a different secret in each stage, and `distinct: true`',
      }),
      lacking: ({ stage, names }: { stage: string; names: readonly string[] }) => ({
        message: `${stage} ships without ${joinWords(names)}, which code reads and other stages set`,
        remedy: `set ${names.length === 1 ? 'it' : 'them'} in ${stage}, and add ${stage} to \`required\``,
      }),
      conflict: (f: { variable: string; paths: readonly string[]; folders: readonly string[] }) => ({
        message: `${f.variable} has different values in ${joinWords(f.paths)}; in the contract, the last layer wins`,
        remedy: `rename one of them, or run \`adder draft\` in each directory instead: ${joinWords(f.folders)}`,
      }),
      twins: ({ paths, stage }: { paths: readonly string[]; stage: string }) => ({
        message: `${joinWords(paths)} are for the same stage, ${stage}; the last one wins`,
        remedy: 'check which of them the build reads, and remove the others from the layers',
      }),
      'local-file': ({ path, stage }: { path: string; stage: string }) => ({
        message: `${path} is a local file, so it is not a layer of ${stage}`,
        remedy: 'set its values in the pipeline, or list it as the last layer if every build needs them',
      }),
      misnamed: ({ path, meant }: { path: string; meant: string }) => ({
        message: `${path} looks like an env file, but no tool reads a file of that name`,
        remedy: `rename it to ${meant}, or remove it`,
      }),
      leftover: ({ path }: { path: string }) => ({
        message: `${path} looks like an old copy of an env file`,
        remedy: 'remove it; its values are still secret',
      }),
      storybook: ({ path, prefixes, entry }: { path: string; prefixes: readonly string[]; entry: string }) => ({
        message: `${path} has Storybook, whose build inlines names with the prefix ${joinWords(prefixes, 'or')}; the draft has no bundle for it`,
        remedy: `if it is published, add \`${entry}\` to the bundles`,
      }),
      'page-settings': (f: {
        path: string;
        object: string;
        names: readonly string[];
        bundle: string;
        reads: readonly string[];
      }) => ({
        message: `pages load ${f.path}, which sets ${joinWords(f.names)} in ${f.object}, and the contract does not know them`,
        remedy: `list ${f.path} as a layer of each stage that it is for, declare each name with \`{ reach: public, delivery: runtime }\`, and write \`reads: [${f.reads.join(', ')}]\` for ${f.bundle}`,
      }),
      'native-copies': (f: { path: string; bundle: string; copies: readonly string[]; entry: readonly string[] }) => ({
        message: `the native projects get copies of the web files, in ${joinWords(f.copies)}, which are not in \`output\` of ${f.bundle}`,
        remedy: `if its build writes them, add them, so that an old copy is found: \`output: [${f.entry.join(', ')}]\``,
      }),
      'no-bundle': ({ path, program }: { path: string; program: string }) => ({
        message: `${path} builds with ${unknownProgram(program)}, so there is no bundle for it`,
        remedy: 'if it builds for browsers, add a bundle with `toolchain: other`, `code` and `output`',
      }),
      'no-bundles': () => ({
        message:
          'Adder found nothing that builds for browsers or devices here, so no code and no output will be checked',
        remedy:
          'add a bundle with `toolchain: other`: its `code`, what browsers load, and its `output`, the directory that is served',
      }),
      'guessed-bundle': ({ path, program, hasPrefix }: { path: string; program: string; hasPrefix: boolean }) => ({
        message: `${path} builds with ${unknownProgram(program)}, so the bundle is a guess`,
        remedy: `check its \`code\` and \`output\`${hasPrefix ? ', its `prefix`' : ''}, and with \`reads\` how its code reads values`,
      }),
      computed: ({ path, setting }: { path: string; setting: string }) => ({
        message: `${path} computes ${setting}, so the draft has the usual one`,
        remedy: 'compare it with the bundle in the contract',
      }),
      'computed-names': ({ path, setting }: { path: string; setting: string }) => ({
        message: `${path} computes \`${setting}\`, and only a build tells all that it passes to code`,
        remedy: 'compare what it passes with the reach of each variable',
      }),
      unlisted: ({ stage, layers }: { stage: string; layers: readonly string[] }) => ({
        message: `${stage} in the contract does not list ${layers.join(', ')}`,
        remedy: `add the right ones to the layers of ${stage}`,
      }),
      assumed: ({ stage }: { stage: string }) => ({
        message: `no env file names a production stage; assuming \`${stage}\` with the shared files`,
        remedy: `list its layers under \`stages.${stage}\``,
      }),
      'maybe-read': ({ names, path }: { names: readonly string[]; path: string }) => ({
        message: `Adder found no read of ${joinWords(names)}, but ${path} computes what it passes to code`,
        remedy: 'set the reach of each name, or let `adder draft --trial` see by a build which of them arrive',
      }),
      unread: ({ names }: { names: readonly string[] }) => ({
        message: `no code reads ${joinWords(names)}`,
        remedy: 'remove each name, or confirm its reach',
      }),
    },
  },
  'contract/expired-acceptance': {
    meaning: 'an acceptance has expired',
    help: 'The finding counts again from the day after `until`. Fix the finding, or set a later date.',
    variants: {
      expired: ({ until, ...of }: { until: string; code: string; where?: string }) => ({
        message: `${acceptance(of)} expired on ${until}`,
        remedy: 'fix the finding, or set a later `until`',
      }),
    },
  },
  'contract/unused-acceptance': {
    meaning: 'an acceptance matches no finding',
    help: 'Only calls that check everything report this. The accepted finding was fixed, or its place was renamed. Remove the acceptance, so that it cannot hide a later finding.',
    variants: {
      unused: (of: { code: string; where?: string }) => ({
        message: `${acceptance(of)} matches ${of.code === 'unread' ? 'none' : 'no finding'}`,
        remedy: 'remove it from `accept`, so that it cannot hide a later finding',
      }),
    },
  },
});

const notPublic = 'change its reach to build or server: anybody can read a public value';

const setReach = 'check what the code needs, and set the reach';

function unknownProgram(program: string): string {
  return `${program === '' ? 'a script' : `\`${program}\``}, which Adder does not know`;
}

function acceptance({ code, where }: { code: string; where?: string }): string {
  if (code === 'unread') return `the acceptance of unread files at ${where}`;
  return `the acceptance of ${code}${where ? ` in ${where}` : ''}`;
}
