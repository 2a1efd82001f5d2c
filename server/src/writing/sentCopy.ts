import type { ImapFlow } from 'imapflow';
import { setTimeout as pause } from 'node:timers/promises';
import { signedIn } from '../mailboxes/connect/signedIn';
import type { MailServices } from '../mailboxes/mailbox';
import { loadFolders, loadMailbox } from '../mailboxes/mailbox';

/** Many providers keep a copy of what is handed over by themselves; it is there within this, in milliseconds. */
const OWN_COPY_MS = [0, 1500];

/** An email as it lies in the sent folder of a mailbox; null: it does not, or the mailbox has no sent folder. */
export function findSent(services: MailServices, mailboxId: number, messageId: string): Promise<Buffer | null> {
  return inSentFolder(services, mailboxId, async (client) => {
    const [uid] = await uidsOf(client, messageId);
    const found = uid === undefined ? false : await client.fetchOne(String(uid), { source: true }, { uid: true });
    return found && found.source ? found.source : null;
  });
}

/**
 * Sees to it that the sent folder of a mailbox has a copy of an email, once: that of the provider, else one of ours.
 * A mailbox without that folder gets none.
 *
 * @throws where the server cannot be asked
 */
export async function keepInSentFolder(services: MailServices, mailboxId: number, messageId: string, source: Buffer): Promise<void> {
  await inSentFolder(services, mailboxId, async (client, path) => {
    for (const wait of OWN_COPY_MS) {
      await pause(wait);
      // A folder tells of what others put there when it is asked for news.
      await client.noop();
      if ((await uidsOf(client, messageId)).length > 0) return;
    }
    await client.append(path, source, ['\\Seen']);
  });
}

async function uidsOf(client: ImapFlow, messageId: string): Promise<number[]> {
  return (await client.search({ header: { 'message-id': messageId } }, { uid: true })) || [];
}

async function inSentFolder<T>(
  services: MailServices,
  mailboxId: number,
  work: (client: ImapFlow, path: string) => Promise<T>,
): Promise<T | null> {
  const { worker } = services.database;
  const mailbox = await loadMailbox(worker, mailboxId);
  const folder = (await loadFolders(worker, mailboxId)).find(({ role }) => role === 'sent');
  if (!mailbox || !folder) return null;
  const { client } = await signedIn(services, mailbox);
  try {
    await client.mailboxOpen(folder.path);
    return await work(client, folder.path);
  } finally {
    await client.logout().catch(() => client.close());
  }
}
