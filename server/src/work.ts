import { parentPort, workerData } from 'node:worker_threads';
import type { ServiceOptions } from './openServices';
import { closeServices, openServices } from './openServices';

/** The program of the thread that does the work of the queue. */
const opening = openServices({ ...(workerData as ServiceOptions), main: true, works: true });

parentPort?.on('message', () => {
  void opening.then(closeServices).finally(() => process.exit(0));
});
void opening.then(() => parentPort?.postMessage('ready'));
