import { count, grouped } from '../text/display.js';
import { joinWords, someWords } from '../text/nearest.js';
import { words } from './words.js';

const saveAsUtf8 = 'save the file as UTF-8 without a byte-order mark (in the editor: "Save with Encoding")';
const unused = 'until then, none of its values are used';

/** Words about a file of values that a build tool loads itself. */
export interface ReadByTool {
  tool: string;
  path: string;
  name: string;
  /** How the tool is kept from loading the file. */
  away: string;
}

const wouldInline = ({ tool, path, name }: Omit<ReadByTool, 'away'>) =>
  `${tool} loads ${path} itself and would inline its ${name}`;

/** Names in a list of values that a build gets unasked. */
const MOST_NAMES = 3;

export const fileWords = words({
  'file/syntax': {
    meaning: 'a line of an env file cannot be parsed',
    help: 'A line is blank, a comment, or `NAME=value`. Examples: `MY-NAME=1`, or a quote that is never closed. The other lines still count. `$(...)` and backticks are never executed.',
    variants: {
      'too-many-names': ({ limit }: { limit: number }) => ({
        message: `the file sets more than ${grouped(limit)} names; this line and all below are ignored`,
        remedy: 'split the file; is this an env file?',
      }),
      'end-of-value': (_: object) => ({
        message: 'this looks like the end of a base64 value that starts on a line above',
        remedy: 'put quotes around the whole value, all of its lines',
      }),
      'value-as-name': (_: object) => ({
        message: 'the text before = looks like a value, not a name',
        remedy: 'write NAME=value; a value of several lines needs quotes around all lines',
      }),
      'prototype-name': ({ name }: { name: string }) => ({
        message: `${name} cannot be a name: it has a special meaning in JavaScript objects`,
        remedy: 'choose another name',
      }),
      unclosed: (_: object) => ({
        message: 'this quote is never closed',
        remedy: 'close the quote, or put the whole value in the other kind of quotes',
      }),
      'closed-late': (_: object) => ({
        message: 'this quote is not closed before another line uses the same quote',
        remedy: 'close the quote at the end of this value',
      }),
      'after-quote': (_: object) => ({
        message: 'unexpected text after the closing quote',
        remedy: 'move the text inside the quotes; only white space and a comment may follow',
      }),
      name: (_: object) => ({
        message: 'invalid name before = (use letters, digits and _; do not start with a digit)',
        remedy: 'rename it, such as MY_NAME=value',
      }),
      'no-equals': (_: object) => ({
        message: 'the line has no =',
        remedy: 'write NAME=value, or put a # before a comment',
      }),
      more: ({ number }: { number: number }) => ({
        message: `${count(number, 'more problem')} from here on`,
        remedy: 'fix the ones above first; is this an env file?',
      }),
      command: (_: object) => ({
        message: 'a command substitution: Adder never executes text from an env file',
        remedy: 'write the result instead, or use single quotes for literal text; a command layer can run a program',
      }),
      reference: (_: object) => ({
        message: 'unknown form of reference',
        remedy:
          'use $NAME, ${NAME}, ${NAME:-text}, ${NAME-text}, ${NAME:+text}, ${NAME+text}, ${NAME:?message} or ${NAME?message}; write \\$ for a dollar sign',
      }),
      'unclosed-reference': (_: object) => ({
        message: 'unclosed ${',
        remedy: 'close it with }, or write \\${ for a dollar sign',
      }),
      'nested-references': ({ limit }: { limit: number }) => ({
        message: `references are nested more than ${limit} levels deep`,
        remedy: 'move the inner references to a variable of their own',
      }),
      'too-deep': (_: object) => ({
        message: 'the file is nested too deeply',
        remedy: `flatten it; ${unused}`,
      }),
      invalid: ({ format }: { format: string }) => ({
        message: `not valid ${format} from here on`,
        remedy: `fix it; ${unused}`,
      }),
      'no-map': (_: object) => ({
        message: 'the file must be a map of names to values',
        remedy: 'write names with their values',
      }),
      alias: ({ name }: { name: string }) => ({
        message: `${name} is an alias (*name)`,
        remedy: 'write the value instead',
      }),
      'no-key': ({ path, key }: { path: string; key: string }) => ({
        message: `${path} has no values under the key ${JSON.stringify(key)}`,
        remedy: 'add the key with its values, or correct `key` in the contract',
      }),
      key: ({ name }: { name: string }) => ({
        message: `the key "${name}" cannot be a variable name`,
        remedy: 'rename the key; a name cannot start with a digit',
      }),
      module: (_: object) => ({ message: 'the module cannot be parsed from here on', remedy: `fix it; ${unused}` }),
      'no-export': (_: object) => ({
        message: 'the module exports no constant',
        remedy: 'export an object of values',
      }),
      'no-constant': ({ name, problem }: { name: string; problem: string }) => ({
        message: `${name} ${problem}`,
        remedy: 'write a constant, or set the value in another layer',
      }),
    },
  },
  'file/encoding': {
    meaning: 'an env file is not plain UTF-8',
    help: 'Programs read UTF-16, NUL bytes and invalid UTF-8 differently. Save the file as UTF-8 without a byte-order mark. A byte-order mark alone is a warning.',
    variants: {
      'utf-16': (_: object) => ({
        message: 'the file is UTF-16, so none of its lines can be read',
        remedy: saveAsUtf8,
      }),
      'rich-text': (_: object) => ({
        message: 'the file is rich text, so none of its lines can be read',
        remedy: 'save it as plain text (in the editor: "Make Plain Text") under the same name',
      }),
      mark: (_: object) => ({
        message: 'the file starts with a byte-order mark; other programs read it as part of the first name',
        remedy: saveAsUtf8,
      }),
      nul: (_: object) => ({ message: 'the line contains a NUL byte', remedy: saveAsUtf8 }),
      'not-utf-8': (_: object) => ({ message: 'the line contains a byte that is not UTF-8', remedy: saveAsUtf8 }),
    },
  },
  'file/read-by-tool': {
    meaning: 'the build tool loads an env file itself, and takes more from it than Adder provides',
    help: 'Many tools load env files beside the code. For a name that Adder provides, the environment wins over the file. A line with the public prefix that is not in the contract is inlined anyway. Remove such lines, or move them to a file that the tool does not load. In Vite, `envDir: false` and the Adder plugin turn the loading off.',
    variants: {
      withheld: (f: ReadByTool & { reach: string }) => ({
        message: `${wouldInline(f)}, a ${f.reach}-only variable`,
        remedy: `${f.away}; rename it, because its prefix makes it public`,
      }),
      undeclared: (f: ReadByTool) => ({
        message: `${wouldInline(f)}, which is not in the contract for this bundle`,
        remedy: f.away,
      }),
      unset: (f: ReadByTool & { of: string; stage: string }) => ({
        message: `${wouldInline(f)}, because ${f.of} has no value in ${f.stage}`,
        remedy: f.away,
      }),
      different: (f: Omit<ReadByTool, 'away'> & { stage: string; contract: string }) => ({
        message: `${f.tool} loads ${f.path} itself, with a different ${f.name} than ${f.stage}; the value from ${f.contract} wins`,
        remedy: 'remove the line, or list the file as a layer of the stage',
      }),
      'other-stage': (f: {
        by: string;
        path: string;
        stage: string;
        stages: readonly string[];
        names: readonly string[];
      }) => ({
        message: `${f.by} loads ${f.path}, the values of ${joinWords(f.stages)}, so the build of ${f.stage} gets ${someWords(f.names, MOST_NAMES)} from it`,
        remedy: 'remove the loading: `adder with` gives the build the values of its stage',
      }),
      loaded: (f: { by: string; path: string; names: readonly string[] }) => ({
        message: `${f.by} loads ${f.path}, so the build gets ${someWords(f.names, MOST_NAMES)}, which \`adder with\` withholds`,
        remedy: 'remove the loading, and declare what the build needs with the reach `build`',
      }),
      environment: ({ tool, paths, names }: { tool: string; paths: readonly string[]; names: readonly string[] }) => ({
        message: `${tool} loads ${joinWords(paths)} itself, so the build gets ${someWords(names, MOST_NAMES)}, which \`adder with\` withholds`,
        remedy: `move server values to a file outside the directory of ${tool}, and list it as a layer`,
      }),
    },
  },
});
