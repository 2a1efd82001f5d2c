import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import type { ConcernedPerson } from '@fulvet/contract';
import type { CompiledRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { historyOf } from './history';
import { nextMeeting } from './insights';
import { outsidersOf } from '../records/outsiders';

/** People whose records are looked up; more take part in mass mail only. */
const MOST = 12;

const participantRow = z.object({ address: z.string() });

/** Whom an email concerns in the records, with what one wants to know before answering; who takes part first, the sender before all. */
export async function concernedPeople(tx: Tx, emailId: number, rulebook: CompiledRulebook): Promise<ConcernedPerson[]> {
  const people = (await outsidersOf(tx, [emailId], rulebook)).people.slice(0, MOST);
  const rows = await rowsOf(tx, participantRow, sql`SELECT address FROM participants WHERE email_id = ${emailId} AND role = 'from'`);
  const sender = rows[0]?.address;
  const ordered = [...people].sort((first, second) => Number(second.address === sender) - Number(first.address === sender));
  const found: ConcernedPerson[] = [];
  for (const person of ordered) {
    const { record } = person;
    const meeting = record ? await nextMeeting(tx, historyOf(record.kind, record.id)) : null;
    found.push({
      ...person,
      ...(record ? await knownFacts(tx, person) : {}),
      deals: record ? await openDealsOf(tx, record) : [],
      meeting: meeting ? { at: meeting.at, summary: meeting.summary } : null,
      lastContact: await lastContact(tx, emailId, person.address),
    });
  }
  return found;
}

const contactRow = z.object({ title: z.string(), account_id: z.number().nullable(), account: z.string().nullable() });

/** What the record says goes before what the signature says. */
async function knownFacts(
  tx: Tx,
  { record, title, accounts }: ConcernedPerson | Omit<ConcernedPerson, 'deals' | 'meeting' | 'lastContact'>,
): Promise<Pick<ConcernedPerson, 'title' | 'accounts'>> {
  if (record?.kind !== 'contact') return { title, accounts };
  const rows = await rowsOf(
    tx,
    contactRow,
    sql`SELECT c.title, c.account_id, a.name AS account FROM contacts c LEFT JOIN accounts a ON a.id = c.account_id WHERE c.id = ${record.id}`,
  );
  const [row] = rows;
  return { title: row?.title || title, accounts: row?.account_id ? [{ id: row.account_id, name: row.account ?? '' }] : accounts };
}

const dealRow = z.object({ id: z.number(), name: z.string(), stage: z.string() });

async function openDealsOf(tx: Tx, record: NonNullable<ConcernedPerson['record']>): Promise<ConcernedPerson['deals']> {
  const rows = await rowsOf(
    tx,
    dealRow,
    sql`SELECT d.id, d.name, d.stage FROM deal_people p JOIN deals d ON d.id = p.deal_id AND d.open WHERE p.kind = ${record.kind} AND p.person_id = ${record.id} ORDER BY d.amount DESC NULLS LAST, lower(d.name) LIMIT 6`,
  );
  return rows;
}

const userRow = z.object({ sent_at: moment, colleague: z.string().nullable(), direction: z.string().nullable() });

async function lastContact(tx: Tx, emailId: number, address: string): Promise<ConcernedPerson['lastContact']> {
  const rows = await rowsOf(
    tx,
    userRow,
    sql`
    SELECT e.sent_at, e.direction, (SELECT u.name FROM users u WHERE u.id = ANY(e.owner_ids) ORDER BY u.id LIMIT 1) AS colleague
    FROM emails e, emails this WHERE this.id = ${emailId} AND e.id IN (SELECT email_id FROM fulvet_emails_with_address(${address})) AND (e.sent_at, e.id) < (this.sent_at, this.id) ORDER BY e.sent_at DESC, e.id DESC LIMIT 1`,
  );
  const [row] = rows;
  return row ? { at: row.sent_at, colleague: row.colleague ?? '', direction: row.direction ?? '' } : null;
}
