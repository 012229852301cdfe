import { forms } from '../forms/index.js';

/** The forms to guess, the most specific first, without those that fit everything. */
const candidates = ['pem', 'flag', 'port', 'integer', 'number', 'date', 'email', 'url', 'json'] as const;

/** Endings of names that say what a value is, even where one of the values is broken. */
const byName: readonly (readonly [RegExp, string])[] = [
  [/(^|_)UR[LI]$/, 'url'],
  [/(^|_)E?MAIL(_ADDRESS)?$/, 'email'],
  [/(^|_)PORT$/, 'port'],
];

export interface FormGuess {
  form: string;
  because: string;
}

/**
 * Guesses the form of a variable from its name and values; undefined for text.
 * @param values of all stages, without empty ones
 */
export function guessForm(name: string, values: readonly string[]): FormGuess | undefined {
  const named = byName.find(([ending]) => ending.test(name))?.[1];
  // A URL without its scheme still counts as one.
  const fits = (text: string) => forms[named ?? '']?.problem(text) === undefined;
  const fitting = values.filter(fits);
  const isNearly = named === 'url' && values.some((text) => /[.:]/.test(text) && fits(`https://${text}`));
  if (named && (values.length === 0 || fitting.length > 0 || isNearly))
    return {
      form: named,
      because: `by its name${values.length > 0 ? `; ${fitting.length} of ${values.length} values fit` : ''}`,
    };
  const form = allHave(name, values);
  return form
    ? { form, because: values.length === 1 ? 'by its only value' : `by all of its ${values.length} values` }
    : undefined;
}

function allHave(name: string, values: readonly string[]): string | undefined {
  if (values.length === 0) return undefined;
  return candidates.find(
    (form) => fitsName(form, name, values) && values.every((text) => forms[form]?.problem(text) === undefined),
  );
}

function fitsName(form: string, name: string, values: readonly string[]): boolean {
  if (form === 'port') return /(^|_)PORT$/.test(name);
  if (form === 'flag')
    return (
      values.every((text) => /^(true|false)$/i.test(text)) ||
      (values.every((text) => /^(0|1|yes|no|on|off)$/i.test(text)) &&
        (/^(IS|HAS|USE|ENABLE|SHOW|DEBUG)_|_(ENABLED|DISABLED|ON|OFF)$|_ENABLE$/.test(name) ||
          (values.includes('0') && values.includes('1'))))
    );
  // A number that begins with a zero is a code, and a long one an identifier.
  if (form === 'integer') return values.every((text) => /^-?(0|[1-9]\d{0,8})$/.test(text));
  if (form === 'number')
    return (
      values.every((text) => /^-?\d+\.\d+$/.test(text)) || values.every((text) => /^-?\d{1,9}(\.\d+)?$/.test(text))
    );
  if (form === 'json') return values.every((text) => /^\s*[[{]/.test(text));
  return true;
}
