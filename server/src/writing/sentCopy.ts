import type { ImapFlow } from 'imapflow';
import { setTimeout as pause } from 'node:timers/promises';
import { signedIn } from '../mailboxes/connect/signedIn';
import type { MailServices } from '../mailboxes/mailbox';
import { loadFolders, loadMailbox } from '../mailboxes/mailbox';

/** Many providers keep a copy of what is handed over by themselves; it is there within this, in milliseconds. */
const OWN_COPY_MS = [0, 1500];

/** Looks for an email in the sent folder of a mailbox. @returns null where the mailbox has no sent folder */
export function findSent(services: MailServices, mailboxId: number, messageId: string): Promise<boolean | null> {
  return inSentFolder(services, mailboxId, (client) => isThere(client, messageId));
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
      if (await isThere(client, messageId)) return;
    }
    await client.append(path, source, ['\\Seen']);
  });
}

async function isThere(client: ImapFlow, messageId: string): Promise<boolean> {
  const found = await client.search({ header: { 'message-id': messageId } }, { uid: true });
  return Array.isArray(found) && found.length > 0;
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
