import { mkdirSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/**
 * Lays out a project of Vite: modules of a usual size that import each other as a tree; one in so many reads a value.
 * @param {string} folder an empty directory
 * @param {{ count: number; every: number }} modules
 */
export function layOutModules(folder, { count, every }) {
  mkdirSync(join(folder, 'src'));
  for (let i = 0; i < count; i++) {
    const imports = [2 * i + 1, 2 * i + 2]
      .filter((n) => n < count)
      .map((n) => `import { part${n} } from './${n}.js';\n`);
    const parts = [2 * i + 1, 2 * i + 2].filter((n) => n < count).map((n) => `part${n}()`);
    const read = i % every === 0 ? 'import.meta.env.VITE_FERRY_API_URL' : `'pier ${i}'`;
    const lines = Array.from(
      { length: 40 },
      (_, n) => `  const line${n} = { berth: ${n}, name: 'ferry ' + ${n} * ${i}, list: [${n}, ${i}] };\n`,
    );
    const uses = Array.from({ length: 40 }, (_, n) => `line${n}.name`).join(' + ');
    writeFileSync(
      join(folder, 'src', `${i}.js`),
      `${imports.join('')}export function part${i}() {\n${lines.join('')}  return [${read}, ${uses}, ${parts.join(', ')}];\n}\n${i === 0 ? 'console.log(part0());\n' : ''}`,
    );
  }
  writeFileSync(join(folder, '.env.production'), 'FERRY_API_URL=https://api.saltmarsh.example\n');
  writeFileSync(join(folder, 'package.json'), '{ "type": "module" }');
  writeFileSync(
    join(folder, 'adder.yaml'),
    'adder: 1\nstages: { production: { layers: [.env.production] } }\nbundles: { web: { toolchain: vite, code: [src], output: [dist] } }\nvariables: { FERRY_API_URL: public }\n',
  );
  symlinkSync(join(import.meta.dirname, '../node_modules'), join(folder, 'node_modules'));
}
