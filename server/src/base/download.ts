import { Refusal } from './refusal';
import type { User } from '@fulvet/contract';
import type { Response } from 'express';

/** What is kept in parts, as pages of a download: each is asked for when the one before it was read. @param partAt null: there is none any more */
export async function* inParts(partAt: (part: number) => Promise<Uint8Array | null>): AsyncGenerator<Uint8Array> {
  for (let part = 0; ; part += 1) {
    const content = await partAt(part);
    if (!content) return;
    yield content;
  }
}

export interface DownloadLimits {
  /** Downloads of one member at once. */
  atOnce: number;
  /** Milliseconds that a client may leave what was sent unread. */
  unread: number;
}

const LIMITS: DownloadLimits = { atOnce: 3, unread: 60_000 };

/**
 * Downloads that are written in pages. While a client reads, nothing of the database is held: each page is asked for when the one before it was
 * read. A client that does not read is disconnected, and a member has only so many downloads at once.
 */
export class Downloads {
  private readonly limits: DownloadLimits;
  private readonly underWay = new Map<number, number>();

  constructor(limits: Partial<DownloadLimits> = {}) {
    this.limits = { ...LIMITS, ...limits };
  }

  /** @returns a refusal when the member has as many downloads as may be */
  async send(user: Pick<User, 'id'>, res: Response, pages: AsyncIterable<string | Uint8Array>): Promise<Refusal | null> {
    const running = this.underWay.get(user.id) ?? 0;
    if (running >= this.limits.atOnce)
      return new Refusal('busy', 'too-many-downloads', `You have ${running} downloads under way. Wait until one of them ends.`);
    this.underWay.set(user.id, running + 1);
    try {
      for await (const page of pages) {
        if (res.destroyed) return null;
        if (!res.write(page) && !(await this.read(res))) return null;
      }
      res.end();
    } finally {
      const left = (this.underWay.get(user.id) ?? 1) - 1;
      if (left > 0) this.underWay.set(user.id, left);
      else this.underWay.delete(user.id);
    }
    return null;
  }

  /** Waits until the client has read what was sent. @returns false when it went away, or did not read in time */
  private read(res: Response): Promise<boolean> {
    return new Promise((resolve) => {
      const settle = (isRead: boolean): void => {
        clearTimeout(timer);
        res.off('drain', onDrain);
        res.off('close', onClose);
        if (!isRead) res.destroy();
        resolve(isRead);
      };
      const onDrain = (): void => settle(true);
      const onClose = (): void => settle(false);
      const timer = setTimeout(onClose, this.limits.unread);
      res.once('drain', onDrain);
      res.once('close', onClose);
    });
  }
}
