import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { bulkOrder, LeftOutReason, Outgoing, User } from '@fulvet/contract';
import { MOST_IN_BULK, recordQuery } from '@fulvet/contract';
import { rowsOf } from '../../base/db/rows';
import { isRefusal, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { recordList } from '../../records/recordList';
import { RulebookInForce } from '../../rulebook/rulebookInForce';
import { cameBack, situationOf } from '../preview';
import { OPEN } from '../series/queries';

type Order = z.output<typeof bulkOrder>;

export interface Person {
  name: string;
  address: string;
}

/** Who of a list gets an email, and who does not, in the order of the list. */
export interface PeopleOfList {
  found: number;
  people: Person[];
  leftOut: { why: LeftOutReason; name: string }[];
}

const addressRow = z.object({ address: z.string() });

/** The people of a list of records, as the acting user sees it. @param from the mailbox that it is sent from */
export async function peopleOf(
  services: Services,
  user: User,
  { kind, filter }: Order,
  from: { mailboxId: number; address: string },
): Promise<PeopleOfList | Refusal> {
  const { database } = services;
  const listed = await database.as(user.id, (tx) =>
    recordList(tx, kind, recordQuery.parse({ ...filter, sort: 'name', limit: MOST_IN_BULK })),
  );
  if (listed.total > MOST_IN_BULK)
    return new Refusal(
      'conflict',
      'too-many',
      `${listed.total} people are more than ${MOST_IN_BULK}. Narrow the list, and send to one part after the other.`,
    );
  const first = listed.records.map(({ name, addresses }) => ({ name, address: (addresses[0] ?? '').toLowerCase() }));
  const all = [...new Set(first.map(({ address }) => address).filter(Boolean))];
  const reasons = await reasonsFor(services, user, all, from);
  if (isRefusal(reasons)) return reasons;
  const people: Person[] = [];
  const leftOut: PeopleOfList['leftOut'] = [];
  const taken = new Set<string>();
  for (const person of first) {
    const why = person.address === '' ? 'no address' : taken.has(person.address) ? 'twice' : (reasons.get(person.address) ?? null);
    if (why !== null) leftOut.push({ why, name: person.name });
    else people.push(person);
    taken.add(person.address);
  }
  return { found: first.length, people, leftOut };
}

/** Why addresses get no email that is sent by itself. */
async function reasonsFor(
  services: Services,
  user: User,
  addresses: readonly string[],
  from: { mailboxId: number; address: string },
): Promise<Map<string, LeftOutReason> | Refusal> {
  const { database } = services;
  const inForce = await RulebookInForce.load(database);
  const draft = draftTo(addresses, from);
  const situation = await database.work((tx) => situationOf(tx, services, user, draft, inForce), { accessMode: 'read only' });
  if (isRefusal(situation)) return situation;
  const wanted = sql.param(addresses);
  const unsubscribed = await rowsOf(
    database.worker,
    addressRow,
    sql`SELECT address FROM unsubscribes WHERE address = ANY(${wanted}::text[])`,
  );
  const busy = await rowsOf(
    database.worker,
    addressRow,
    sql`SELECT r.address FROM series_runs r WHERE r.address = ANY(${wanted}::text[]) AND ${OPEN}`,
  );
  const bounced = await database.as(user.id, (tx) => cameBack(tx, situation.recipients));
  const reasons = new Map<string, LeftOutReason>();
  for (const { address } of busy) reasons.set(address, 'has a series');
  for (const address of bounced) reasons.set(address, 'bounced');
  for (const { address } of unsubscribed) reasons.set(address, 'unsubscribed');
  for (const { address, isOurs, keptOutBy, erased } of situation.recipients) {
    if (keptOutBy !== null) reasons.set(address, 'kept out');
    if (erased) reasons.set(address, 'erased');
    if (isOurs) reasons.set(address, 'colleague');
  }
  return reasons;
}

/** An email to all of them, to ask of each what would become of it; it is never stored. */
const draftTo = (addresses: readonly string[], { mailboxId, address }: { mailboxId: number; address: string }): Outgoing => ({
  id: 0,
  state: 'draft',
  kind: 'new',
  from: address,
  to: addresses.map((to) => ({ name: '', address: to })),
  subject: '',
  dueAt: null,
  sentAt: null,
  changedAt: new Date(0).toISOString(),
  problem: '',
  emailId: null,
  revision: 0,
  mailboxId,
  fromAddress: null,
  withSignature: false,
  cc: [],
  bcc: [],
  html: '',
  quote: '',
  withQuote: false,
  filing: { how: 'rules', records: [] },
  answers: null,
  files: [],
  remindDays: null,
  measured: false,
  measure: null,
});
