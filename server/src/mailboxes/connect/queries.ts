import { signInStates } from '../../base/db/schema';
import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { sql } from 'drizzle-orm';
import type { Db } from '../../base/db/database';

/** A sign-in at a provider that was begun, by the digest of its state. */
export interface BegunSignIn {
  stateHash: string;
  mailboxId: number;
  userId: number;
  /** Sealed. */
  verifier: string;
  returnUrl: string;
}

export async function keepSignIn(db: Db, begun: BegunSignIn): Promise<void> {
  await db.insert(signInStates).values(begun);
}

const signInStateRow = z.object({ mailboxId: z.number(), verifier: z.string(), returnUrl: z.string() });

/** Takes up a sign-in that a member began in the last quarter of an hour. It is taken up once. */
export async function takeSignIn(
  db: Db,
  stateHash: string,
  userId: number,
): Promise<Pick<BegunSignIn, 'mailboxId' | 'verifier' | 'returnUrl'> | undefined> {
  const [begun] = await rowsOf(
    db,
    signInStateRow,
    sql`DELETE FROM sign_in_states WHERE state_hash = ${stateHash} AND user_id = ${userId} AND created_at > now() - interval '15 minutes' RETURNING mailbox_id AS "mailboxId", verifier, return_url AS "returnUrl"`,
  );
  return begun;
}

const mailboxCheckRow = z.object({ step: z.string() });

/** The steps of connecting that have passed. */
export async function passedSteps(db: Db, mailboxId: number): Promise<ReadonlySet<string>> {
  const rows = await rowsOf(db, mailboxCheckRow, sql`SELECT step FROM mailbox_checks WHERE mailbox_id = ${mailboxId} AND state = 'passed'`);
  return new Set(rows.map((row) => row.step));
}
