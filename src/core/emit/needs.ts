import { type Contract, isRequired, type Variable } from '../contract/contract.js';
import { belongsTo, nameIn } from '../contract/names.js';
import { padEnd } from '../report/layout.js';
import type { Resolution } from '../resolve/resolve.js';
import { escapeJsonControls } from '../text/display.js';
import { type EmitKind, oneLine } from './kind.js';

interface Need {
  /** As it has to be set there: a server's code may read it under another name than the contract's. */
  name: string;
  variable: string;
  /** The pipeline gives it to the build, the host to the running server. */
  by: 'pipeline' | 'host';
  reach: Variable['reach'];
  form: string;
  required: boolean;
  about?: string;
}

/**
 * What must be given to a stage from outside its files: to the pipeline the public and build values that no file has, to
 * the host the server ones.
 */
export const needs: EmitKind = {
  name: 'needs',
  summary: 'what the pipeline and the host must provide (--as text, json or env)',
  needs: ['stage'],
  forms: ['json', 'env'],
  emit({ contract, resolution, as, call }) {
    if (!resolution) return '';
    const all = needsOf(contract, resolution);
    const { name } = resolution.stage;
    if (as === 'json') return `${escapeJsonControls(JSON.stringify({ stage: name, needs: all }, null, 2))}\n`;
    if (as === 'env') return `# Made by \`${call}\`.\n${all.map(envLine).join('')}`;
    return textOf(name, all);
  },
};

function needsOf(contract: Contract, { stage, values, layers }: Resolution): Need[] {
  return [...values.values()].flatMap(({ variable }): Need[] => {
    const { name, reach, form, about } = variable;
    const atHost = hostNames(contract, variable);
    const inFiles = layers.some(
      (layer) => layer.name !== 'process' && layer.offers.some((offer) => offer.name === name),
    );
    // A server that reads its own environment does not know the contract's default.
    const isGiven = variable.default !== undefined || inFiles;
    if (atHost.length === 0 && isGiven) return [];
    const required = isRequired(variable, stage.name) && variable.default === undefined;
    const facts = { variable: name, reach, form: form.name, required, ...(about && { about: oneLine(about) }) };
    if (atHost.length === 0) return [{ name, by: 'pipeline', ...facts }];
    return atHost.map((one) => ({ name: one, by: 'host', ...facts }));
  });
}

/** The names that servers read a variable by as they run; none where no server needs it. */
function hostNames({ bundles }: Contract, variable: Variable): string[] {
  if (variable.reach !== 'server' && variable.delivery !== 'runtime') return [];
  const servers = [...bundles.values()].filter((bundle) => bundle.runs === 'server' && belongsTo(bundle, variable));
  const names = servers.map((bundle) => nameIn(bundle, variable));
  return names.length === 0 && variable.reach === 'server' ? [variable.name] : [...new Set(names)];
}

function envLine({ name, variable, by, form, required, about }: Need): string {
  const own = name === variable ? '' : `the contract's ${variable}`;
  return `# ${[`for the ${by}`, own, form, required ? 'required' : 'optional', about].filter(Boolean).join(', ')}\n${name}=\n`;
}

function textOf(stage: string, all: readonly Need[]): string {
  if (all.length === 0) return `${stage} needs nothing from outside its files\n`;
  const width = Math.max(...all.map(({ name }) => name.length)) + 2;
  const section = (by: Need['by'], heading: string) => {
    const needs = all.filter((need) => need.by === by);
    const lines = needs.map(({ name, variable, reach, form, required, about }) => {
      const facts = [
        name === variable ? '' : `the contract's ${variable}`,
        reach,
        form,
        required ? 'required' : 'optional',
        about,
      ]
        .filter(Boolean)
        .join(', ');
      return `  ${padEnd(name, width)}${facts}`;
    });
    return lines.length === 0 ? [] : [heading, ...lines, ''];
  };
  return [
    ...section('pipeline', `${stage}: the pipeline gives to the build`),
    ...section('host', `${stage}: the host gives to the server`),
  ].join('\n');
}
