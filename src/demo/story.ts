import { copyFileSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** One step: a command that is shown and run, or a change that is shown as the command that would make it. */
export interface Step {
  says: string;
  /** As it is typed, `adder` first for Adder's own commands. */
  command: string;
  /** For Adder's commands: the exit code that the story expects. */
  expects?: number;
  /** For changes: what is done. */
  change?(folder: string): void;
}

const newUrl = 'https://booking.saltmarsh.example';

/** From a missing value to a stale bundle: the story that `adder demo` runs. */
export const story: readonly Step[] = [
  {
    says: 'What will the production build get? One value is missing.',
    command: 'adder values production',
    expects: 1,
  },
  {
    says: 'A build without it would ship "undefined", so it is refused.',
    command: 'adder with production -- npm run build',
    expects: 1,
  },
  {
    says: 'The value is given.',
    command: 'echo MAP_TILES_KEY=made-up-tiles-key-for-production >> .env.production',
    change: (folder) =>
      edit(folder, '.env.production', (text) => `${text}MAP_TILES_KEY=made-up-tiles-key-for-production\n`),
  },
  {
    says: 'Now it builds. A line left in the configuration prints a server value: it is masked.',
    command: 'adder with production -- npm run build',
    expects: 0,
  },
  {
    says: 'But what did the build add? A careless line put the signing key in, plain and as base64.',
    command: 'adder inspect --stage production',
    expects: 1,
  },
  {
    says: 'The line is mended, and the project built again.',
    command: 'cp checkout.mended.ts web/src/checkout.ts',
    change: (folder) => copyFileSync(join(folder, 'checkout.mended.ts'), join(folder, 'web/src/checkout.ts')),
  },
  { says: '', command: 'adder with production -- npm run build', expects: 0 },
  { says: 'Nothing is left of it.', command: 'adder inspect --stage production', expects: 0 },
  {
    says: 'A week later the API moves.',
    command: `sed -i s,https://api.saltmarsh.example,${newUrl}, .env.production`,
    change: (folder) =>
      edit(folder, '.env.production', (text) => text.replace('https://api.saltmarsh.example', newUrl)),
  },
  {
    says: 'The bundle still has the old address, and says so.',
    command: 'adder inspect --stage production',
    expects: 1,
  },
  { says: 'It is built again, and in order.', command: 'adder with production -- npm run build', expects: 0 },
  { says: '', command: 'adder inspect', expects: 0 },
];

function edit(folder: string, name: string, change: (text: string) => string): void {
  const path = join(folder, name);
  writeFileSync(path, change(readFileSync(path, 'utf8')));
}
