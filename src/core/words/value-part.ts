/** A part of a value that is often used alone, or what was found of a value. */
export interface ValuePart {
  is: keyof typeof nouns;
  /** For a string of a JSON document, and what is in it: the name of its property. */
  key?: string | undefined;
}

const nouns = {
  user: 'its user name',
  password: 'its password',
  login: 'its user name and password',
  string: 'a string in it',
  'key-line': 'a line of its key',
  'last-part': 'its last part',
  beginning: 'its beginning',
  end: 'its end',
  characters: 'some of its characters',
} as const;

/** `its password`, `private_key in it`. */
export function partText({ is, key }: ValuePart): string {
  if (key === undefined) return nouns[is];
  const string = `${key === '' ? 'a string' : key} in it`;
  return is === 'key-line' ? `a line of ${string}` : string;
}
