import type { CompiledRulebook } from '@fulvet/core';
import type { Sources } from '../../base/reading/sources';
import { runDecisions } from '../../decision/decideRun';
import { loadReaders } from '../../emails/owners';
import type { MailboxRow, MailServices } from '../mailbox';
import type { FolderState } from './folderState';
import type { Lease } from './lease';
import { noteNewest } from './queries';
import type { Fetched } from './storeFetched';
import { storeFetched } from './storeFetched';

export interface TurnServices extends MailServices {
  blobs: Sources;
}

/** Where a batch comes from. */
interface Place {
  mailbox: MailboxRow;
  folder: FolderState;
  rulebook: CompiledRulebook;
}

/** Stores what a turn reads, a batch at a time, while the next one is being read. */
export class BatchStore {
  /** How many emails were stored since the last decision. */
  undecided = 0;
  private underWay: Promise<void> = Promise.resolve();

  constructor(
    private readonly services: TurnServices,
    private readonly lease: Lease,
    /** When the turn began, milliseconds: what came in since tells how long an email takes. */
    private readonly begunAt: number,
  ) {}

  /**
   * Begins to store a batch when the one before is stored.
   *
   * @param missing UIDs that the server did not give
   * @throws what went wrong with the batch before
   */
  async store({ mailbox, folder, rulebook }: Place, batch: readonly Fetched[], missing: readonly number[]): Promise<void> {
    await this.underWay;
    const { database, blobs } = this.services;
    const db = database.worker;
    const readers = await loadReaders(db, mailbox.id);
    const place = { db, blobs, lease: this.lease, mailbox, folder: folder.row, uidValidity: folder.uidValidity, rulebook, readers };
    this.undecided += batch.length;
    this.underWay = storeFetched(place, batch, missing).then(() => this.noteDelay(mailbox, batch));
    // A failure is thrown by the next await of it; this only keeps it from counting as unhandled until then.
    this.underWay.catch(() => undefined);
  }

  /** Waits until all is stored. */
  settled(): Promise<void> {
    return this.underWay;
  }

  async decide(): Promise<void> {
    await this.underWay;
    this.undecided = 0;
    await runDecisions(this.services.database, this.services.blobs, 'undecided');
  }

  private async noteDelay({ id }: MailboxRow, batch: readonly Fetched[]): Promise<void> {
    if (batch.length === 0) return;
    const newest = Math.max(...batch.map((fetched) => fetched.internalDate));
    const delay = newest < this.begunAt ? null : Math.max(0, Date.now() - newest);
    await noteNewest(this.services.database.worker, id, newest, delay);
  }
}
