import spawn from 'cross-spawn';

export interface Guard {
  /** @param target a process, or a group as its negative number */
  over(target: number): void;
  release(): void;
}

/**
 * Starts a shell that waits for a line from this process. If this process is killed, the shell ends the child.
 */
export function startGuard(): Guard | undefined {
  if (process.platform === 'win32') return undefined;
  const script = 'read target && { read word || { kill -s TERM -- "$target"; sleep 4; kill -s KILL -- "$target"; }; }';
  const guard = spawn('/bin/sh', ['-c', script], {
    stdio: ['pipe', 'ignore', 'ignore'],
    detached: true,
    env: { PATH: '/usr/bin:/bin' },
  });
  guard.on('error', () => undefined);
  guard.stdin?.on('error', () => undefined);
  guard.unref();
  (guard.stdin as unknown as { unref?(): void } | null)?.unref?.();
  let word = '';
  return {
    over(target) {
      word = 'done\n';
      guard.stdin?.write(`${target}\n`);
    },
    release: () => void guard.stdin?.end(word),
  };
}
