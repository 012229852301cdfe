import { type MessagePort, workerData } from 'node:worker_threads';
import type { CallAnswer, CallOrder, CallPorts } from './call.js';
import { runHere } from './here.js';

const { orders, answers, signal } = workerData as CallPorts;

orders.on('message', (order: CallOrder) => void answer(order, order.isAwaited ? answers : orders));

/** Runs a call, and wakes the thread that may be waiting for it. */
async function answer(order: CallOrder, port: MessagePort): Promise<void> {
  port.postMessage(await run(order));
  Atomics.store(signal, 0, 1);
  Atomics.notify(signal, 0);
}

async function run({ id, args, ...here }: CallOrder): Promise<CallAnswer> {
  // Git gets the environment of its process, and so of this thread.
  for (const name of Object.keys(process.env)) delete process.env[name];
  Object.assign(process.env, here.env);
  return { id, ran: await runHere(here, args) };
}
