import type { Server } from 'node:http';

export const executablePath: string | undefined;
export function serve(folder: string): Promise<Server>;
