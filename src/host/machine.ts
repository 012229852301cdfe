import { hostname } from 'node:os';

/** Identifies the machine: containers that share a directory have separate process numbers. */
export function machine(): string {
  return (
    hostname()
      .replace(/[^A-Za-z0-9]/g, '')
      .slice(0, 40) || 'host'
  );
}

/** Tells whether a process of this machine runs. */
export function isRunning(pid: number): boolean {
  if (!Number.isInteger(pid) || pid <= 0) return false;
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}
