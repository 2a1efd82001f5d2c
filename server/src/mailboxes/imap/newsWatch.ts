import type { ImapFlow } from 'imapflow';

/** Where a server has no IDLE, it is asked this often. */
const ASK_MS = 3000;

/** Waits for word from a mail server, by IDLE (RFC 2177) where it has that and by asking where not. */
export class NewsWatch {
  private ring: (() => void) | null = null;
  private rung = false;

  /** @param changed called with the path of the open folder when the server says that it changed */
  attach(client: ImapFlow, changed: (path: string) => void): void {
    const told = (event: { path: string }): void => {
      changed(event.path);
      this.wake();
    };
    client.on('exists', told);
    client.on('expunge', told);
    client.on('close', () => this.wake());
  }

  /** Ends the waiting, now or as soon as it begins. */
  wake(): void {
    this.rung = true;
    this.ring?.();
  }

  /** Waits until there is news, at most so long. Afterwards the connection is known to be alive. */
  async news(client: ImapFlow, atMostMs: number): Promise<void> {
    const canIdle = client.capabilities.has('IDLE');
    const idling = canIdle && !this.rung ? client.idle().catch(() => false) : null;
    await this.rest(canIdle ? atMostMs : Math.min(atMostMs, ASK_MS));
    // Any command ends IDLE; this one also shows whether the connection still stands.
    if (client.usable) await client.noop();
    await idling;
  }

  private async rest(ms: number): Promise<void> {
    if (!this.rung) {
      await new Promise<void>((resolve) => {
        const timer = setTimeout(resolve, ms);
        this.ring = () => {
          clearTimeout(timer);
          resolve();
        };
      });
    }
    this.ring = null;
    this.rung = false;
  }
}
