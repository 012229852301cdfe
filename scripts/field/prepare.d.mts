import type { FieldProject } from './projects.mjs';

export const program: string;
export function copyProgram(): void;
export function prepare(project: FieldProject): string;
export function run(
  folder: string,
  command: string,
  args: readonly string[],
  more?: Record<string, string>,
): { code: number | string; text: string };
export function write(folder: string, path: string, text: string): void;
