import { teamMembers, dealTeam, mailboxUsers, grants, emergencies } from '../base/db/schema';
import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { isRefusal, notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { Deactivated, User } from '@fulvet/contract';
import { RECORD_KINDS } from '@fulvet/core';
import { sql, eq, isNull, and } from 'drizzle-orm';
import { writeDown } from '../base/audit';
import type { Tx } from '../base/db/database';
import { takeMailLock } from '../base/db/mailLock';
import type { Services } from '../base/services';
import { passMailboxes } from '../mailboxes/passOn';
import { handOver } from '../records/handOver';
import { revokeTokens } from './queries';
import { endSessions } from './signIn/sessions';

/** What a member kept for others goes on under someone else's care; what they kept for themselves stays theirs. */
async function passTexts(tx: Tx, from: number, to: number): Promise<void> {
  for (const table of ['templates', 'documents', 'series'])
    await tx.execute(sql`UPDATE ${sql.identifier(table)} SET owner_id = ${to} WHERE owner_id = ${from} AND scope <> 'own'`);
}

/** What a member was to do falls to someone else, but for what no one else knows of. */
async function passTasks(tx: Tx, from: number, to: number): Promise<void> {
  await tx.execute(
    sql`UPDATE tasks SET assignee_id = ${to}, revision = revision + 1 WHERE assignee_id = ${from} AND done_at IS NULL AND removed_at IS NULL AND NOT (is_private AND writer_id = ${from})`,
  );
}

const userRow = z.object({ name: z.string() });

const leaverRow = z.object({ id: z.number(), name: z.string() });

/**
 * Closes the door for a member who leaves, in one transaction: sessions and tokens end, what colleagues let them read and what they were asked for ends,
 * mailboxes stop and go to someone else, and so do records, and the texts, documents and series that they shared. The histories stay. What they sealed stays sealed, and goes to no one.
 */
export async function deactivateMember(
  services: Services,
  user: User,
  memberId: number,
  { mailboxesTo, recordsTo }: { mailboxesTo: number | null; recordsTo: number | null },
): Promise<Deactivated | Refusal> {
  const { database, jobs } = services;
  const done = await database.work(async (tx) => {
    await takeMailLock(tx);
    const rows = await rowsOf(
      tx,
      userRow,
      sql`UPDATE users SET active = false, deactivated_at = now() WHERE id = ${memberId} AND active RETURNING name`,
    );
    const [member] = rows;
    if (!member) return notFound('active member');
    const heirs = [mailboxesTo, recordsTo].filter((value): value is number => value !== null);
    const known = await rowsOf(
      tx,
      leaverRow,
      sql`SELECT id, name FROM users WHERE id = ANY(${sql.param(heirs)}::bigint[]) AND active AND id <> ${memberId}`,
    );
    if (known.length < new Set(heirs).size) return notFound('member who takes over');
    const sessions = await endSessions(tx, memberId, null, undefined);
    const tokens = await revokeTokens(tx, memberId);
    await tx.delete(teamMembers).where(eq(teamMembers.userId, memberId));
    await tx.delete(dealTeam).where(eq(dealTeam.userId, memberId));
    await tx.delete(mailboxUsers).where(eq(mailboxUsers.userId, memberId));
    await tx
      .update(grants)
      .set({ withdrawnAt: sql`now()` })
      .where(and(eq(grants.toUserId, memberId), isNull(grants.withdrawnAt)));
    await tx.execute(
      sql`UPDATE access_requests SET state = 'withdrawn', answered_at = now() WHERE ${memberId} IN (asked_by, owner_id) AND state = 'open'`,
    );
    await tx
      .update(emergencies)
      .set({ endedAt: sql`now()`, endedBy: user.id })
      .where(and(eq(emergencies.askedBy, memberId), isNull(emergencies.endedAt)));
    const moved = await passMailboxes(tx, user, memberId, mailboxesTo);
    if (isRefusal(moved)) return moved;
    let records = 0;
    if (recordsTo !== null)
      for (const kind of RECORD_KINDS) {
        const handed = await handOver(tx, user.id, kind, { from: memberId, ids: [], to: recordsTo });
        if (isRefusal(handed)) return handed;
        records += handed.ids.length;
      }
    // Nothing is sent by itself in the name of someone who is not there.
    await tx.execute(
      sql`UPDATE series_runs SET state = 'stopped', why = 'left', ended_at = now() WHERE writer_id = ${memberId} AND state NOT IN ('ended', 'stopped')`,
    );
    if (recordsTo !== null) {
      await passTexts(tx, memberId, recordsTo);
      await passTasks(tx, memberId, recordsTo);
    }
    const to = (id: number | null): string => known.find((item) => item.id === id)?.name ?? 'no one';
    await writeDown(tx, user, {
      kind: 'account',
      about: `deactivated ${member.name}; mailboxes go to ${to(mailboxesTo)}, records to ${to(recordsTo)}`,
      subjectId: memberId,
    });
    return { ...moved, records, sessions, tokens };
  });
  if (isRefusal(done)) return done;
  await jobs.decidePending();
  return done;
}
