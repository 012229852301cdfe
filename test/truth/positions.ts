/** Where an expression is. `seen` notes a value. */
export interface Position {
  code(expression: string): string;
  /** Needs a compiler of JSX. */
  isMarkup?: true;
}

function position(code: (expression: string) => string): Position {
  return { code };
}

/** Every position of a read, from the plainest on. */
export const positions = {
  argument: position((read) => `seen(${read});`),
  template: position((read) => `seen(\`<\${${read}}>\`);`),
  tagged: position((read) => `seen(String.raw\`<\${${read}}>\`);`),
  constant: position((read) => `const value = ${read};\nseen(value);`),
  field: position((read) => `class View { url = ${read}; }\nseen(new View().url);`),
  staticField: position((read) => `class View { static url = ${read}; }\nseen(View.url);`),
  staticBlock: position((read) => `class View { static { seen(${read}); } }`),
  defaultParameter: position((read) => `((value = ${read}) => seen(value))();`),
  property: position((read) => `seen({ value: ${read} }.value);`),
  computedProperty: position((read) => `seen(Object.keys({ [${read}]: 1 })[0]);`),
  element: position((read) => `seen([1, ${read}][1]);`),
  spreadArgument: position((read) => `seen(...[${read}]);`),
  condition: position((read) => `if (${read}) seen('yes'); else seen('no');`),
  ternary: position((read) => `seen(${read} ? 'yes' : 'no');`),
  consequent: position((read) => `seen(globalThis.yes ? ${read} : 'no');`),
  alternate: position((read) => `seen(globalThis.no ? 'no' : ${read});`),
  negated: position((read) => `seen(!${read});`),
  and: position((read) => `seen(${read} && 'yes');`),
  fallback: position((read) => `seen(${read} ?? 'own');`),
  orFallback: position((read) => `seen(${read} || 'own');`),
  equal: position((read) => `seen(${read} === 'https://api.saltmarsh.example/ferries');`),
  member: position((read) => `seen(${read}.length);`),
  optionalMember: position((read) => `seen(${read}?.length);`),
  method: position((read) => `seen(${read}.replace('https', 'wss'));`),
  sum: position((read) => `seen('<' + ${read} + '>');`),
  returned: position((read) => `function get() { return ${read}; }\nseen(get());`),
  arrow: position((read) => `const get = () => ${read};\nseen(get());`),
  yielded: position((read) => `function* gathered() { yield ${read}; }\nseen([...gathered()][0]);`),
  awaited: position((read) => `seen(await ${read});`),
  sequence: position((read) => `seen((1, ${read}));`),
  switched: position((read) => `switch (${read}) { case undefined: seen('none'); break; default: seen('some'); }`),
  logicalAssignment: position((read) => `let value;\nvalue ??= ${read};\nseen(value);`),
  newArgument: position((read) => `seen(String(new Error(${read}).message));`),
  typeOf: position((read) => `seen(typeof ${read});`),
  nothing: position((read) => `seen(void ${read});`),
  thrown: position((read) => `try { throw ${read}; } catch (error) { seen(String(error)); }`),
  startOfLine: position((read) => `let before = seen\n${read}\nbefore('here')`),
  startOfLineMember: position((read) => `let before = seen\n${read}.length\nbefore('here')`),
  afterArray: position((read) => `let before = [1, 2]\n${read}.at(0)\nseen(before.length)`),
  afterStep: position((read) => `let count = 1\ncount++\n${read}.at(0)\nseen(count)`),
  statement: position((read) => `${read};\nseen('here');`),
  exported: position((read) => `export const value = ${read};\nseen(value);`),
  closure: position((read) => `const gathered = [1].map(() => ({ get: () => ${read} }));\nseen(gathered[0].get());`),
  block: position((read) => `{\n  const value = ${read};\n  seen(value);\n}`),
  loop: position((read) => `for (const turn of [1]) seen(turn && ${read});`),
  attribute: { code: (read) => `const view = <a href={${read}} />;\nseen(view.href);`, isMarkup: true },
  spreadAttribute: { code: (read) => `const view = <a {...{ href: ${read} }} />;\nseen(view.href);`, isMarkup: true },
  child: { code: (read) => `const view = <a>{${read}}</a>;\nseen(view.children[0]);`, isMarkup: true },
} satisfies Readonly<Record<string, Position>>;
