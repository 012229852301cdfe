import type { ChildProcess } from 'node:child_process';

const forwarded = ['SIGINT', 'SIGTERM', 'SIGHUP', 'SIGQUIT'] as const;

/** Signals that this process gets and passes on. */
export interface Forwarding {
  to(child: ChildProcess): void;
  happened(): boolean;
  stop(): void;
}

/** Passes signals on to a child from the moment it exists. @param ownGroup whether the child has its own process group */
export function forwardSignals(ownGroup: boolean): Forwarding {
  let happened = false;
  let child: ChildProcess | undefined;
  const handlers = forwarded.map((signal) => {
    const handler = () => {
      happened = true;
      if (child?.pid === undefined || child.exitCode !== null || child.signalCode !== null) return;
      if (ownGroup) signalGroup(child.pid, signal);
      else if (signal !== 'SIGINT') child.kill(signal);
    };
    process.on(signal, handler);
    return { signal, handler };
  });
  return {
    to(one) {
      child = one;
    },
    happened: () => happened,
    stop() {
      for (const { signal, handler } of handlers) process.off(signal, handler);
    },
  };
}

/** How long a child may take to end after it was asked to. */
const KIND_MS = 4000;

export function endGroup(child: ChildProcess, ownGroup: boolean): void {
  const send = (signal: NodeJS.Signals) => {
    if (child.pid === undefined) return;
    if (ownGroup) signalGroup(child.pid, signal);
    else child.kill(signal);
  };
  send('SIGTERM');
  const firmly = setTimeout(() => send('SIGKILL'), KIND_MS);
  child.once('exit', () => {
    clearTimeout(firmly);
    // Processes that the child started may still run.
    send('SIGKILL');
  });
}

function signalGroup(pid: number, signal: NodeJS.Signals): void {
  try {
    process.kill(-pid, signal);
  } catch {
    // The group ended in the meantime.
  }
}
