import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { z } from 'zod';
import type { RecipientFound } from '@fulvet/contract';
import { containing } from '../base/db/like';
import type { Tx } from '../base/db/database';
import { rowsOf } from '../base/db/rows';

const MOST_FOUND = 12;

const foundRow = z.object({ name: z.string(), address: z.string(), hint: z.string() });

/** People whom the acting user can write to: those of a record first, then whoever has a part of the text in name or address. */
export async function findRecipients(tx: Tx, { text, record }: { text: string; record?: string | undefined }): Promise<RecipientFound[]> {
  const ofRecord = record === undefined ? null : await rowsOf(tx, foundRow, peopleOf(record, text));
  const found = text.length < 2 ? [] : await rowsOf(tx, foundRow, byText(text));
  const byAddress = new Map([...(ofRecord ?? []), ...found].reverse().map((person) => [person.address, person]));
  return [...byAddress.values()].reverse().slice(0, MOST_FOUND);
}

const PERSON = sql`a.address, coalesce(c.name, l.name, '') AS name, coalesce(k.name, nullif(l.company, ''), '') AS hint
  FROM person_addresses a LEFT JOIN contacts c ON a.kind = 'contact' AND c.id = a.person_id LEFT JOIN leads l ON a.kind = 'lead' AND l.id = a.person_id LEFT JOIN accounts k ON k.id = c.account_id`;

function peopleOf(record: string, text: string): SQL {
  const [kind = '', id = ''] = record.split(':');
  const which =
    kind === 'account'
      ? sql`a.kind = 'contact' AND c.account_id = ${Number(id)}`
      : kind === 'deal'
        ? sql`EXISTS (SELECT FROM deal_people p WHERE p.deal_id = ${Number(id)} AND p.kind = a.kind AND p.person_id = a.person_id)`
        : sql`a.kind = ${kind} AND a.person_id = ${Number(id)}`;
  const like = containing(text);
  return sql`SELECT ${PERSON} WHERE ${which} AND coalesce(c.id, l.id) IS NOT NULL AND (a.address ILIKE ${like} OR coalesce(c.name, l.name) ILIKE ${like}) ORDER BY name, a.position LIMIT ${MOST_FOUND}`;
}

/** Each part goes by its own index. */
function byText(text: string): SQL {
  const like = containing(text);
  const part = (which: SQL): SQL => sql`(SELECT ${PERSON} WHERE ${which} LIMIT ${MOST_FOUND})`;
  return sql`SELECT address, name, hint FROM (
      ${part(sql`a.kind = 'contact' AND a.person_id IN (SELECT id FROM contacts WHERE name ILIKE ${like} LIMIT ${MOST_FOUND})`)}
      UNION ${part(sql`a.kind = 'lead' AND a.person_id IN (SELECT id FROM leads WHERE name ILIKE ${like} LIMIT ${MOST_FOUND})`)}
      UNION ${part(sql`a.address ILIKE ${like} AND coalesce(c.id, l.id) IS NOT NULL`)}
      UNION (SELECT lower(email), name, 'colleague' FROM users WHERE active AND (name ILIKE ${like} OR email ILIKE ${like}) LIMIT ${MOST_FOUND})) found
    ORDER BY hint = 'colleague', name, address LIMIT ${MOST_FOUND}`;
}
