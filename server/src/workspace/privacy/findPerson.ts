import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { recordKind } from '@fulvet/contract';
import type { PersonHeld, RecordKind } from '@fulvet/contract';
import type { CompiledRulebook } from '@fulvet/core';
import { RULE_STEPS, tracesOf } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { Db, Tx } from '../../base/db/database';
import { containing } from '../../base/db/like';
import { personKeyInSql } from '../../base/db/personKey';
import { storedRulebook } from '../../rulebook/liveRulebook';
import { tableOf } from '../../records/kinds';

/** Whom a request is about: the keys of their addresses, as the rulebook tells people apart. */
export interface Person {
  addresses: readonly string[];
  tagsTellApart: boolean;
}

/** That an address is the person's. */
const isTheirs = (column: SQL, person: Person): SQL =>
  sql`${personKeyInSql(person, column)} = ANY(${sql.param([...person.addresses])}::text[])`;

/** That the person takes part: a condition on participants `p`. */
export const isPerson = (person: Person): SQL => isTheirs(sql`p.address`, person);

/** Whom these addresses stand for, by what tells people apart. */
export function personAt(addresses: readonly string[], rulebook: Pick<CompiledRulebook, 'personKey' | 'tagsTellApart'>): Person {
  return { addresses: [...new Set(addresses.map((address) => rulebook.personKey(address)))], tagsTellApart: rulebook.tagsTellApart };
}

/** Emails in which the person takes part, with whether others from outside do, too: `email_id, shared`. */
export function emailsWith(person: Person): SQL {
  return sql`SELECT p.email_id, bool_or(EXISTS (SELECT FROM participants o WHERE o.email_id = p.email_id AND o.role IN ('from', 'to', 'cc', 'bcc') AND o.domain = ANY(e.external_domains) AND NOT ${isTheirs(sql`o.address`, person)})) AS shared
    FROM participants p JOIN emails e ON e.id = p.email_id WHERE ${isPerson(person)} GROUP BY 1`;
}

const participantRow = z.object({ name: z.string() });

/** Names under which the person is met, in participants and records, the most frequent first. */
export async function namesOf(db: Db | Tx, person: Person): Promise<string[]> {
  const { addresses } = person;
  const rows = await rowsOf(
    db,
    participantRow,
    sql`
    SELECT name FROM (SELECT p.name, count(*) AS n FROM participants p WHERE ${isPerson(person)} AND p.name <> '' GROUP BY 1
      UNION ALL SELECT r.name, 1000000 FROM person_addresses a JOIN contacts r ON a.kind = 'contact' AND r.id = a.person_id WHERE a.address = ANY(${sql.param([...addresses])}::text[])
      UNION ALL SELECT r.name, 1000000 FROM person_addresses a JOIN leads r ON a.kind = 'lead' AND r.id = a.person_id WHERE a.address = ANY(${sql.param([...addresses])}::text[])) s GROUP BY 1 ORDER BY max(n) DESC, 1 LIMIT 50`,
  );
  return rows.map((row) => row.name);
}

/** Emails of others that name the person: by address anywhere in the text, or by a name of several words. */
export function mentionsOf(person: Person, names: readonly string[]): SQL {
  const traces = tracesOf({ addresses: person.addresses, names });
  // The index finds words in order; whether they truly are that name is looked at after.
  const query = traces.map((trace) => `"${trace.replace(/"/g, ' ')}"`).join(' or ');
  const likes = traces.map(containing);
  return sql`SELECT c.email_id FROM email_contents c WHERE c.search @@ websearch_to_tsquery('simple', ${query}) AND (c.body ILIKE ANY(${sql.param(likes)}::text[]) OR c.subject ILIKE ANY(${sql.param(likes)}::text[]))
    AND NOT EXISTS (SELECT FROM participants p WHERE p.email_id = c.email_id AND ${isPerson(person)})`;
}

const personAddressRow = z.object({ kind: recordKind, id: z.number(), name: z.string() });

export async function recordsOf(db: Db | Tx, addresses: readonly string[]): Promise<{ kind: RecordKind; id: number; name: string }[]> {
  const rows = await rowsOf(
    db,
    personAddressRow,
    sql`
    SELECT DISTINCT a.kind, a.person_id AS id, coalesce(c.name, l.name, '') AS name FROM person_addresses a LEFT JOIN contacts c ON a.kind = 'contact' AND c.id = a.person_id LEFT JOIN leads l ON a.kind = 'lead' AND l.id = a.person_id
    WHERE a.address = ANY(${sql.param([...addresses])}::text[]) AND coalesce(c.id, l.id) IS NOT NULL ORDER BY 1, 2`,
  );
  return rows;
}

const personHeldRow = z.object({ alone: z.number(), shared: z.number(), mentions: z.number(), further: z.array(z.string()).nullable() });

