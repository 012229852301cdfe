import { quoted } from '../text/display.js';

/** A change to a text file. Offsets are UTF-16 code units. */
export interface TextEdit {
  path: string;
  start: number;
  end: number;
  text: string;
}

/** One step of a remedy: an instruction for a person, a command as its words, or an edit of a file. */
export type Step = { advise: string } | { run: readonly string[] } | { edit: TextEdit };

/** Steps of a remedy, in the order in which they are printed. */
export type Remedy = readonly Step[];

/** A command of a remedy: words, which are quoted only when they are printed. */
export function run(...words: readonly string[]): Step {
  return { run: words };
}

/** A remedy as a template: text between commands is an instruction. */
export function steps(texts: TemplateStringsArray, ...parts: readonly (string | number | Step)[]): Remedy {
  const found: Step[] = [];
  const add = (text: string) => {
    const last = found.at(-1);
    if (text === '') return;
    if (last && 'advise' in last) last.advise += text;
    else found.push({ advise: text });
  };
  texts.forEach((text, index) => {
    add(text);
    const part = parts[index];
    if (part === undefined) return;
    if (typeof part === 'object') found.push(part);
    else add(String(part));
  });
  return found;
}

/** A command as it can be pasted into a shell. */
export function commandText(words: readonly string[]): string {
  return words.map(quoted).join(' ');
}

/** A remedy as text, with its commands as they can be pasted. The instructions name what an edit changes. */
export function remedyText(remedy: Remedy): string {
  return remedy.map((step) => ('advise' in step ? step.advise : 'run' in step ? commandText(step.run) : '')).join('');
}
