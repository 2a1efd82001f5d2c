import { mailboxes } from '../../base/db/schema';
import { idRow, rowsOf } from '../../base/db/rows';
import { sql, eq, and } from 'drizzle-orm';
import type { Db, Tx } from '../../base/db/database';

/** Another process has taken the mailbox over: this one stops at once and writes nothing more. */
export class LeaseLost extends Error {}

export const LEASE_SECONDS = 15;

/**
 * The right of one worker process to work on a mailbox. It runs out unless it is renewed, and every write checks it in its own
 * transaction, so that a process that was only slow cannot write beside the one that took over.
 */
export class Lease {
  constructor(
    readonly mailboxId: number,
    readonly holder: string,
  ) {}

  /** @returns null when another process holds it */
  static async take(db: Db, mailboxId: number, holder: string, jobId: string): Promise<Lease | null> {
    const { rowCount } =
      await db.execute(sql`UPDATE mailboxes SET lease_holder = ${holder}, lease_until = now() + make_interval(secs => ${LEASE_SECONDS}), lease_job = ${jobId}
      WHERE id = ${mailboxId} AND state = 'running' AND (lease_holder IS NULL OR lease_until < now())`);
    return rowCount ? new Lease(mailboxId, holder) : null;
  }

  /** @throws {LeaseLost} */
  async check(tx: Tx): Promise<void> {
    const { rowCount } = await tx.execute(
      sql`UPDATE mailboxes SET lease_until = now() + make_interval(secs => ${LEASE_SECONDS}) WHERE id = ${this.mailboxId} AND lease_holder = ${this.holder}`,
    );
    if (!rowCount) throw new LeaseLost();
  }

  async release(db: Db): Promise<void> {
    await db
      .update(mailboxes)
      .set({ leaseHolder: null, leaseUntil: null, leaseJob: null })
      .where(and(eq(mailboxes.id, this.mailboxId), eq(mailboxes.leaseHolder, this.holder)));
  }

  /** Renews the leases of a process on mailboxes that it works on. @returns those that it still holds */
  static async renew(db: Db, holder: string, mailboxIds: readonly number[]): Promise<Set<number>> {
    const rows = await rowsOf(
      db,
      idRow,
      sql`UPDATE mailboxes SET lease_until = now() + make_interval(secs => ${LEASE_SECONDS}) WHERE lease_holder = ${holder} AND id = ANY(${sql.param([...mailboxIds])}::bigint[]) RETURNING id`,
    );
    return new Set(rows.map((row) => row.id));
  }
}