/** What is held about a person, of what the acting user may know of. */
export async function personHeld(tx: Tx, person: Person): Promise<PersonHeld> {
  const { addresses } = person;
  const names = await namesOf(tx, person);
  const records = await recordsOf(tx, addresses);
  const rows = await rowsOf(
    tx,
    personHeldRow,
    sql`
    SELECT (SELECT count(*) FILTER (WHERE NOT shared)::int FROM (${emailsWith(person)}) w) AS alone, (SELECT count(*) FILTER (WHERE shared)::int FROM (${emailsWith(person)}) w) AS shared,
      (SELECT count(*)::int FROM (${mentionsOf(person, names)}) m) AS mentions,
      (SELECT array_agg(DISTINCT o.address) FROM person_addresses a JOIN person_addresses o ON o.kind = a.kind AND o.person_id = a.person_id WHERE a.address = ANY(${sql.param([...addresses])}::text[]) AND NOT (o.address = ANY(${sql.param([...addresses])}::text[]))) AS further`,
  );
  const [row] = rows;
  return {
    addresses: [...addresses],
    names,
    further: row?.further ?? [],
    records,
    emailsAlone: row?.alone ?? 0,
    emailsShared: row?.shared ?? 0,
    mentions: row?.mentions ?? 0,
    words: await wordsAbout(tx, addresses),
    rules: await rulesNaming(tx, addresses),
  };
}

const sharingChoiceRow = z.object({ words: z.number() });

/** Words of members about their own mail are theirs: the acting user's alone are counted. */
async function wordsAbout(tx: Tx, addresses: readonly string[]): Promise<number> {
  const rows = await rowsOf(
    tx,
    sharingChoiceRow,
    sql`
    SELECT (SELECT count(*) FROM sharing_choices WHERE value = ANY(${sql.param([...addresses])}::text[]) AND withdrawn_at IS NULL)::int + (SELECT count(*) FROM own_keep_outs WHERE value = ANY(${sql.param([...addresses])}::text[]))::int AS words`,
  );
  return rows[0]?.words ?? 0;
}

async function rulesNaming(tx: Tx, addresses: readonly string[]): Promise<string[]> {
  const { rulebook } = await storedRulebook(tx);
  const names = (value: unknown): boolean =>
    addresses.some((address) => JSON.stringify(value).toLowerCase().includes(JSON.stringify(address)));
  const rules = RULE_STEPS.flatMap((step) =>
    rulebook[step].rules.filter((rule) => names(rule)).map((rule) => `the rule “${rule.name || rule.id}”`),
  );
  const entries = rulebook.keepOut.entries.filter((entry) => names(entry.value)).map((entry) => `the keep-out entry ${entry.value}`);
  const rows = await rowsOf(
    tx,
    participantRow,
    sql`SELECT DISTINCT l.name FROM address_list_entries k JOIN address_lists l ON l.id = k.list_id WHERE k.value = ANY(${sql.param([...addresses])}::text[])`,
  );
  return [...rules, ...entries, ...rows.map((row) => `the address list “${row.name}”`)];
}

const personExportRow = z.object({ record: z.unknown() });

const personExportParticipantRow = z.object({ email: z.unknown() });

