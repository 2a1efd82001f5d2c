import { mailboxFolders, folderMessages } from '../../base/db/schema';
import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { planFolder } from '@fulvet/core';
import type { KnownMessage } from '@fulvet/core';
import { sql, eq, ne, isNull, and } from 'drizzle-orm';
import type { Db } from '../../base/db/database';
import type { FolderRow } from '../mailbox';
import type { Lease } from './lease';

/** What a look at a folder found. */
export interface FolderLook {
  uidValidity: number;
  /** Message numbers within the chosen time. */
  present: readonly number[];
}

const folderMessageRow = z.object({ uid: z.number(), settled: z.boolean(), gone: z.boolean(), tries: z.number() });

/** What one turn knows of a folder. */
export class FolderState {
  /** Message numbers to read, the newest first. */
  waiting: number[] = [];
  uidValidity = 0;
  /** Highest number that a look has found. */
  top = 0;
  /** Highest number at the first look of this turn; what is above has come in since. */
  firstTop = Infinity;
  /** UIDNEXT and number of emails at the last look. */
  next = 0;
  exists = 0;
  readAt = 0;
  /** Set when something has changed since the last look. */
  changed = true;
  /** Whether the next look has to compare everything. */
  wholeLook = true;

  constructor(readonly row: FolderRow) {}

  /**
   * Takes up a whole look: what is new is to be read, what is gone is noted. A changed UIDVALIDITY (RFC 3501, section 2.3.1.1)
   * makes all known numbers void; everything is read again, and recognised by what it is.
   *
   * @returns true when the UIDVALIDITY had changed
   */
  async compare(db: Db, lease: Lease, look: FolderLook): Promise<boolean> {
    const renumbered = this.row.uid_validity !== null && this.row.uid_validity !== look.uidValidity;
    const known = await this.known(db, look.uidValidity);
    const plan = planFolder(look.present, known);
    await db.transaction(async (tx) => {
      await lease.check(tx);
      if (this.row.uid_validity !== look.uidValidity) {
        await tx.update(mailboxFolders).set({ uidValidity: look.uidValidity }).where(eq(mailboxFolders.id, this.row.id));
        await tx
          .update(folderMessages)
          .set({ goneAt: sql`now()` })
          .where(
            and(eq(folderMessages.folderId, this.row.id), ne(folderMessages.uidValidity, look.uidValidity), isNull(folderMessages.goneAt)),
          );
      }
      const numbers = (uids: readonly number[]) =>
        sql`folder_id = ${this.row.id} AND uid_validity = ${look.uidValidity} AND uid = ANY(${sql.param([...uids])}::bigint[])`;
      if (plan.gone.length > 0) await tx.execute(sql`UPDATE folder_messages SET gone_at = now() WHERE ${numbers(plan.gone)}`);
      if (plan.back.length > 0) await tx.execute(sql`UPDATE folder_messages SET gone_at = NULL WHERE ${numbers(plan.back)}`);
      await tx
        .update(mailboxFolders)
        .set({ pending: plan.read.length, total: look.present.length })
        .where(eq(mailboxFolders.id, this.row.id));
    });
    this.row.uid_validity = look.uidValidity;
    this.uidValidity = look.uidValidity;
    this.waiting = plan.read;
    this.top = look.present.reduce((highest, uid) => Math.max(highest, uid), 0);
    this.firstTop = renumbered || this.firstTop === Infinity ? this.top : this.firstTop;
    return renumbered;
  }

  /** Takes up numbers above all that were known. */
  append(uids: readonly number[]): void {
    const fresh = uids.filter((uid) => uid > this.top).sort((first, second) => second - first);
    this.waiting = [...fresh, ...this.waiting];
    this.top = fresh[0] ?? this.top;
  }

  private async known(db: Db, uidValidity: number): Promise<KnownMessage[]> {
    const rows = await rowsOf(
      db,
      folderMessageRow,
      sql`SELECT uid, (email_id IS NOT NULL OR note = 'passed over') AS settled, gone_at IS NOT NULL AS gone, tries FROM folder_messages WHERE folder_id = ${this.row.id} AND uid_validity = ${uidValidity}`,
    );
    return rows;
  }
}

/** `7,3:5` for the numbers 7, 5, 4, 3. */
export function sequenceSet(uids: readonly number[]): string {
  const sorted = [...uids].sort((first, second) => first - second);
  const ranges: [number, number][] = [];
  for (const uid of sorted) {
    const last = ranges.at(-1);
    if (last && last[1] === uid - 1) last[1] = uid;
    else ranges.push([uid, uid]);
  }
  return ranges.map(([from, to]) => (from === to ? String(from) : `${from}:${to}`)).join(',');
}
