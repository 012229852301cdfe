import { PassThrough } from 'node:stream';
import { type MessagePort, workerData } from 'node:worker_threads';
import { main } from '../../src/cli/main.js';
import { Outlet } from '../../src/core/secrets/outlet.js';
import type { Output } from '../../src/host/output.js';
import { realWorld, type World } from '../../src/host/world.js';
import type { CallAnswer, CallOrder, CallPorts } from './call.js';

const { orders, answers, signal } = workerData as CallPorts;
const real = realWorld();

orders.on('message', (order: CallOrder) => void answer(order, order.isAwaited ? answers : orders));

/** Runs a call, and wakes the thread that may be waiting for it. */
async function answer(order: CallOrder, port: MessagePort): Promise<void> {
  port.postMessage(await run(order));
  Atomics.store(signal, 0, 1);
  Atomics.notify(signal, 0);
}

async function run({ id, args, cwd, env, columns }: CallOrder): Promise<CallAnswer> {
  // Git gets the environment of its process, and so of this thread.
  for (const name of Object.keys(process.env)) delete process.env[name];
  Object.assign(process.env, env);
  const outlet = new Outlet();
  const stdout = new Written(outlet, columns);
  const stderr = new Written(outlet);
  const world: World = { ...real, cwd, env: Object.assign(Object.create(null), env), outlet, stdout, stderr, stdin };
  const code = await main(args, world);
  return { id, ran: { code, stdout: stdout.text, stderr: stderr.text } };
}

const stdin = { isTerminal: false, text: () => Promise.resolve('') };

/** Keeps what a call writes. */
class Written implements Output {
  readonly #pieces: Buffer[] = [];
  readonly isTerminal: boolean;

  constructor(
    readonly outlet: Outlet,
    readonly columns: number | undefined = undefined,
  ) {
    this.isTerminal = columns !== undefined;
  }

  write(text: string): void {
    this.pass(this.outlet.clean(text));
  }

  pass(bytes: string | Uint8Array): void {
    this.#pieces.push(Buffer.from(bytes));
  }

  stream(): PassThrough {
    return new PassThrough().on('data', (bytes) => this.pass(bytes));
  }

  get text(): string {
    return Buffer.concat(this.#pieces).toString();
  }
}
