// Compiles the matcher's kernel from AssemblyScript, and puts it into a module of its own, so that it can be shipped in one file.
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import asc from 'assemblyscript/asc';

process.chdir(join(import.meta.dirname, '..'));
const folder = 'src/core/search/kernel';
let binary;
const { error, stderr } = await asc.main(
  // Memory belongs to the caller, and nothing is allocated: no runtime is needed.
  ...[
    [
      `${folder}/assembly/index.ts`,
      '--outFile',
      'kernel.wasm',
      '-O3',
      '--runtime',
      'stub',
      '--importMemory',
      '--noAssert',
    ],
    {
      writeFile(_, contents) {
        binary = contents;
      },
    },
  ],
);
if (error) throw new Error(`${error.message}\n${stderr}`);
const text = Buffer.from(binary).toString('base64');
writeFileSync(
  `${folder}/module.ts`,
  `// Made by scripts/kernel.mjs from assembly/; not kept in the repository.\nexport const kernel =\n  '${text}';\n`,
);
