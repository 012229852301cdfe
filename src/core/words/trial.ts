import { joinWords } from '../text/nearest.js';
import { words } from './words.js';

/** Words for what a trial build shows. */
export const trialWords = words({
  'trial/lets-out': {
    meaning: 'in a trial build, a made-up value in the place of a build or server value came into what ships',
    help: 'The code and the configuration let this value out, whatever it is: its real value would ship as well. `adder with` keeps server values from a build, which then has nothing to let out; a build without it, or a tool that loads the env file itself, gets them.',
    variants: {
      arrives: (f: {
        variable: string;
        reach: string;
        path: string;
        from: string;
        encoding: readonly string[];
        source: string | undefined;
        isGiven: boolean;
      }) => ({
        message: `the build puts ${f.variable}, a ${f.reach}-only variable, into ${f.path}${f.encoding.length > 0 && f.encoding[0] !== 'plain' ? `, as ${joinWords(f.encoding)}` : ''}; its value came from ${f.from}${f.isGiven ? '' : ', and `adder with` would not have given it'}`,
        remedy: `${f.source === undefined ? 'find what brings it' : `change ${f.source}`}: nothing that ships may use ${f.variable}; then run the trial again`,
      }),
    },
  },
  'trial/undeclared': {
    meaning: 'in a trial build, the value of a name without an entry in the contract came into what ships',
    help: 'A file or the environment sets this name, and the build inlines it. Declare it, with the reach that it should have, or remove it.',
    variants: {
      arrives: ({ name, path }: { name: string; path: string }) => ({
        message: `the build puts ${name}, which is not in the contract, into ${path}`,
        remedy: `if everybody may know its value, add \`${name}: public\` to the contract; otherwise remove what brings it`,
      }),
    },
  },
  'trial/absent': {
    meaning: 'in a trial build, a public value that code reads came into no file',
    help: 'The code of the bundle reads the name, the trial set it, and no file of the output has its value: it would be undefined. Usual causes: the prefix is missing, the configuration passes another name on, or the code is not in the bundle.',
    variants: {
      nowhere: ({ variable, name, hasPrefix }: { variable: string; name: string; hasPrefix: boolean }) => ({
        message: `${variable} is read here as ${name}, and its value arrived in no file of the output${hasPrefix ? '' : `: ${name} has none of the prefixes of the bundle`}`,
        remedy: `see \`adder lint\` for how ${name} is read; if this code is not in the bundle, remove it from \`code\``,
      }),
    },
  },
  'trial/other-file': {
    meaning: 'in a trial build, the tool took a value from another file than the contract',
    help: 'Each line of each env file had a made-up value of its own, so the trial tells which one the build took. `adder with` gives the build the values of the contract, which win over files; a build without it ships this one.',
    variants: {
      stage: (f: { variable: string; path: string; stages: readonly string[]; stage: string }) => ({
        message: `the build of ${f.stage} took ${f.variable} from ${f.path}, a layer of ${joinWords(f.stages)}`,
        remedy: 'build with `adder with`, or keep the tool from loading this file',
      }),
      alone: (f: { variable: string; path: string; won: string; stage: string }) => ({
        message: `without Adder, the build of ${f.stage} takes ${f.variable} from ${f.path}; with \`adder with\`, the value of ${f.won} wins, as the contract says`,
        remedy: `build ${f.stage} with \`adder with\` alone, in the pipeline too`,
      }),
      layer: (f: { variable: string; path: string; won: string; stage: string }) => ({
        message: `the build of ${f.stage} took ${f.variable} from ${f.path}, and by the contract it comes from ${f.won}`,
        remedy: `list ${f.path} as the last layer of ${f.stage}, or remove the line`,
      }),
    },
  },
  'trial/unused': {
    meaning: 'in a trial build, nothing read a public variable, and its value came into no file',
    help: 'Neither code nor configuration asked for it. Remove it, or find out what no longer reads it.',
    variants: {
      nowhere: ({ variable, bundle }: { variable: string; bundle: string }) => ({
        message: `nothing in the build of ${bundle} reads ${variable}, and its value arrived nowhere`,
        remedy: 'remove it from the contract and the layers if nothing needs it',
      }),
    },
  },
  'trial/refutes': {
    meaning: 'a trial build shows that a finding of lint is wrong',
    help: 'With --trial, lint compares what it says of reads with the last trial of this code. Where the value arrived from the line of the read, it is not undefined there, and the trial is right.',
    variants: {
      read: ({ name, path, stage }: { name: string; path: string; stage: string }) => ({
        message: `lint takes ${name === '' ? 'this read' : name} for undefined here, but in a trial build of ${stage} its value came from this line into ${path}`,
        remedy: 'nothing is to be done: the trial is right',
      }),
    },
  },
  'trial/asked': {
    meaning: 'a build or the code of a bundle reads a name that nothing sets',
    help: 'A file of the project reads this name, its code or its configuration while it builds. It is in no env file and not in the contract.',
    variants: {
      nowhere: ({ name, near }: { name: string; near: readonly string[] }) => ({
        message: `${name} is read here, and nothing sets it${near.length > 0 ? `; similar names: ${joinWords(near)}` : ''}`,
        remedy: `if it is needed, declare it in the contract, and add a value to a layer; otherwise correct the name`,
      }),
    },
  },
});
