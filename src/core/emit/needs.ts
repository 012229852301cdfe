import { isRequired, type Variable } from '../contract/contract.js';
import { padEnd } from '../report/layout.js';
import type { Resolution } from '../resolve/resolve.js';
import type { EmitKind } from './kind.js';

interface Need {
  name: string;
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
  emit({ resolution, as, call }) {
    if (!resolution) return '';
    const all = needsOf(resolution);
    const { name } = resolution.stage;
    if (as === 'json') return `${JSON.stringify({ stage: name, needs: all }, null, 2)}\n`;
    if (as === 'env') return `# Made by \`${call}\`.\n${all.map(envLine).join('')}`;
    return textOf(name, all);
  },
};

function needsOf({ stage, values, layers }: Resolution): Need[] {
  return [...values.values()].flatMap(({ variable }): Need[] => {
    const inFiles = layers.some(
      ({ name, offers }) => name !== 'process' && offers.some((offer) => offer.name === variable.name),
    );
    const isGiven = variable.default !== undefined || (variable.reach !== 'server' && inFiles);
    if (isGiven) return [];
    const { name, reach, form, about } = variable;
    const required = isRequired(variable, stage.name);
    return [
      { name, by: reach === 'server' ? 'host' : 'pipeline', reach, form: form.name, required, ...(about && { about }) },
    ];
  });
}

function envLine({ name, by, form, required, about }: Need): string {
  return `# ${[`for the ${by}`, form, required ? 'required' : 'optional', about].filter(Boolean).join(', ')}\n${name}=\n`;
}

function textOf(stage: string, all: readonly Need[]): string {
  if (all.length === 0) return `${stage} needs nothing from outside its files\n`;
  const width = Math.max(...all.map(({ name }) => name.length)) + 2;
  const section = (by: Need['by'], heading: string) => {
    const needs = all.filter((need) => need.by === by);
    const lines = needs.map(({ name, reach, form, required, about }) => {
      const facts = [reach, form, required ? 'required' : 'optional', about].filter(Boolean).join(', ');
      return `  ${padEnd(name, width)}${facts}`;
    });
    return lines.length === 0 ? [] : [heading, ...lines, ''];
  };
  return [
    ...section('pipeline', `${stage}: the pipeline gives to the build`),
    ...section('host', `${stage}: the host gives to the server`),
  ].join('\n');
}
