import type { ImapFlow } from 'imapflow';
import type { MailboxRow, MailServices } from '../mailboxes/mailboxStore';
import { signedIn } from '../mailboxes/signedIn';

/**
 * Watches one more folder by IDLE (RFC 2177) on a connection of its own, so that mail which a person sends is seen as fast as mail
 * that comes in. It is an extra: where it cannot be had, or breaks, the folder is asked for its status as the others are.
 */
export class FolderWatch {
  private constructor(
    private readonly client: ImapFlow,
    private readonly giveBack: () => Promise<void>,
  ) {}

  /**
   * @param slot a slot for one more connection to the provider; it is given back in any case
   * @param changed called when the server says that something came into the folder or left it
   * @returns null where the server does not watch, or does not let in a second time
   */
  static async open(
    services: MailServices,
    mailbox: MailboxRow,
    path: string,
    slot: () => Promise<void>,
    changed: () => void,
  ): Promise<FolderWatch | null> {
    try {
      const { client } = await signedIn(services, mailbox);
      const watch = new FolderWatch(client, slot);
      client.on('exists', changed);
      client.on('expunge', changed);
      client.on('close', () => void watch.close());
      if (!client.capabilities.has('IDLE')) {
        await watch.close();
        return null;
      }
      await client.mailboxOpen(path, { readOnly: true });
      // What came in between the last look and this moment is not told of.
      changed();
      watch.keepIdling().catch(() => watch.close());
      return watch;
    } catch {
      await slot();
      return null;
    }
  }

  async close(): Promise<void> {
    this.client.close();
    await this.giveBack();
  }

  private async keepIdling(): Promise<void> {
    while (this.client.usable) await this.client.idle();
  }
}
