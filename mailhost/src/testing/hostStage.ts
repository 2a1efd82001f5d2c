import { afterAll, beforeAll, beforeEach } from '@jest/globals';
import { ImapFlow } from 'imapflow';
import type { Mailhost } from '../mailhost';
import { HOST, startMailhost } from '../mailhost';

// A provider, emptied before each test, and a standard client of it.

export const nadia = 'nadia@quillmere.example';
export const sales = 'sales@quillmere.example';
export let mailhost: Mailhost;
beforeAll(async () => {
  mailhost = await startMailhost();
});
afterAll(() => mailhost.stop());
beforeEach(() => {
  mailhost.faults.clear();
  mailhost.store.accounts.clear();
  mailhost.delivery.scripts = [];
  mailhost.store.addAccount(nadia, 'pw');
  mailhost.store.addAccount(sales, 'shared', { sharedWith: [nadia] });
});
function client(more: Partial<ConstructorParameters<typeof ImapFlow>[0]> = {}): ImapFlow {
  const made = new ImapFlow({
    host: '127.0.0.1',
    servername: HOST,
    port: mailhost.ports.imaps,
    secure: true,
    auth: { user: nadia, pass: 'pw' },
    tls: { ca: mailhost.certificate },
    logger: false,
    ...more,
  });
  made.on('error', () => undefined);
  return made;
}
export async function withClient<T>(work: (flow: ImapFlow) => Promise<T>, more?: Parameters<typeof client>[0]): Promise<T> {
  const flow = client(more);
  await flow.connect();
  try {
    return await work(flow);
  } finally {
    flow.close();
  }
}
