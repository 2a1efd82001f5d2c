import { personAddresses, ownRecords } from '../base/db/schema';
import { idRow, rowsOf } from '../base/db/rows';
import { Refusal, isRefusal } from '../base/refusal';
import type { repairRequest } from '@fulvet/contract';
import { addressKey } from '@fulvet/core';
import type { CompiledRulebook } from '@fulvet/core';
import { eq, sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import type { RulebookInForce } from '../rulebook/rulebookInForce';
import { BY_HAND } from '../records/byHand';
import { editRecord } from '../records/editRecord';
import { outsideAddress } from '../rulebook/outsideAddress';
import { accountOf } from './accountOf';
import { startEach } from './startEach';
import { noteStarted } from './started';
import type { Started } from './started';

type Order = z.output<typeof repairRequest>;

/** Creates the people, with new accounts where they are asked for, and the deal that an order names. Their origin is the order's first email. */
export async function startRecords(tx: Tx, userId: number, order: Order, inForce: RulebookInForce): Promise<Started | Refusal> {
  const started: Started = { records: [], file: [], each: [], addresses: [], domains: [] };
  const [origin = null] = order.emails;
  for (const person of order.people) {
    const key = outsideAddress(person.address, inForce, ': colleagues never become records.');
    if (isRefusal(key)) return key;
    const taken = await tx.execute(sql`SELECT FROM person_addresses WHERE kind = ${person.kind} AND address = ${key}`);
    if (taken.rows.length > 0)
      return new Refusal('conflict', 'taken', `${person.address} belongs to a ${person.kind} already. Nothing was changed.`, {
        address: 'is already in a record',
      });
    const account = person.kind === 'contact' ? await accountOf(tx, userId, person.account, origin, started) : null;
    if (isRefusal(account)) return account;
    const company = person.kind === 'lead' && person.account !== null && 'name' in person.account ? person.account.name : '';
    const rows =
      person.kind === 'contact'
        ? await rowsOf(
            tx,
            idRow,
            sql`INSERT INTO contacts (name, account_id, title, phones, owner_id, origin_email_id, origin_rule) VALUES (${person.name}, ${account}, ${person.title}, ${sql.param(person.phones)}::text[], ${userId}, ${origin}, ${BY_HAND}) RETURNING id`,
          )
        : await rowsOf(
            tx,
            idRow,
            sql`INSERT INTO leads (name, company, title, phones, owner_id, origin_email_id, origin_rule) VALUES (${person.name}, ${company}, ${person.title}, ${sql.param(person.phones)}::text[], ${userId}, ${origin}, ${BY_HAND}) RETURNING id`,
          );
    const id = rows[0]?.id ?? 0;
    await tx.insert(personAddresses).values({ kind: person.kind, personId: id, address: key });
    await noteStarted(tx, userId, started, { kind: person.kind, id, name: person.name });
    started.file.push({ kind: person.kind, id, addresses: [key] });
    started.addresses.push(key);
  }
  if (order.deal) {
    const refused = await startDeal(tx, userId, order.deal, started);
    if (isRefusal(refused)) return refused;
  }
  const [rulebook] = inForce.rulebooks;
  if (order.own && rulebook) {
    const refused = await startOwn(tx, userId, order.own, { origin, rulebook, started });
    if (isRefusal(refused)) return refused;
  }
  if (order.each && rulebook) {
    const refused = await startEach(tx, userId, order.each, { emails: order.emails, rulebook, started });
    if (isRefusal(refused)) return refused;
  }
  return started;
}

const dealRow = z.object({ name: z.string() });

async function startDeal(tx: Tx, userId: number, deal: NonNullable<Order['deal']>, started: Started): Promise<Refusal | null> {
  if (deal.code !== '') {
    const rows = await rowsOf(tx, dealRow, sql`SELECT name FROM deals WHERE upper(code) = upper(${deal.code})`);
    if (rows[0])
      return new Refusal('conflict', 'taken', `The code ${deal.code} belongs to the deal ${rows[0].name} already. Nothing was changed.`, {
        code: 'is taken',
      });
  }
  const open = sql`coalesce((SELECT s.open FROM deal_stages s WHERE lower(s.name) = lower(${deal.stage})), true)`;
  const rows = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO deals (name, code, account_id, owner_id, stage, open, amount, currency, opened_on) VALUES (${deal.name}, nullif(${deal.code}, ''), ${deal.accountId}, ${userId}, ${deal.stage}, ${open}, ${deal.amount}, ${deal.currency}, current_date) RETURNING id`,
  );
  const id = rows[0]?.id ?? 0;
  await tx.execute(sql`INSERT INTO deal_people (deal_id, kind, person_id) SELECT DISTINCT ${id}::bigint, kind, person_id FROM person_addresses
    WHERE address = ANY(${sql.param(deal.people.map((person) => addressKey(person, { tagsTellApart: false })?.key ?? person))}::text[])`);
  await noteStarted(tx, userId, started, { kind: 'deal', id, name: deal.name });
  started.file.push({ kind: 'deal', id });
  return null;
}

const accountRow = z.object({ name: z.string() });

/** Starts a record of an own kind; its making is noted with it. */
async function startOwn(
  tx: Tx,
  userId: number,
  { kind, name, accountId, people, values }: NonNullable<Order['own']>,
  { origin, rulebook, started }: { origin: number | null; rulebook: CompiledRulebook; started: Started },
): Promise<Refusal | null> {
  const [account] = accountId === null ? [] : await rowsOf(tx, accountRow, sql`SELECT name FROM accounts WHERE id = ${accountId}`);
  const links = { ...(account ? { account: account.name } : {}), ...(people.length > 0 ? { people: people.join(';') } : {}) };
  const made = await editRecord(tx, userId, 'own', null, { ...values, ...links, kind, name }, rulebook);
  if (isRefusal(made)) return made;
  await tx.update(ownRecords).set({ originEmailId: origin, originRule: BY_HAND }).where(eq(ownRecords.id, made.id));
  started.records.push({ kind: 'own', id: made.id, name: made.name });
  started.file.push({ kind: 'own', id: made.id });
  return null;
}
