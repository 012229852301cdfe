/** Names that no project declares: a tool, a host or the machine sets them. */
interface KnownNames {
  /** Build tools replace these in code, or set them for the build. */
  tools: readonly string[];
  /** Every process has these from its machine. */
  machine: readonly string[];
  /** Pipelines and hosts set these. */
  pipelines: readonly string[];
}

/** `*` stands for the rest of a name. */
export const knownNames: KnownNames = {
  tools: [
    ...['NODE_ENV', 'MODE', 'DEV', 'PROD', 'SSR', 'BASE_URL', 'PUBLIC_URL', 'LEGACY', 'STORYBOOK', 'VITEST'],
    ...['JEST_WORKER_ID', 'NEXT_RUNTIME', 'ADDER_STAGE'],
  ],
  machine: [
    ...['PATH', 'HOME', 'PWD', 'USER', 'SHELL', 'TERM', 'TZ', 'LANG', 'HOSTNAME', 'TMPDIR', 'TEMP', 'TMP'],
    ...['NO_COLOR', 'FORCE_COLOR', 'DEBUG', 'NODE_OPTIONS', 'NODE_PATH', 'npm_*'],
  ],
  pipelines: ['CI', 'GITHUB_*'],
};

/** Set by build tools in the code that they build. */
export const isToolName = namesIn(knownNames.tools);

/** Set by a tool, the machine or the pipeline, so not a variable of the project. */
export const isForeignName = namesIn([...knownNames.tools, ...knownNames.machine, ...knownNames.pipelines]);

/** Matches names, which may start or end with `*`. @param flags of the regular expression */
export function namesIn(patterns: readonly string[], flags = ''): (name: string) => boolean {
  const alternatives = patterns.map((one) => one.replace(/[()]/g, '\\$&').replace('*', '\\w+'));
  const expression = new RegExp(`^(${alternatives.join('|')})$`, flags);
  return (name) => expression.test(name);
}
