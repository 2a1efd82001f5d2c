import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { EmailRow, RecordKind, User } from '@fulvet/contract';
import type { CompiledRulebook } from '@fulvet/core';
import type { Tx } from '../base/db/database';
import { idRow, rowsOf } from '../base/db/rows';
import { emailRows } from '../emails/emailRows';
import { PEOPLE_OF } from '../records/kinds';
import { recordMail } from '../records/recordMail';

const MOST_SHOWN = 6;
/** What is older is not of the work at hand. */
const DAYS = 365;
/** Of people who write more, the newest are looked at. */
const MOST_LOOKED_AT = 2000;

/** Addresses of the people of a record; of an account those of its contacts, of a deal those of the people on it. */
function addressesOf(kind: RecordKind, id: number): SQL {
  switch (kind) {
    case 'contact':
    case 'lead':
      return sql`SELECT a.address FROM person_addresses a WHERE a.kind = ${kind} AND a.person_id = ${id}`;
    case 'deal':
    case 'own': {
      const { table, id: column } = PEOPLE_OF[kind];
      return sql`SELECT a.address FROM ${table} d JOIN person_addresses a ON a.kind = d.kind AND a.person_id = d.person_id WHERE d.${column} = ${id}`;
    }
    case 'account':
      return sql`SELECT a.address FROM contacts c JOIN person_addresses a ON a.kind = 'contact' AND a.person_id = c.id WHERE c.account_id = ${id}`;
  }
}

/** The newest emails of the reader's own mailboxes with people of a record that are not in its history. What is sealed stays where it is. */
export async function mailBeside(
  tx: Tx,
  user: Pick<User, 'id'>,
  { kind, id }: { kind: RecordKind; id: number },
  rulebook: CompiledRulebook,
): Promise<EmailRow[]> {
  const rows = await rowsOf(
    tx,
    idRow,
    sql`WITH theirs AS (SELECT DISTINCT e.id, e.sent_at FROM participants p JOIN emails e ON e.id = p.email_id
        WHERE p.address IN (${addressesOf(kind, id)}) AND p.role IN ('from', 'to', 'cc') AND ${user.id}::bigint = ANY(e.owner_ids)
          AND coalesce(e.outcome, '') NOT IN ('sealed', 'kept out') AND e.sent_at > now() - make_interval(days => ${DAYS}) ORDER BY e.sent_at DESC LIMIT ${MOST_LOOKED_AT})
      SELECT t.id FROM theirs t WHERE t.id NOT IN (SELECT m.email_id FROM (${recordMail(kind, [id])}) m) ORDER BY t.sent_at DESC, t.id DESC LIMIT ${MOST_SHOWN}`,
  );
  return emailRows(
    tx,
    rows.map((row) => row.id),
    rulebook,
  );
}
