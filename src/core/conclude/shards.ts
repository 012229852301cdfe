import { type Doubt, questions } from '../findings/check.js';
import { remedyText, run, steps } from '../words/remedy.js';
import type { Facts, OutputFacts } from './facts.js';

/** Why nothing is answered if parts of the outputs are missing. */
export function missingShards({ shards, stage }: Facts): Doubt[] {
  const of = shards[0]?.of ?? 0;
  const present = new Set(shards.map(({ part }) => part));
  const missing = Array.from({ length: of }, (_, index) => index + 1).filter((part) => !present.has(part));
  if (missing.length === 0) return [];
  const [parts, are] = missing.length === 1 ? ['part', 'is'] : ['parts', 'are'];
  const because = `${parts} ${missing.join(', ')} of ${of} ${are} missing`;
  const command = run('adder', 'inspect', '--stage', stage, '--shard', `${missing[0]}/${of}`, '--format', 'json');
  const remedy = remedyText(steps`run \`${command}\` and add its report`);
  return questions.map((question) => ({ question, because, remedy }));
}

/** One part without the others, as files that are no whole output: whether something leaked is all that it can answer. */
export function ofOneShard(facts: Facts): Facts {
  const loose = (output: OutputFacts): OutputFacts => ({ ...output, isWhole: false, hasBuilds: false });
  return { ...facts, outputs: facts.outputs.map(loose), shards: [], isAll: false };
}
