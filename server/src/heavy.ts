import { parentPort, workerData } from 'node:worker_threads';
import type { Call } from './base/handler';
import { databaseAway, isOutage } from './base/db/outage';
import { isRefusal } from './base/refusal';
import { handlers } from './http/handlers';
import type { HeavyAnswer, HeavyCall } from './heavyThread';
import type { ServiceOptions } from './openServices';
import { openServices } from './openServices';

/** The program of the thread that answers what is computed over all mail or all records. */
const opening = openServices({ ...(workerData as ServiceOptions), main: false, works: false, worksOnMailboxes: false });

async function answer({ number, route, call }: HeavyCall): Promise<HeavyAnswer> {
  try {
    const result: unknown = await handlers[route]({ ...call, services: await opening } as unknown as Call<typeof route> as never);
    if (!isRefusal(result)) return { number, result };
    return { number, refused: { ...result } };
  } catch (error) {
    if (isOutage(error)) return { number, refused: { ...databaseAway() } };
    return { number, failed: error instanceof Error ? error : new Error(String(error)) };
  }
}

parentPort?.on('message', (call: HeavyCall) => void answer(call).then((done) => parentPort?.postMessage(done)));
