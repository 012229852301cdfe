/** Counts how often a text has an identifier. @param asMember whether `object.name` counts too */
export function mentions(text: string, name: string, asMember: boolean): number {
  if (!text.includes(name)) return 0;
  const before = asMember ? '[\\w$]' : '[\\w$.]';
  return text.match(new RegExp(`(?<!${before})${name.replaceAll('$', '\\$')}(?![\\w$])`, 'g'))?.length ?? 0;
}
