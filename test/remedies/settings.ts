import { TestProject } from '../support/adder.js';
import type { Found } from './found.js';

/** A variation of a test project: its location, or its line ends. */
export interface Setting {
  name: string;
  project(files: Readonly<Record<string, string | Uint8Array>>): TestProject;
  /** Adapts a command line to the location. */
  line?(line: string): string;
  /** Recognises findings that the setting itself causes. */
  brings?(found: Found): boolean;
}

/** A project whose files have the line ends of Windows. */
class WindowsLines extends TestProject {
  override write(path: string, content: string | Uint8Array): void {
    super.write(path, typeof content === 'string' ? content.replace(/\r?\n/g, '\r\n') : content);
  }

  override read(path: string): string {
    return super.read(path).replaceAll('\r\n', '\n');
  }
}

const plain: Setting = { name: 'a project', project: (files) => new TestProject(files) };

const others: readonly Setting[] = [
  { name: 'a directory with a quote', project: (files) => new TestProject(files, "the quay's & $HOME") },
  {
    name: 'a package of a repository',
    project: (files) => new TestProject(files, 'packages/desk'),
    line: (line) => line.replaceAll('git init ', 'git -C ../.. init '),
  },
  {
    name: 'line ends of Windows',
    project: (files) => new WindowsLines(files),
    brings: ({ message }) => /CRLF/.test(message),
  },
];

/** `npm test` uses the plain setting alone; `npm run remedies` uses all of them. */
export const settings: readonly Setting[] = process.env.ADDER_REMEDIES === 'all' ? [plain, ...others] : [plain];
