import { accountDomains } from '../base/db/schema';
import { idRow, rowsOf } from '../base/db/rows';
import { Refusal } from '../base/refusal';
import type { newPerson } from '@fulvet/contract';
import { domainToAscii } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { z } from 'zod';
import type { Tx } from '../base/db/database';
import { BY_HAND } from '../records/byHand';
import { noteStarted } from './started';
import type { Started } from './started';

type Wanted = z.output<typeof newPerson>['account'];

/** The account that is wanted: one that is there, by id or name, or a new one, which leads to the mail of its people by the rules. */
export async function accountOf(
  tx: Tx,
  userId: number,
  wanted: Wanted,
  origin: number | null,
  started: Started,
): Promise<number | null | Refusal> {
  if (wanted === null) return null;
  if ('id' in wanted) return wanted.id;
  const known = await rowsOf(tx, idRow, sql`SELECT id FROM accounts WHERE lower(name) = lower(${wanted.name})`);
  if (known[0]) return known[0].id;
  const domain = wanted.domain === '' ? null : domainToAscii(wanted.domain);
  if (domain !== null && !domain.includes('.'))
    return new Refusal('unfit', 'bad-input', `“${wanted.domain}” is not a domain such as harbour.example.`, { domain: 'is not a domain' });
  const rows = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO accounts (name, owner_id, origin_email_id, origin_rule) VALUES (${wanted.name}, ${userId}, ${origin}, ${BY_HAND}) RETURNING id`,
  );
  const id = rows[0]?.id ?? 0;
  if (domain !== null) {
    await tx.insert(accountDomains).values({ accountId: id, domain });
    started.domains.push(domain);
  }
  await noteStarted(tx, userId, started, { kind: 'account', id, name: wanted.name });
  return id;
}
