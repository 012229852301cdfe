import { Parser } from 'htmlparser2';
import { scriptLanguage } from '../files/languages.js';
import { rawElements, splitFrontMatter } from '../syntax/inline-scripts.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import type { Range } from '../text/ranges.js';
import type { Toolchain } from '../toolchains/toolchain.js';
import type { SourceText } from './model.js';
import { calledOnServer, mayCallServer } from './server-calls.js';

/** Names that route modules export for the server. HTTP methods are endpoints in Astro, SolidStart and Next. */
const serverExports =
  /\b(getServerSideProps|getStaticProps|getStaticPaths|getServerData|loader|action|on(?:Get|Post|Put|Patch|Delete|Head|Request)|GET|POST|PUT|PATCH|DELETE|HEAD|OPTIONS)\b/;

/** Modules of routes: below such a directory, the outermost layout, or with types that React Router generates for each. */
const isRoute = ({ path, text }: Pick<SourceText, 'path' | 'text'>): boolean =>
  /(^|\/)(pages|routes)\/|(^|\/)root\.[jt]sx?$/.test(path) || /['"]\.\/\+types\//.test(text);

/**
 * The ranges of a file that a framework runs only on the server, although the rest of it ships to the browser.
 * @param tool in an app without a server, a `loader` runs in the browser
 */
export function serverParts(
  file: Pick<SourceText, 'path' | 'text'>,
  tool: Pick<Toolchain, 'rendersOnServer' | 'name'>,
): Range[] {
  if (file.path.endsWith('.astro')) return outsideScripts(file.text);
  const kind = scriptLanguage(file.path);
  const mayHaveServer = tool.rendersOnServer === true || tool.name === 'other';
  const hasExports = mayHaveServer && serverExports.test(file.text) && isRoute(file);
  const hasCalls = mayCallServer.test(file.text);
  if (kind === undefined || !(hasExports || hasCalls)) return [];
  const { program } = parseSyntax(file.text, kind);
  return [...(hasExports ? exportedToServer(program) : []), ...(hasCalls ? calledOnServer(program) : [])];
}

function exportedToServer(program: Node): Range[] {
  return (program.body as Node[]).flatMap((statement) => {
    if (statement.type !== 'ExportNamedDeclaration' || !statement.declaration) return [];
    const declaration = statement.declaration as Node;
    const named = declaration.type === 'VariableDeclaration' ? (declaration.declarations as Node[]) : [declaration];
    return named
      .filter(({ id }) => serverExports.test(((id as Node | null)?.name as string | undefined) ?? ''))
      .map(({ start, end }) => ({ start, end }));
  });
}

/** The browser gets only the scripts of an Astro page, and components with a `client:` directive. */
function outsideScripts(text: string): Range[] {
  const { scripts, hydrated } = shippedElements(text);
  const imports = [...text.matchAll(/^\s*import\s+([^;'"]+?)\s+from\s+(["'])[^"'\n]+\2/gm)]
    .filter(([, names = '']) => names.split(/\W+/).some((name) => hydrated.has(name)))
    .map(({ 0: { length }, index }) => ({ start: index, end: index + length }));
  const shipped = [...scripts, ...imports].sort((a, b) => a.start - b.start);
  const starts = [0, ...shipped.map(({ end }) => end)];
  const ends = [...shipped.map(({ start }) => start), text.length];
  return starts.map((start, index) => ({ start, end: ends[index] as number }));
}

/** The scripts of an Astro template, and the names of components that start in the browser. */
function shippedElements(text: string): { scripts: readonly Range[]; hydrated: ReadonlySet<string> } {
  const { template } = splitFrontMatter(text);
  const hydrated = new Set<string>();
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        if (Object.keys(attributes).some((key) => key.startsWith('client:')))
          hydrated.add(name.split('.')[0] as string);
      },
    },
    { lowerCaseTags: false, lowerCaseAttributeNames: false, recognizeSelfClosing: true },
  );
  parser.end(template);
  return { scripts: rawElements(template, true).filter(({ name }) => name === 'script'), hydrated };
}
