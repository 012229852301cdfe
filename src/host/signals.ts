import { type ChildProcess, spawn } from 'node:child_process';

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

/** Ends a child and what it started. */
export function endGroup(child: ChildProcess, ownGroup: boolean): void {
  if (process.platform === 'win32') {
    endTree(child);
    return;
  }
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

/**
 * Ends a process and all below it. Windows has neither groups nor signals, and the first process is often a shell that runs a script:
 * to end it alone would let its programs run on.
 */
function endTree(child: ChildProcess): void {
  if (child.pid === undefined || child.exitCode !== null) return;
  spawn('taskkill', ['/pid', String(child.pid), '/T', '/F'], { stdio: 'ignore', windowsHide: true })
    // Without it, there is no other way to end the tree.
    .on('error', () => child.kill())
    .on('exit', (code) => code === 0 || child.kill());
}

function signalGroup(pid: number, signal: NodeJS.Signals): void {
  try {
    process.kill(-pid, signal);
  } catch {
    // The group ended in the meantime.
  }
}
