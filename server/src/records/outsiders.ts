import { z } from 'zod';
import { json, rowsOf } from '../base/db/rows';
import { recordKind } from '@fulvet/contract';
import { personKeyInSql } from '../base/db/personKey';
import type { Outsider } from '@fulvet/contract';
import { companyNameFromDomain, isNoReplyLocal, personName, readSignature, subjectParts } from '@fulvet/core';
import type { CompiledRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { whoseDomain } from './whoseDomain';
import type { DomainOwner } from './whoseDomain';

const MOST = 200;

const outsiderRow = z.object({
  address: z.string(),
  domain: z.string(),
  name: z.string(),
  emails: z.number(),
  people_wrote: z.boolean(),
  text: z.string().nullable(),
  kind: recordKind.nullable(),
  record_id: z.number().nullable(),
  record_name: z.string().nullable(),
  accounts: json<DomainOwner[]>(),
});
type OutsiderRow = z.infer<typeof outsiderRow>;

/**
 * The external people who take part in these emails, of those that the reader may read; each with what a record of them would say.
 *
 * @returns those with most of the emails, and how many are left
 */
export async function outsidersOf(
  tx: Tx,
  emailIds: readonly number[],
  rulebook: CompiledRulebook,
): Promise<{ people: Outsider[]; left: number }> {
  const rows = await rowsOf(
    tx,
    outsiderRow,
    sql`
    WITH p AS (SELECT x.address, x.domain, (array_agg(x.name ORDER BY x.name = '', e.sent_at DESC))[1] AS name, count(DISTINCT e.id)::int AS emails, bool_or(e.mail_class = 'person') AS people_wrote,
        (array_agg(e.id ORDER BY e.sent_at DESC) FILTER (WHERE x.role = 'from'))[1] AS wrote
      FROM participants x JOIN emails e ON e.id = x.email_id WHERE e.id = ANY(${sql.param([...emailIds])}::bigint[]) AND x.role IN ('from', 'to', 'cc', 'bcc') GROUP BY 1, 2)
    SELECT p.*, c.body AS text, k.kind, k.person_id AS record_id, coalesce(pc.name, pl.name) AS record_name, ${whoseDomain(sql`p.domain`)} AS accounts
    FROM p LEFT JOIN email_contents c ON c.email_id = p.wrote
      LEFT JOIN LATERAL (SELECT kind, person_id FROM person_addresses y WHERE y.address = ${personKeyInSql(rulebook, sql`p.address`)} OR y.address = p.address ORDER BY kind LIMIT 1) k ON true
      LEFT JOIN contacts pc ON k.kind = 'contact' AND pc.id = k.person_id LEFT JOIN leads pl ON k.kind = 'lead' AND pl.id = k.person_id
    ORDER BY p.emails DESC, p.address LIMIT ${MOST * 2}`,
  );
  const outsiders = rows.filter((row) => !rulebook.isOurs(row.address, row.domain));
  return { people: outsiders.slice(0, MOST).map((row) => asOutsider(row, rulebook)), left: Math.max(0, outsiders.length - MOST) };
}

function asOutsider(row: OutsiderRow, rulebook: CompiledRulebook): Outsider {
  const guessed = personName(row.name, row.address);
  const signature = readSignature(row.text ?? '', guessed.name, row.domain);
  const isPublic = rulebook.isPublicProvider(row.domain);
  const local = row.address.slice(0, row.address.lastIndexOf('@'));
  return {
    address: row.address,
    name: guessed.name,
    nameConfidence: guessed.confidence,
    title: signature.title,
    phones: signature.phones,
    company: isPublic ? signature.company : signature.company || (companyNameFromDomain(row.domain) ?? ''),
    domain: isPublic ? '' : row.domain,
    emails: row.emails,
    record: row.kind !== null && row.record_id !== null ? { kind: row.kind, id: row.record_id, name: row.record_name ?? '' } : null,
    accounts: row.accounts,
    role: rulebook.isRoleAddress(row.address),
    machine: !row.people_wrote || isNoReplyLocal(local),
    keptOut: rulebook.entryFor(row.address, row.domain) !== undefined,
  };
}

const subjectRow = z.object({ subject: z.string() });

/** What the first of some emails is about, without what answers and forwards put before it; null where the acting user may not read it. */
export async function subjectOfFirst(tx: Tx, emailIds: readonly number[]): Promise<string | null> {
  const rows = await rowsOf(
    tx,
    subjectRow,
    sql`SELECT c.subject FROM emails e JOIN email_contents c ON c.email_id = e.id WHERE e.id = ANY(${sql.param([...emailIds])}::bigint[]) ORDER BY e.sent_at, e.id LIMIT 1`,
  );
  return rows[0] ? subjectParts(rows[0].subject).base : null;
}
