/** Names that a read of a program needs. */
export interface Names {
  /** Object that holds values: `import.meta.env`. */
  env: string;
  /** Object that holds {@link env}: `import.meta`. */
  meta: string;
  /** Object of values of other tools. */
  foreign: string;
  /** Name that is read, as the code writes it. */
  name: string;
  /** Public name that has a value and is not read on purpose. */
  other: string;
}

/** One way to write a read. */
export interface Written {
  /** Statements before the expression. */
  before?: string;
  expression: string;
  /** Modules beside the one with the expression. */
  files?: Readonly<Record<string, string>>;
  isTypeScript?: true;
}

/** Every way to write a read of a name, from the plainest on. */
export const reads = {
  member: ({ env, name }) => ({ expression: `${env}.${name}` }),
  brackets: ({ env, name }) => ({ expression: `${env}['${name}']` }),
  doubleQuotes: ({ env, name }) => ({ expression: `${env}["${name}"]` }),
  backticks: ({ env, name }) => ({ expression: `${env}[\`${name}\`]` }),
  escaped: ({ env, name }) => ({ expression: `${env}['\\x${name.charCodeAt(0).toString(16)}${name.slice(1)}']` }),
  optional: ({ env, name }) => ({ expression: `${env}?.${name}` }),
  optionalBrackets: ({ env, name }) => ({ expression: `${env}?.['${name}']` }),
  optionalObject: ({ meta, name }) => ({ expression: `${meta}?.env?.${name}` }),
  parentheses: ({ env, name }) => ({ expression: `(${env}).${name}` }),
  innerParentheses: ({ meta, name }) => ({ expression: `(${meta}).env.${name}` }),
  lines: ({ meta, name }) => ({ expression: `${meta}\n  .env\n  .${name}` }),
  comment: ({ env, name }) => ({ expression: `${env}/* of this build */.${name}` }),
  objectInBrackets: ({ meta, name }) => ({ expression: `${meta}['env'].${name}` }),
  nonNull: ({ env, name }) => ({ expression: `${env}.${name}!`, isTypeScript: true }),
  cast: ({ env, name }) => ({ expression: `(${env} as any).${name}`, isTypeScript: true }),
  castValue: ({ env, name }) => ({ expression: `(${env}.${name} as string)`, isTypeScript: true }),
  satisfied: ({ env, name }) => ({ expression: `(${env} satisfies object).${name}`, isTypeScript: true }),

  constantKey: ({ env, name }) => ({ before: `const key = '${name}';`, expression: `${env}[key]` }),
  assignedKey: ({ env, name, other }) => ({
    before: `let key = '${other}';\nkey = '${name}';`,
    expression: `${env}[key]`,
  }),
  branchedKey: ({ env, name, other }) => ({
    before: `let key = '${other}';\nif (globalThis.yes) key = '${name}';`,
    expression: `${env}[key]`,
  }),
  closedKey: ({ env, name, other }) => ({
    before: `let key = '${other}';\nconst choose = () => { key = '${name}'; };\nchoose();`,
    expression: `${env}[key]`,
  }),
  variableKey: ({ env, name }) => ({ before: `var key = '${name}';`, expression: `${env}[key]` }),
  parameterKey: ({ env, name }) => ({ expression: `((key) => ${env}[key])('${name}')` }),
  defaultKey: ({ env, name }) => ({ expression: `((key = '${name}') => ${env}[key])()` }),
  overriddenKey: ({ env, name, other }) => ({ expression: `((key = '${other}') => ${env}[key])('${name}')` }),
  loopKey: ({ env, name, other }) => ({
    before: `let last;\nfor (const key of ['${other}', '${name}']) last = ${env}[key];`,
    expression: 'last',
  }),
  countedKey: ({ env, name, other }) => ({
    before: `let found;\nfor (let key = '${other}', at = 0; at < 2; at++, key = '${name}') found = ${env}[key];`,
    expression: 'found',
  }),
  madeKey: ({ env, name }) => ({
    before: `const make = (key) => () => ${env}[key];`,
    expression: `make('${name}')()`,
  }),
  importedKey: ({ env, name }) => ({
    before: "import { key } from './names';",
    expression: `${env}[key]`,
    files: { 'names.js': `export const key = '${name}';\n` },
  }),
  passedOnKey: ({ env, name }) => ({
    before: "import { key } from './all';",
    expression: `${env}[key]`,
    files: { 'names.js': `export const key = '${name}';\n`, 'all.js': "export * from './names';\n" },
  }),
  importedVariableKey: ({ env, name, other }) => ({
    before: "import { key, choose } from './names';\nchoose();",
    expression: `${env}[key]`,
    files: { 'names.js': `export let key = '${other}';\nexport function choose() { key = '${name}'; }\n` },
  }),
  objectKey: ({ env, name }) => ({ before: `const keys = { api: '${name}' };`, expression: `${env}[keys.api]` }),
  changedObjectKey: ({ env, name, other }) => ({
    before: `const keys = { api: '${other}' };\nkeys.api = '${name}';`,
    expression: `${env}[keys.api]`,
  }),
  frozenObjectKey: ({ env, name }) => ({
    before: `const keys = Object.freeze({ api: '${name}' });`,
    expression: `${env}[keys.api]`,
  }),
  enumKey: ({ env, name }) => ({
    before: `enum Keys { Api = '${name}' }`,
    expression: `${env}[Keys.Api]`,
    isTypeScript: true,
  }),
  constEnumKey: ({ env, name }) => ({
    before: `const enum Keys { Api = '${name}' }`,
    expression: `${env}[Keys.Api]`,
    isTypeScript: true,
  }),
  joinedKey: ({ env, name }) => ({ expression: `${env}['${name.slice(0, 4)}' + '${name.slice(4)}']` }),
  templateKey: ({ env, name }) => ({
    before: `const start = '${name.slice(0, 4)}';`,
    expression: `${env}[\`\${start}${name.slice(4)}\`]`,
  }),
  chosenKey: ({ env, name, other }) => ({ expression: `${env}[globalThis.yes ? '${name}' : '${other}']` }),
  shadowedKey: ({ env, name, other }) => ({
    before: `const key = '${other}';`,
    expression: `((key) => ${env}[key])('${name}')`,
  }),

  destructured: ({ env, name }) => ({ before: `const { ${name} } = ${env};`, expression: name }),
  renamed: ({ env, name }) => ({ before: `const { ${name}: one } = ${env};`, expression: 'one' }),
  quotedRenamed: ({ env, name }) => ({ before: `const { '${name}': one } = ${env};`, expression: 'one' }),
  withDefault: ({ env, name }) => ({ before: `const { ${name} = 'own' } = ${env};`, expression: name }),
  renamedWithDefault: ({ env, name }) => ({ before: `const { ${name}: one = 'own' } = ${env};`, expression: 'one' }),
  withLogicalDefault: ({ env, name }) => ({
    before: `const { ${name}: one = globalThis.no || 'own' } = ${env};`,
    expression: 'one',
  }),
  withFunctionDefault: ({ env, name }) => ({
    before: `const { ${name}: one = () => 'own' } = ${env};`,
    expression: '(typeof one === "string" ? one : one())',
  }),
  withReadAsDefault: ({ env, name, other }) => ({
    before: `const { ${name}: one = ${env}.${other} } = ${env};`,
    expression: 'one',
  }),
  letDestructured: ({ env, name }) => ({ before: `let { ${name}: one } = ${env};`, expression: 'one' }),
  changedDestructured: ({ env, name }) => ({
    before: `let { ${name}: one } = ${env};\none += '/changed';`,
    expression: 'one',
  }),
  severalDestructured: ({ env, name, other }) => ({
    before: `const { ${other}: first, ${name}: one } = ${env}, last = first;`,
    expression: '(one ?? last)',
  }),
  rest: ({ env, name, other }) => ({
    before: `const { ${other}: first, ...rest } = ${env};`,
    expression: `rest.${name}`,
  }),
  computedDestructured: ({ env, name }) => ({
    before: `const key = '${name}';\nconst { [key]: one } = ${env};`,
    expression: 'one',
  }),
  besideComputed: ({ env, name, other }) => ({
    before: `const key = '${other}';\nconst { [key]: first, ${name}: one = 'own' } = ${env};`,
    expression: '(one ?? first)',
  }),
  besideRunTime: ({ env, name, other }) => ({
    before: `const { [globalThis.yes ? '${other}' : 'NONE']: first, ${name}: one = 'own' } = ${env};`,
    expression: '(one ?? first)',
  }),
  literalComputedDestructured: ({ env, name }) => ({
    before: `const { ['${name}']: one } = ${env};`,
    expression: 'one',
  }),
  nestedDestructured: ({ meta, name }) => ({ before: `const { env: { ${name} } } = ${meta};`, expression: name }),
  nestedDefault: ({ meta, name }) => ({
    before: `const { env: { ${name}: one = 'own' } = {} } = ${meta};`,
    expression: 'one',
  }),
  destructuredObject: ({ meta, name }) => ({ before: `const { env } = ${meta};`, expression: `env.${name}` }),
  renamedObject: ({ meta, name }) => ({ before: `const { env: all } = ${meta};`, expression: `all.${name}` }),
  destructuredParameter: ({ env, name }) => ({ expression: `(({ ${name}: one }) => one)(${env})` }),
  destructuredDefaultParameter: ({ env, name }) => ({ expression: `(({ ${name}: one } = ${env}) => one)()` }),
  destructuredAssignment: ({ env, name }) => ({
    before: `let one;\n({ ${name}: one } = ${env});`,
    expression: 'one',
  }),
  destructuredLoop: ({ env, name }) => ({
    before: `let one;\nfor (const { ${name}: each } of [${env}]) one = each;`,
    expression: 'one',
  }),
  exportedDestructured: ({ env, name }) => ({
    before: "import { one } from './settings';",
    expression: 'one',
    files: { 'settings.js': `export const { ${name}: one } = ${env};\n` },
  }),
  exportedRead: ({ env, name }) => ({
    before: "import { one } from './settings';",
    expression: 'one',
    files: { 'settings.js': `export const one = ${env}.${name};\n` },
  }),
  settingsObject: ({ env, name, other }) => ({
    before: "import { settings } from './settings';",
    expression: 'settings.one',
    files: { 'settings.js': `export const settings = {\n  other: ${env}.${other},\n  one: ${env}.${name},\n};\n` },
  }),

  alias: ({ env, name }) => ({ before: `const all = ${env};`, expression: `all.${name}` }),
  letAlias: ({ env, name }) => ({ before: `let all = ${env};`, expression: `all.${name}` }),
  changedAlias: ({ env, name }) => ({
    before: `let all = ${env};\nif (globalThis.yes) all = { ${name}: 'own' };`,
    expression: `all.${name}`,
  }),
  lateAlias: ({ env, name }) => ({ before: `let all;\nall = ${env};`, expression: `all.${name}` }),
  aliasBrackets: ({ env, name }) => ({ before: `const all = ${env};`, expression: `all['${name}']` }),
  aliasDestructured: ({ env, name }) => ({
    before: `const all = ${env};\nconst { ${name}: one } = all;`,
    expression: 'one',
  }),
  aliasDefault: ({ env, name }) => ({
    before: `const all = ${env};\nconst { ${name}: one = 'own' } = all;`,
    expression: 'one',
  }),
  aliasOfAlias: ({ env, name }) => ({ before: `const all = ${env};\nconst e = all;`, expression: `e.${name}` }),
  objectAlias: ({ meta, name }) => ({ before: `const host = ${meta};`, expression: `host.env.${name}` }),
  importedAlias: ({ env, name }) => ({
    before: "import { all } from './settings';",
    expression: `all.${name}`,
    files: { 'settings.js': `export const all = ${env};\n` },
  }),
  defaultExport: ({ env, name }) => ({
    before: "import all from './settings';",
    expression: `all.${name}`,
    files: { 'settings.js': `export default ${env};\n` },
  }),
  field: ({ env, name }) => ({
    before: `class Settings { all = ${env}; get one() { return this.all.${name}; } }`,
    expression: 'new Settings().one',
  }),
  parameterAlias: ({ env, name }) => ({ expression: `((all) => all.${name})(${env})` }),
  orEmpty: ({ env, name }) => ({ before: `const all = ${env} || {};`, expression: `all.${name}` }),
  inlineOrEmpty: ({ env, name }) => ({ expression: `(${env} ?? {}).${name}` }),
  chosenAlias: ({ env, name }) => ({
    before: `const all = globalThis.yes ? ${env} : {};`,
    expression: `all.${name}`,
  }),
  shadowedAlias: ({ env, name }) => ({
    before: `const all = ${env};`,
    expression: `((all) => all.${name})({ ${name}: 'own' })`,
  }),
  spread: ({ env, name }) => ({ expression: `({ ...${env} }).${name}` }),
  spreadAlias: ({ env, name }) => ({ before: `const all = { ...${env} };`, expression: `all.${name}` }),
  assigned: ({ env, name }) => ({ expression: `Object.assign({}, ${env}).${name}` }),
  entries: ({ env, name }) => ({
    expression: `Object.entries(${env}).find(([key]) => key === '${name}')?.[1]`,
  }),
  present: ({ env, name }) => ({ expression: `('${name}' in ${env})` }),
  owned: ({ env, name }) => ({ expression: `Object.hasOwn(${env}, '${name}')` }),
  kind: ({ env, name }) => ({ expression: `typeof ${env}.${name}` }),
  guarded: ({ env, meta, name }) => ({ expression: `(typeof ${meta} !== 'undefined' && ${env}.${name})` }),
  guardedObject: ({ env, name }) => ({ expression: `(${env} && ${env}.${name})` }),
  written: ({ env, name }) => ({ before: `${env}.${name} = 'own';`, expression: `${env}.${name}` }),
  writtenThroughAlias: ({ env, name }) => ({
    before: `const all = ${env};\nall.${name} = 'own';`,
    expression: `all.${name}`,
  }),
  deleted: ({ env, name }) => ({ before: `delete ${env}.${name};`, expression: `${env}.${name}` }),

  text: ({ env, name }) => ({ expression: `'${env}.${name}'` }),
  templateText: ({ env, name }) => ({ expression: `\`<\${1}>${env}.${name}\`` }),
  pattern: ({ env, name }) => ({ expression: `/${env}.${name}/.source` }),
  commented: ({ env, name }) => ({ before: `// ${env}.${name}`, expression: "'own'" }),
  ownObject: ({ env, name }) => ({
    before: `const own = { ${env.split('.')[0]}: { meta: { env: { ${name}: 'own' } }, env: { ${name}: 'own' } } };`,
    expression: `own.${env}.${name}`,
  }),
  ownEnv: ({ name }) => ({ before: `const env = { ${name}: 'own' };`, expression: `env.${name}` }),
  shadowedProcess: ({ name }) => ({ expression: `((process) => process.env.${name})({ env: { ${name}: 'own' } })` }),
  foreign: ({ foreign, name }) => ({ expression: `${foreign}.${name}` }),
  foreignAlias: ({ foreign, name }) => ({ before: `const all = ${foreign};`, expression: `all.${name}` }),
  foreignDestructured: ({ foreign, name }) => ({ before: `const { ${name}: one } = ${foreign};`, expression: 'one' }),
  foreignKey: ({ foreign, name }) => ({ before: `const key = '${name}';`, expression: `${foreign}[key]` }),
  ofGlobal: ({ name }) => ({ expression: `globalThis.process.env.${name}` }),
  ofGlobalOptional: ({ name }) => ({ expression: `globalThis.process?.env?.${name}` }),
  ofWindow: ({ name }) => ({ expression: `window.process.env.${name}` }),

  required: ({ env, name }) => ({
    before: `function required(name) {\n  const value = ${env}[name];\n  if (!value) throw new Error(name);\n  return value;\n}`,
    expression: `required('${name}')`,
  }),
  importedRequired: ({ env, name }) => ({
    before: "import { required } from './settings';",
    expression: `required('${name}')`,
    files: {
      'settings.js': `export function required(name) {\n  if (!${env}[name]) throw new Error(name);\n  return ${env}[name];\n}\n`,
    },
  }),
  checked: ({ env, name }) => ({
    before: `const check = (all) => ({ one: all.${name} });`,
    expression: `check(${env}).one`,
  }),
} satisfies Readonly<Record<string, (names: Names) => Written>>;
