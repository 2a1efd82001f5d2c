import type { RecordKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';

/**
 * Why a record that Fulvet created stays where its making is taken back: SQL in words about the record `t`, or null where nothing has come to depend on it.
 *
 * @param filings whether emails under it keep it; not where they are taken off with it
 * @param without contacts that are taken back, too: they keep no account
 */
export function whatDependsOn(kind: RecordKind, { filings, without = [] }: { filings: boolean; without?: readonly number[] }): SQL {
  return sql`CASE ${filings ? sql`WHEN EXISTS (SELECT FROM filings f WHERE f.kind = ${kind} AND f.record_id = t.id) THEN 'emails are filed under it'` : sql``}
    WHEN EXISTS (SELECT FROM pins p WHERE p.kind = ${kind} AND p.record_id = t.id AND p.does IN ('file', 'principal') AND p.released_at IS NULL) THEN 'other emails were filed under it by hand'
    WHEN EXISTS (SELECT FROM gestures g WHERE g.target = ${kind} AND g.record_id = t.id) OR EXISTS (SELECT FROM mailbox_folders m WHERE m.file_as = ${kind} AND m.file_record_id = t.id) THEN 'a folder or a filing address leads to it'
    WHEN EXISTS (SELECT FROM merges m WHERE m.kind = ${kind} AND m.kept_id = t.id AND m.undone_at IS NULL) THEN 'another record was merged into it'
    WHEN ${isChanged(kind)} THEN 'it was changed since'
    WHEN ${kind} IN ('contact', 'lead') AND EXISTS (SELECT FROM deal_people p WHERE p.kind = ${kind} AND p.person_id = t.id) THEN 'it is on a deal'
    WHEN ${kind} = 'deal' AND EXISTS (SELECT FROM deal_team m WHERE m.deal_id = t.id) THEN 'it has a team'
    WHEN ${kind} IN ('contact', 'lead') AND EXISTS (SELECT FROM own_record_people p WHERE p.kind = ${kind} AND p.person_id = t.id) THEN 'it is on another record'
    WHEN EXISTS (SELECT FROM grants g WHERE g.record_kind = ${kind} AND g.record_id = t.id AND g.withdrawn_at IS NULL) THEN 'mail under it was shared with somebody'
    WHEN ${kind} = 'account' AND (EXISTS (SELECT FROM contacts c WHERE c.account_id = t.id AND NOT c.id = ANY(${sql.param([...without])}::bigint[])) OR EXISTS (SELECT FROM contact_accounts o WHERE o.account_id = t.id) OR EXISTS (SELECT FROM deals d WHERE d.account_id = t.id) OR EXISTS (SELECT FROM accounts a WHERE a.parent_id = t.id)) THEN 'people or deals belong to it' END`;
}

/** Whether someone made a field of the record `t` say something else than when it was made; what was changed and changed back does not count. */
const isChanged = (kind: RecordKind): SQL =>
  sql`EXISTS (SELECT FROM record_changes h WHERE h.kind = ${kind} AND h.record_id = t.id AND h.field <> 'record' AND h.user_id IS NOT NULL GROUP BY h.field
    HAVING (array_agg(h.before ORDER BY h.id))[1] IS DISTINCT FROM (array_agg(h.after ORDER BY h.id DESC))[1])`;
