import { parse } from 'yaml';
import { commandsOf, type Found } from './found.js';

/** The files of a project, and its shell. */
export interface Desk {
  read(path: string): string;
  write(path: string, text: string): void;
  /** Runs a line as somebody types it. @throws Error if it fails */
  type(line: string): void;
}

/** Does what a remedy says. @throws Error if it cannot be done */
export type Follower = (at: Desk, found: Found) => void;

/**
 * The work of a person for each finding whose remedy is an instruction. If a remedy offers several ways, it is the one that needs no
 * knowledge of the project. Findings of other kinds are followed by hand.
 */
const followers: Readonly<Record<string, Follower>> = {
  'value/missing unset': (at, { facts }) => addLine(at, String(facts.file), `${facts.variable}=${sample(facts.form)}`),
  'value/missing stages': (at, { facts }) => addLine(at, String(facts.file), `${facts.variable}=${sample(facts.form)}`),
  'value/ambiguous shell': (at, found) =>
    /real line break/.test(found.remedy)
      ? changeLine(at, found, '\\n', '\n')
      : changeLine(at, found, /=(["']?)(.*)\1$/, "='$2'"),
  'value/duplicate line': (at, found) => changeLine(at, found, /^.*$/, ''),
  'value/undeclared name': (at, { facts }) =>
    addLine(at, 'adder.yaml', `  ${facts.variable}: { reach: server, required: false }`),
  'value/old-name name': (at, found) => changeLine(at, found, String(found.facts.old), String(found.facts.variable)),
  'value/untidy spaces': (at, found) => changeLine(at, found, /\s*=\s*/, '='),
  'code/unknown-name misnamed': (at, found) => rename(at, found, String(found.facts.right)),
  'code/unknown-name undeclared': (at, found) => {
    const { near: [near] = [], right = near } = found.facts as { near?: string[]; right?: string };
    if (right === undefined) throw new Error('nothing near');
    rename(at, found, right);
  },
  'code/unknown-name server': (at, { facts }) =>
    addLine(at, 'adder.yaml', `  ${facts.name}: { reach: server, required: false }`),
  'code/unreachable-read object': fix,
  'code/unreachable-read form': fix,
  'code/whole-object carried': fix,
  'code/hard-coded value': fix,
  'code/fallback fallback': (at, found) =>
    changeLine(at, found, /\s*(\?\?|\|\||=(?!=|>)(?=[^;]*\}))\s*(['"`]).*?\2/, ''),
  'code/unset nowhere': setInLayers,
  'code/unset stages': setInLayers,
  'code/server-read passed': publish,
  'code/server-read browser': (at, found) => changeLine(at, found, new RegExp(`[\\w.]+\\.${found.variable}\\b`), "''"),
  'code/server-read sent': (at, found) => changeLine(at, found, /^.*$/, ''),
  'code/unused unread': (at, { variable }) => changeText(at, 'adder.yaml', new RegExp(`^  ${variable}:.*\n`, 'm'), ''),
  'repo/not-ignored values': ignore,
  'repo/not-ignored absent': ignore,
  'repo/not-ignored local': ignore,
  'repo/tracked values': (at, found) => {
    ignore(at, found);
    for (const name of found.facts.names as string[]) rotate(at, String(found.facts.path), name);
  },
  'repo/packed image': (at, { facts }) => {
    for (const file of facts.files as string[]) addLine(at, `${facts.folder}.dockerignore`, file);
  },
  'repo/pipeline-gap lacks': (at, { facts, place }) => setInStep(at, place?.path ?? '', String(facts.variable)),
  'value/malformed form': (at, { facts, place }) => setLine(at, place, String(facts.example)),
  'value/placeholder value': (at, { place, facts }) => setLine(at, place, sample(facts.form)),
  'value/empty empty': (at, { place, facts }) => setLine(at, place, sample(facts.form)),
  'value/undeclared node-env': (at, found) => changeLine(at, found, /^.*$/, ''),
  'repo/example-drift extra': (at, found) => {
    const [near = ''] = found.facts.near as string[];
    changeLine(at, found, String(found.facts.name), near);
  },
  'repo/packed copied-directory': (at, { facts }) => at.type(`mkdir -p ops && mv '${facts.path}' ops/moved.env`),
  'repo/pipeline-gap misspelt': (at, { facts, place }) =>
    changeText(at, place?.path ?? '', String(facts.name), String(facts.variable)),
};

/** Tells whether somebody can follow a remedy without knowing the project. */
export function isFollowed(found: Found): boolean {
  return followerOf(found) !== undefined || commandsOf(found).length > 0;
}

/** Does what a remedy says: its commands, then the rest. @throws Error if something of it fails */
export function follow(at: Desk, found: Found): void {
  for (const command of commandsOf(found)) at.type(command);
  followerOf(found)?.(at, found);
}

/** @returns undefined for a finding that is followed by hand: only its author knows what an answer of a server needs */
function followerOf({ code, variant, facts }: Found): Follower | undefined {
  return variant === 'sent' && facts.to !== 'log' ? undefined : followers[`${code} ${variant}`];
}

/** A valid value of a form. */
function sample(form: unknown): string {
  const known: Record<string, string> = {
    url: 'https://made-up.saltmarsh.example',
    flag: 'true',
    integer: '12',
    number: '12',
    port: '4180',
    email: 'quay@saltmarsh.example',
  };
  return known[String(form)] ?? 'made-up-value-of-the-follower';
}

function changeText(at: Desk, path: string, from: string | RegExp, to: string): void {
  const text = at.read(path);
  const changed = text.replace(from, to);
  if (changed === text) throw new Error(`${path} has no ${from}`);
  at.write(path, changed);
}

/** Changes the line of a finding, from its column on; the line goes if nothing is left of it. */
function changeLine(at: Desk, { place }: Found, from: string | RegExp, to: string): void {
  const { path = '', line = 1 } = place ?? {};
  const lines = at.read(path).split('\n');
  const text = lines[line - 1] ?? '';
  const changed = text.replace(from, to);
  if (changed === text) throw new Error(`${path}:${line} has no ${from}`);
  lines.splice(line - 1, 1, ...(changed === '' ? [] : [changed]));
  at.write(path, lines.join('\n'));
}

/** Writes another name, or a whole read, in the place of the one that a finding is about. */
function rename(at: Desk, found: Found, right: string): void {
  const name = String(found.facts.name).replace(/^.*\./, '');
  const isWhole = right.includes('.');
  const line = at.read(found.place?.path ?? '').split('\n')[(found.place?.line ?? 1) - 1] ?? '';
  if (isWhole && new RegExp(`\\{[^}]*\\b${name}\\b|^\\s*\\.`).test(line))
    throw new Error('a pattern has no place for a read, and a line may have a part of one');
  changeLine(at, found, new RegExp(`${isWhole ? '(?:[\\w]+\\.)*' : ''}\\b${name}\\b`), right);
}

function addLine(at: Desk, path: string, line: string): void {
  let text = '';
  try {
    text = at.read(path);
  } catch {
    // The remedy says in which file the line belongs, be it there or not.
  }
  at.write(path, `${text}${text === '' || text.endsWith('\n') ? '' : '\n'}${line}\n`);
}

function fix(at: Desk): void {
  // It ends with 1 if it leaves other findings.
  at.type('adder lint --fix > /dev/null || test $? = 1');
}

function ignore(at: Desk, { facts }: Found): void {
  const { line, file } = facts.ignore as { line: string; file: string };
  addLine(at, file, line);
}

/** For whoever knows that anybody may have the value. */
function publish(at: Desk, { variable }: Found): void {
  changeText(at, 'adder.yaml', new RegExp(`^(  ${variable}: (?:\\{ reach: )?)(server|build)`, 'm'), '$1public');
}

/** Another value for a name of an env file. */
function rotate(at: Desk, path: string, name: string): void {
  setName(at, path, name, 'made-up-new-value-of-the-follower');
}

/** Sets a name in a file of values: an env file, or JSON with keys in another spelling. */
function setName(at: Desk, path: string, name: string, value: string): void {
  if (!path.endsWith('.json')) {
    const line = new RegExp(`^${name}=.*$`, 'm');
    if (line.test(at.read(path))) changeText(at, path, line, `${name}=${value}`);
    else addLine(at, path, `${name}=${value}`);
    return;
  }
  const values = JSON.parse(at.read(path));
  const spelled = (key: string) => key.replace(/([a-z])([A-Z])/g, '$1_$2').toUpperCase();
  const key = Object.keys(values).find((one) => spelled(one) === name) ?? name;
  at.write(path, `${JSON.stringify({ ...values, [key]: value }, undefined, 2)}\n`);
}

function setLine(at: Desk, place: Found['place'], value: string): void {
  changeLine(at, { place } as Found, /=.*$/, `=${value}`);
}

/** A setting of the step that builds, from the secret store. */
function setInStep(at: Desk, path: string, name: string): void {
  const setting = `${name}: \${{ secrets.${name} }}`;
  const text = at.read(path);
  const has = /^( +)env:\n/m.exec(text);
  const step = /^( *)- run: .*adder with.*\n/m.exec(text) ?? /^( *)run: .*adder with.*\n/m.exec(text);
  if (has) changeText(at, path, has[0], `${has[0]}${has[1]}  ${setting}\n`);
  else if (step) changeText(at, path, step[0], `${step[0]}${step[1]}  env:\n${step[1]}    ${setting}\n`);
  else throw new Error(`${path} has no step that builds`);
}

/** A line in every file that is a layer. */
function setInLayers(at: Desk, { variable }: Found): void {
  const { stages } = parse(at.read('adder.yaml')) as { stages: Record<string, { layers: unknown[] }> };
  const files = Object.values(stages).map(({ layers }) =>
    layers.findLast((one): one is string => typeof one === 'string' && one !== 'process'),
  );
  for (const path of new Set(files))
    if (path !== undefined) setName(at, path, variable ?? '', 'https://made-up.saltmarsh.example');
}
