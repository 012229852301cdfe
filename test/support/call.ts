import { MessageChannel, type MessagePort, receiveMessageOnPort, Worker } from 'node:worker_threads';
import type { Here } from './here.js';

/** A command line to run, and where. */
export interface CallOrder extends Here {
  id: number;
  args: readonly string[];
  env: Readonly<Record<string, string>>;
  /** Otherwise the thread that gave the order waits. */
  isAwaited: boolean;
}

/** Result of a command. */
export interface Ran {
  code: number | null;
  stdout: string;
  stderr: string;
}

export interface CallAnswer {
  id: number;
  ran: Ran;
}

/** Data for the thread of the program. */
export interface CallPorts {
  orders: MessagePort;
  answers: MessagePort;
  signal: Int32Array;
}

/**
 * The program in a thread of the test's process, which saves the start of a process for each call. It is `main` with a world of its own:
 * the working directory, the environment and the output are those of the call.
 */
class Caller {
  readonly #orders: MessagePort;
  readonly #signal = new Int32Array(new SharedArrayBuffer(4));
  readonly #awaited = new Map<number, (ran: Ran) => void>();
  #calls = 0;

  constructor() {
    const [orders, answers] = [new MessageChannel(), new MessageChannel()];
    this.#orders = orders.port1;
    const workerData: CallPorts = { orders: orders.port2, answers: answers.port2, signal: this.#signal };
    const transferList = [orders.port2, answers.port2];
    // The environment of the tests is none of the program's business.
    // Where `test/support/global-setup.mjs` puts the thread's code.
    new Worker(process.env.ADDER_TEST_CALLER as string, { workerData, transferList, env: {} }).unref();
    answers.port1.on('message', ({ id, ran }: CallAnswer) => {
      this.#awaited.get(id)?.(ran);
      this.#awaited.delete(id);
    });
    answers.port1.unref();
  }

  /** Runs a call while this thread waits. */
  call(order: Omit<CallOrder, 'id' | 'isAwaited'>): Ran {
    this.#send({ ...order, isAwaited: false });
    for (;;) {
      Atomics.store(this.#signal, 0, 0);
      const { message } = receiveMessageOnPort(this.#orders) ?? {};
      if (message) return (message as CallAnswer).ran;
      Atomics.wait(this.#signal, 0, 0, 1000);
    }
  }

  /** Runs a call while this thread goes on. */
  callBeside(order: Omit<CallOrder, 'id' | 'isAwaited'>): Promise<Ran> {
    return new Promise((resolve) => this.#awaited.set(this.#send({ ...order, isAwaited: true }), resolve));
  }

  #send(order: Omit<CallOrder, 'id'>): number {
    const id = this.#calls++;
    this.#orders.postMessage({ ...order, id } satisfies CallOrder);
    return id;
  }
}

let caller: Caller | undefined;

/** The one of this process. */
export function theCaller(): Caller {
  caller ??= new Caller();
  return caller;
}
