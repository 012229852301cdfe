/** Where a source file runs, as far as its path and its first lines say. */
export type FileSide = 'browser' | 'server' | 'build' | 'test';

const testFile =
  /(^|\/)(tests?|__tests__|__mocks__|e2e|cypress|playwright|fixtures)\/|\.(test|spec|stories|cy)\.[a-z]+$/;

const buildFile =
  /(^|\/)([\w.-]+\.|\.[\w-]+\/)config\.[cm]?[jt]s$|(^|\/)(gatsby-(config|node|ssr)|gulpfile|gruntfile|metro\.transform)\.[cm]?[jt]s$/i;

/** Names that frameworks and hosts run on a server wherever they are. */
const serverFile =
  /(^|\/)server\/|\.server\.[cm]?[jt]sx?$|(^|\/)\+(server|page\.server|layout\.server)\.[cm]?[jt]s$|(^|\/)hooks\.server\.|(^|\/)(pages|app)\/api\/|(^|\/)(route|server|middleware)\.[cm]?[jt]s$|(^|\/)entry-server\.|(^|\/)netlify\/functions\//;

/** Directories beside the source code: `src/workers/` has web workers, `workers/` has programs of a server. */
const buildDirectory = /^(.*\/)?(scripts|tools|build|ci|\.github)\//i;
const serverDirectory = /^(.*\/)?(backend|functions|netlify|lambda|workers?)\//;
const sourceDirectory = /(^|\/)(src|app|lib|pages|routes|components|public|static|assets)\//;

/** Where a file runs by its path alone, or undefined if the path does not say. */
export function sideOfPath(path: string): Exclude<FileSide, 'browser'> | undefined {
  if (testFile.test(path)) return 'test';
  if (buildFile.test(path) || isBesideSource(path, buildDirectory)) return 'build';
  return serverFile.test(path) || isBesideSource(path, serverDirectory) ? 'server' : undefined;
}

function isBesideSource(path: string, directory: RegExp): boolean {
  const match = directory.exec(path);
  return match !== null && !sourceDirectory.test(match[1] ?? '');
}

/**
 * Where a source file of a bundle runs.
 * @param isServerCode whether the contract, or the toolchain's convention, says that the path is server code
 */
export function sideOfFile({ path, text }: { path: string; text: string }, isServerCode: boolean): FileSide {
  const side = sideOfPath(path);
  if (side === 'test' || side === 'build') return side;
  return isServerCode || side === 'server' || hasServerMark(text) ? 'server' : 'browser';
}

/** Tells whether the framework refuses to bundle the file for browsers, because of its path or a directive. */
export function isKeptByBuild(file: { path: string; text: string }): boolean {
  const path = file.path.replace(/(^|\/)lib\/server\//, '$1');
  return sideOfFile(file, false) === 'server' && !/(^|\/)server\//.test(path);
}

/** `"use server"` as the first statement, or an import that refuses to be in a browser bundle. */
function hasServerMark(text: string): boolean {
  const head = text.slice(0, 2000);
  return startsWithDirective(head, 'use server') || serverImport.test(head);
}

/** The second one is of SvelteKit, whose remote functions have it. */
const serverImport = /^\s*import\s+(?:['"]server-only['"]|[^'";]*\sfrom\s+['"]\$app\/server['"])/m;

/** Tells whether a file declares that it, and what it imports, runs in the browser. */
export function hasClientMark(text: string): boolean {
  return startsWithDirective(text.slice(0, 2000), 'use client');
}

/** White space and comments. Each character matches only one branch, so the expression cannot backtrack. */
const blanks = /^(?:\s|\/\/[^\n]*\n|\/\*(?:[^*]|\*(?!\/))*\*\/)*/;

function startsWithDirective(text: string, directive: string): boolean {
  const at = blanks.exec(text)?.[0].length ?? 0;
  return (
    text.startsWith(directive, at + 1) && /['"]/.test(text[at] ?? '') && text[at] === text[at + 1 + directive.length]
  );
}