/** All that is held about a person, of what the acting user may know of; what emails say where they may read it. */
export async function personExport(tx: Tx, person: Person): Promise<Record<string, unknown>> {
  const held = await personHeld(tx, person);
  const records: unknown[] = [];
  for (const { kind, id } of held.records) {
    const rows = await rowsOf(
      tx,
      personExportRow,
      sql`
      SELECT jsonb_build_object('kind', ${kind}::text, 'record', to_jsonb(r), 'addresses', (SELECT jsonb_agg(a.address ORDER BY a.position) FROM person_addresses a WHERE a.kind = ${kind} AND a.person_id = r.id),
        'deals', (SELECT jsonb_agg(jsonb_build_object('deal', d.name, 'role', p.role)) FROM deal_people p JOIN deals d ON d.id = p.deal_id WHERE p.kind = ${kind} AND p.person_id = r.id),
        'otherRecords', (SELECT jsonb_agg(jsonb_build_object('record', o.code || ' ' || o.name, 'role', p.role)) FROM own_record_people p JOIN own_records o ON o.id = p.record_id WHERE p.kind = ${kind} AND p.person_id = r.id),
        'changes', (SELECT jsonb_agg(to_jsonb(h) - 'id' - 'user_id' ORDER BY h.id) FROM record_changes h WHERE h.kind = ${kind} AND h.record_id = r.id)) AS record FROM ${tableOf(kind)} r WHERE r.id = ${id}`,
    );
    records.push(...rows.map((row) => row.record));
  }
  const emails = await rowsOf(
    tx,
    personExportParticipantRow,
    sql`
    SELECT jsonb_build_object('messageId', e.message_id, 'at', e.sent_at, 'direction', e.direction, 'outcome', e.outcome, 'takesPart', (SELECT jsonb_agg(jsonb_build_object('as', p.role, 'address', p.address, 'name', p.name)) FROM participants p WHERE p.email_id = e.id AND ${isPerson(person)}),
      'subject', c.subject, 'text', c.body, 'filedUnder', (SELECT jsonb_agg(jsonb_build_object('kind', f.kind, 'record', f.record_id, 'rule', f.rule)) FROM filings f WHERE f.email_id = e.id),
      'meetings', (SELECT jsonb_agg(to_jsonb(m) - 'email_id') FROM meetings m WHERE m.email_id = e.id)) AS email
    FROM (${emailsWith(person)}) w JOIN emails e ON e.id = w.email_id LEFT JOIN email_contents c ON c.email_id = e.id ORDER BY e.sent_at, e.id`,
  );
  const mentions = await rowsOf(
    tx,
    personExportParticipantRow,
    sql`
    SELECT jsonb_build_object('messageId', e.message_id, 'at', e.sent_at, 'subject', c.subject) AS email FROM (${mentionsOf(person, held.names)}) m JOIN emails e ON e.id = m.email_id JOIN email_contents c ON c.email_id = e.id ORDER BY e.sent_at, e.id`,
  );
  const writing = await rowsOf(
    tx,
    personExportParticipantRow,
    sql`
    SELECT jsonb_build_object('state', o.state, 'to', o."to", 'cc', o.cc, 'subject', o.subject, 'html', o.html, 'at', o.changed_at) AS email FROM outgoing o
    WHERE o.email_id IS NULL AND (o."to" || o.cc || o.bcc)::text ILIKE ANY(${sql.param(person.addresses.map((address) => containing(`"${address}"`)))}::text[]) ORDER BY o.id`,
  );
  const links = await rowsOf(
    tx,
    personExportParticipantRow,
    sql`
    SELECT jsonb_build_object('document', d.title, 'version', v.number, 'at', l.created_at, 'endsAt', l.ends_at) AS email
    FROM document_links l JOIN document_versions v ON v.id = l.version_id JOIN documents d ON d.id = v.document_id
    WHERE l.recipients::text ILIKE ANY(${sql.param(person.addresses.map((address) => containing(`"${address}"`)))}::text[]) ORDER BY l.id`,
  );
  const runs = await rowsOf(
    tx,
    personExportParticipantRow,
    sql`
    SELECT jsonb_build_object('series', r.series_name, 'state', r.state, 'from', r.started_at, 'until', r.ended_at, 'step', r.at_step + 1) AS email
    FROM series_runs r WHERE r.address = ANY(${sql.param(person.addresses)}::text[]) ORDER BY r.id`,
  );
  const booked = await rowsOf(
    tx,
    personExportParticipantRow,
    sql`
    SELECT jsonb_build_object('meeting', k.name, 'from', b.starts_at, 'until', b.ends_at, 'state', b.state, 'note', b.note, 'name', b.guest_name, 'at', b.created_at) AS email
    FROM bookings b JOIN meeting_kinds k ON k.id = b.kind_id WHERE b.guest_address = ANY(${sql.param(person.addresses)}::text[]) ORDER BY b.id`,
  );
  const logged = await rowsOf(
    tx,
    personExportParticipantRow,
    sql`
    SELECT jsonb_build_object('kind', a.kind, 'at', a.at, 'direction', a.direction, 'text', a.text) AS email FROM activities a
    WHERE a.removed_at IS NULL AND EXISTS (SELECT FROM activity_records r JOIN jsonb_to_recordset(${JSON.stringify(held.records)}::jsonb) h(kind text, id bigint) ON h.kind = r.kind AND h.id = r.record_id WHERE r.activity_id = a.id) ORDER BY a.at, a.id`,
  );
  const tasks = await rowsOf(
    tx,
    personExportParticipantRow,
    sql`
    SELECT jsonb_build_object('text', t.text, 'details', t.details, 'due', t.due_day, 'doneAt', t.done_at) AS email FROM tasks t
    WHERE t.removed_at IS NULL AND EXISTS (SELECT FROM task_records r JOIN jsonb_to_recordset(${JSON.stringify(held.records)}::jsonb) h(kind text, id bigint) ON h.kind = r.kind AND h.id = r.record_id WHERE r.task_id = t.id) ORDER BY t.id`,
  );
  const counted = await rowsOf(
    tx,
    personExportParticipantRow,
    sql`
    SELECT jsonb_build_object('sentAt', m.sent_at, 'askedFor', (SELECT jsonb_agg(jsonb_build_object('at', v.at, 'what', l.kind, 'link', l.url, 'by', v.class) ORDER BY v.at) FROM visits v JOIN measured_links l ON l.id = v.link_id WHERE v.measure_id = m.id)) AS email
    FROM measures m WHERE m.address = ANY(${sql.param(person.addresses)}::text[]) ORDER BY m.id`,
  );
  return {
    format: 'fulvet-person',
    formatVersion: 1,
    made: new Date().toISOString(),
    note: 'Of what whoever made it may know of. Mail that is not theirs to read is missing; owners of mailboxes can make the same export.',
    addresses: held.addresses,
    names: held.names,
    furtherAddresses: held.further,
    records,
    emails: emails.map((row) => row.email),
    mentionedIn: mentions.map((row) => row.email),
    written: writing.map((row) => row.email),
    documentLinks: links.map((row) => row.email),
    series: runs.map((row) => row.email),
    logged: logged.map((row) => row.email),
    tasks: tasks.map((row) => row.email),
    booked: booked.map((row) => row.email),
    countedOpenings: counted.map((row) => row.email),
    rules: held.rules,
  };
}
