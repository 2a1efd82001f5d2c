import type { ImapFlow } from 'imapflow';
import type { MailboxRow, MailServices } from '../mailbox';
import { signedIn } from '../connect/signedIn';

/**
 * Watches one more folder by IDLE (RFC 2177) on a connection of its own, so that mail which a person sends is seen as fast as mail
 * that comes in. It is an extra: where it cannot be had, or breaks, the folder is asked for its status as the others are.
 */
export class FolderWatch {
  private constructor(
    private readonly client: ImapFlow,
    private readonly giveBack: () => Promise<void>,
  ) {}

  get open(): boolean {
    return this.client.usable;
  }

  /**
   * @param slot a slot for one more connection to the provider; it is given back in any case
   * @param changed called when the server says that something came into the folder or left it
   * @returns null where the server does not let in a second time
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

/** What {@link KeptWatch} holds: a watch that may break at any time. */
export interface Breakable {
  readonly open: boolean;
  close(): Promise<void>;
}

/** Keeps something extra open for as long as it is asked to: what could not be had, or broke, is tried again now and then. */
export class KeptWatch {
  private held: Breakable | null = null;
  private opening: Promise<void> | null = null;
  private notBefore = 0;
  private over = false;

  /**
   * @param begin opens it; null where it cannot be had just now
   * @param againMs how long to leave it after it could not be had or broke
   */
  constructor(
    private readonly begin: () => Promise<Breakable | null>,
    private readonly againMs: number,
  ) {}

  /** Sees to it that it is open, or on its way; called as often as one likes. */
  keep(now: number): void {
    if (this.over || this.opening || this.held?.open || now < this.notBefore) return;
    this.notBefore = now + this.againMs;
    this.opening = this.replace()
      .catch(() => undefined)
      .finally(() => (this.opening = null));
  }

  private async replace(): Promise<void> {
    await this.held?.close();
    this.held = null;
    this.held = await this.begin();
  }

  /** Closes it for good, also one that is only on its way. */
  async close(): Promise<void> {
    this.over = true;
    await this.opening;
    await this.held?.close();
  }
}
