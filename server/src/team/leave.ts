import { isRefusal, notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { Deactivated, RecordKind, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { writeDown } from '../base/audit';
import { takeMailLock } from '../base/db/mailLock';
import type { Services } from '../base/services';
import { passMailboxes } from '../mailboxes/passOn';
import { handOver } from '../records/handOver';
import { endSessions } from './signIn/sessions';

const KINDS: readonly RecordKind[] = ['account', 'contact', 'lead', 'deal'];

/**
 * Closes the door for a member who leaves, in one transaction: sessions and tokens end, what colleagues let them read and what they were asked for ends,
 * mailboxes stop and go to somebody else, and so do records. The histories stay. What they sealed stays sealed, and goes to nobody.
 */
export async function deactivate(
  services: Services,
  user: User,
  memberId: number,
  { mailboxesTo, recordsTo }: { mailboxesTo: number | null; recordsTo: number | null },
): Promise<Deactivated | Refusal> {
  const { database, jobs } = services;
  const done = await database.work(async (tx) => {
    await takeMailLock(tx);
    const { rows } = await tx.execute<{ name: string }>(
      sql`UPDATE users SET active = false, deactivated_at = now() WHERE id = ${memberId} AND active RETURNING name`,
    );
    const [member] = rows;
    if (!member) return notFound('active member');
    const heirs = [mailboxesTo, recordsTo].filter((value): value is number => value !== null);
    const { rows: known } = await tx.execute<{ id: number; name: string }>(
      sql`SELECT id, name FROM users WHERE id = ANY(${sql.param(heirs)}::bigint[]) AND active AND id <> ${memberId}`,
    );
    if (known.length < new Set(heirs).size) return notFound('member who takes over');
    const sessions = await endSessions(tx, memberId, null, undefined);
    const tokens = await tx.execute(sql`UPDATE access_tokens SET revoked_at = now() WHERE user_id = ${memberId} AND revoked_at IS NULL`);
    await tx.execute(sql`DELETE FROM team_members WHERE user_id = ${memberId}`);
    await tx.execute(sql`DELETE FROM deal_team WHERE user_id = ${memberId}`);
    await tx.execute(sql`DELETE FROM mailbox_users WHERE user_id = ${memberId}`);
    await tx.execute(sql`UPDATE grants SET withdrawn_at = now() WHERE to_user_id = ${memberId} AND withdrawn_at IS NULL`);
    await tx.execute(
      sql`UPDATE access_requests SET state = 'withdrawn', answered_at = now() WHERE ${memberId} IN (asked_by, owner_id) AND state = 'open'`,
    );
    await tx.execute(sql`UPDATE emergencies SET ended_at = now(), ended_by = ${user.id} WHERE asked_by = ${memberId} AND ended_at IS NULL`);
    const moved = await passMailboxes(tx, user, memberId, mailboxesTo);
    if (isRefusal(moved)) return moved;
    let records = 0;
    if (recordsTo !== null)
      for (const kind of KINDS) {
        const handed = await handOver(tx, user.id, kind, { from: memberId, ids: [], to: recordsTo });
        if (isRefusal(handed)) return handed;
        records += handed.ids.length;
      }
    const to = (id: number | null): string => known.find((item) => item.id === id)?.name ?? 'nobody';
    await writeDown(tx, user, {
      kind: 'account',
      about: `closed the door for ${member.name}; mailboxes go to ${to(mailboxesTo)}, records to ${to(recordsTo)}`,
      subjectId: memberId,
    });
    return { ...moved, records, sessions, tokens: tokens.rowCount ?? 0 };
  });
  if (isRefusal(done)) return done;
  await jobs.decidePending();
  return done;
}
