/** Tells whether a whole text matches; `too slow` if that was not decided in the time that the host allows. */
export type Fit = 'yes' | 'no' | 'too slow';

/** Matches a whole text against a regular expression. The host bounds the time: some expressions take twice as long for each further character. */
export type FitsPattern = (source: string, text: string) => Fit;

/** Without a limit of time: for contracts whose author is trusted with it. */
export const fitsPattern: FitsPattern = (source, text) =>
  new RegExp(`^(?:${source})$`, 'u').test(text) ? 'yes' : 'no';
