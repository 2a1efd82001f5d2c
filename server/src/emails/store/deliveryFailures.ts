import type { CompiledRulebook, EmailFacts, Undelivered, UndeliveredWhy } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../../base/db/database';
import { mayBePersonIn } from '../../base/db/personKey';
import { rowsOf } from '../../base/db/rows';
import { ThreadHasher } from './threadHashes';

const MOST_PROBLEM = 2000;

type Tells = Pick<CompiledRulebook, 'personKey' | 'isOurs'>;

/** Notes which addresses the delivery reports among these emails say do not exist. */
export async function noteDeliveryFailures(
  tx: Tx,
  emails: readonly { id: number; facts: Pick<EmailFacts, 'undelivered'> }[],
  rulebook: Pick<CompiledRulebook, 'personKey'>,
): Promise<void> {
  const reports = emails.filter(({ facts }) => facts.undelivered.length > 0);
  if (reports.length === 0) return;
  await noteReturned(
    tx,
    reports.flatMap(({ facts }) => facts.undelivered),
  );
  const hasher = await ThreadHasher.load(tx);
  const rows = reports.flatMap(({ id, facts }) =>
    facts.undelivered.flatMap(({ address, messageId, why }) =>
      messageId === null || why !== 'no address'
        ? []
        : [{ email: id, person: hasher.person(rulebook.personKey(address)), reported: messageId }],
    ),
  );
  await tx.execute(sql`INSERT INTO delivery_failures (email_id, person, reported_id)
    SELECT email, person, reported FROM json_to_recordset(${JSON.stringify(rows)}::json) AS r(email bigint, person text, reported text) ON CONFLICT DO NOTHING`);
}

const REASONS: Record<UndeliveredWhy, string> = {
  'no address': 'there is no such address',
  'mailbox full': 'the mailbox is full',
  'too large': 'the email is too large for it',
  refused: 'its server refused the email',
  'not reached': 'its server was not reached',
  other: 'it could not be delivered',
};

/** Emails that were sent from here and came back say so, with the reason. A report tells of its own recipients only; its Message-ID is known to them and their servers. */
async function noteReturned(tx: Tx, returned: readonly Undelivered[]): Promise<void> {
  const rows = returned.flatMap(({ address, messageId, why, said }) =>
    messageId === null
      ? []
      : [{ address, messageId, sentence: `${address}: ${REASONS[why]}.${said === '' ? '' : ` The server said: “${said}”`}` }],
  );
  if (rows.length === 0) return;
  await tx.execute(sql`
    UPDATE outgoing o SET state = 'bounced', changed_at = clock_timestamp(), problem = left(CASE WHEN o.state = 'bounced' AND o.problem <> '' THEN o.problem || ' ' ELSE 'It came back. ' END || n.sentences, ${MOST_PROBLEM})
    FROM (SELECT x.id, string_agg(r.sentence, ' ') AS sentences
      FROM json_to_recordset(${JSON.stringify(rows)}::json) AS r(address text, "messageId" text, sentence text) JOIN outgoing x ON x.message_id = r."messageId"
      WHERE x.state IN ('sent', 'bounced') AND strpos(x.problem, r.sentence) = 0
        AND EXISTS (SELECT FROM jsonb_array_elements(x."to" || x.cc || x.bcc) p WHERE lower(p ->> 'address') = lower(r.address))
      GROUP BY x.id) n WHERE o.id = n.id`);
}

/** The delivery failures to look at: all, those about these addresses, or those that some emails report or contradict. */
export type FailureScope = 'all' | { addresses: readonly string[] } | { emailIds: readonly number[] };

const someRow = z.object({ some: z.boolean() });
const reportedRow = z.object({ person: z.string(), address: z.string(), sender: z.string(), sender_domain: z.string() });
const addressRow = z.object({ address: z.string() });

/**
 * Comparable addresses that do not exist: a report names them, it is about an email that we sent there, and no email ever came from them. Whoever
 * wrote once is a person, though the mailbox may be gone; and a report about an email that we never sent is a forgery.
 */
export async function undeliverableAddresses(tx: Tx, scope: FailureScope, rulebooks: readonly Tells[]): Promise<Set<string>> {
  const found = await reportedAddresses(tx, scope, rulebooks);
  if (found.size === 0) return found;
  const wrote = await rowsOf(
    tx,
    addressRow,
    sql`SELECT DISTINCT p.address FROM participants p JOIN emails e ON e.id = p.email_id
      WHERE p.role = 'from' AND e.mail_class <> 'bounce' AND ${mayBePersonIn(sql`p.address`, sql`${sql.param([...found])}::text[]`)}`,
  );
  for (const { address } of wrote) for (const rulebook of rulebooks) found.delete(rulebook.personKey(address));
  return found;
}

/** Addresses that reports name, whether or not email came from them. */
export async function reportedAddresses(tx: Tx, scope: FailureScope, rulebooks: readonly Tells[]): Promise<Set<string>> {
  const found = new Set<string>();
  const [some] = await rowsOf(tx, someRow, sql`SELECT EXISTS (SELECT FROM delivery_failures) AS some`);
  if (!some?.some) return found;
  const hasher = await ThreadHasher.load(tx);
  const rows = await rowsOf(
    tx,
    reportedRow,
    sql`SELECT DISTINCT f.person, p.address, s.address AS sender, s.domain AS sender_domain FROM delivery_failures f JOIN emails o ON o.message_id = f.reported_id
      JOIN participants s ON s.email_id = o.id AND s.role = 'from' JOIN participants p ON p.email_id = o.id AND p.role IN ('to', 'cc', 'bcc')
      WHERE ${await inScope(tx, scope, rulebooks, hasher)}`,
  );
  for (const { person, address, sender, sender_domain: domain } of rows)
    for (const rulebook of rulebooks) {
      const key = rulebook.personKey(address);
      if (rulebook.isOurs(sender, domain) && hasher.person(key) === person) found.add(key);
    }
  return found;
}

async function inScope(tx: Tx, scope: FailureScope, rulebooks: readonly Tells[], hasher: ThreadHasher): Promise<ReturnType<typeof sql>> {
  if (scope === 'all') return sql`true`;
  const hashesOf = (addresses: readonly string[]): string[] => addresses.map((address) => hasher.person(address));
  if ('addresses' in scope) return sql`f.person = ANY(${sql.param(hashesOf(scope.addresses))}::text[])`;
  const ids = sql`${sql.param([...scope.emailIds])}::bigint[]`;
  const senders = await rowsOf(
    tx,
    addressRow,
    sql`SELECT DISTINCT address FROM participants WHERE role = 'from' AND email_id = ANY(${ids})`,
  );
  const keys = senders.flatMap(({ address }) => rulebooks.map((rulebook) => rulebook.personKey(address)));
  return sql`(f.email_id = ANY(${ids}) OR f.person = ANY(${sql.param(hashesOf(keys))}::text[]))`;
}
