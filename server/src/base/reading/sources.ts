import type { EmailFacts, ReadOptions, SenderCheck } from '@fulvet/core';
import type { BlobPlace, BlobStore } from '../blobs/blobStore';
import type { ReaderPool } from './readerPool';
import { readEmails } from './readEmails';
import type { Unread } from './readTasks';

/** A stored source, and when its email came. */
export interface StoredSource extends Pick<BlobPlace, 'pack' | 'position' | 'length' | 'size'> {
  arrived: number;
  /** What was found about its sender then. */
  sender_check: SenderCheck;
  author_trusted: boolean;
}

/** The raw sources of emails: where they are stored, and the threads that read them. */
export class Sources implements BlobStore {
  constructor(
    private readonly store: BlobStore,
    readonly readers: ReaderPool,
  ) {}

  put(blobs: readonly Uint8Array[]): Promise<BlobPlace[]> {
    return this.store.put(blobs);
  }

  get(place: Pick<BlobPlace, 'pack' | 'position' | 'length' | 'size'>): Promise<Uint8Array> {
    return this.store.get(place);
  }

  erase(places: readonly Pick<BlobPlace, 'pack' | 'position' | 'length'>[]): Promise<void> {
    return this.store.erase(places);
  }

  /** Reads messages; one that exceeds the limits comes back unread, with its reason. */
  read(messages: readonly Unread[]): Promise<EmailFacts[]> {
    return readEmails(this.readers, messages);
  }

  /**
   * Reads stored sources again, in their order. One that is gone or damaged gives null: that is a problem of its email, and of no other.
   */
  async readStored(places: readonly StoredSource[]): Promise<(EmailFacts | null)[]> {
    const sources = await Promise.all(
      places.map(async (place) => {
        const found = { senderCheck: place.sender_check, authorTrusted: place.author_trusted };
        const options: ReadOptions = { arrivedAt: place.arrived, found };
        return this.store.get(place).then(
          (raw): Unread => ({ raw, options }),
          () => null,
        );
      }),
    );
    const found = sources.filter((source) => source !== null);
    const read = new Map((await this.read(found)).map((facts, at) => [found[at], facts]));
    return sources.map((source) => (source === null ? null : (read.get(source) ?? null)));
  }

  async close(): Promise<void> {
    await this.readers.close();
    await this.store.close();
  }
}
