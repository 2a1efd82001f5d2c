import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { Refusal, notFound } from '../base/refusal';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import type { Concerned } from '../base/concerned';
import { nounOf, PEOPLE_OF, tableOf } from './kinds';
import type { KindWithPeople } from './kinds';
import { noteChanges } from './recordLog';

/** A deal, or a record of an own kind. */
export interface WithPeople {
  kind: KindWithPeople;
  id: number;
}

export interface PersonOnRecord {
  kind: 'contact' | 'lead';
  id: number;
  role: string;
}

const contactRow = z.object({ kind: z.string() });

const addressRow = z.object({ address: z.string() });

/** Sets who is on a record, and what they are to it. @returns whose mail it concerns: those who come and those who go */
export async function setPeopleOn(
  tx: Tx,
  userId: number,
  record: WithPeople,
  people: readonly PersonOnRecord[],
): Promise<{ before: PersonOnRecord[]; after: PersonOnRecord[]; concerned: Concerned } | Refusal> {
  const { rows } = await tx.execute(sql`SELECT FROM ${tableOf(record.kind)} WHERE id = ${record.id} FOR UPDATE`);
  if (rows.length === 0) return notFound(nounOf(record.kind));
  const { table, id } = PEOPLE_OF[record.kind];
  const wanted = sql`json_to_recordset(${JSON.stringify(people)}::json) AS n(kind text, id bigint, role text)`;
  const strangers = await rowsOf(
    tx,
    contactRow,
    sql`SELECT n.kind FROM ${wanted} LEFT JOIN contacts c ON n.kind = 'contact' AND c.id = n.id LEFT JOIN leads l ON n.kind = 'lead' AND l.id = n.id WHERE coalesce(c.id, l.id) IS NULL`,
  );
  if (strangers[0])
    return new Refusal('unknown', 'not-found', `A ${strangers[0].kind} of these is not there any more. Nothing was changed.`);
  const before = await namesOn(tx, record);
  const stood = await peopleOn(tx, record);
  const concerned = await rowsOf(
    tx,
    addressRow,
    sql`
    WITH moved AS (SELECT coalesce(n.kind, p.kind) AS kind, coalesce(n.id, p.person_id) AS id FROM ${wanted} FULL JOIN (SELECT kind, person_id FROM ${table} WHERE ${id} = ${record.id}) p ON p.kind = n.kind AND p.person_id = n.id WHERE n.id IS NULL OR p.person_id IS NULL)
    SELECT a.address FROM moved m JOIN person_addresses a ON a.kind = m.kind AND a.person_id = m.id`,
  );
  await tx.execute(sql`DELETE FROM ${table} WHERE ${id} = ${record.id}`);
  await tx.execute(
    sql`INSERT INTO ${table} (${id}, kind, person_id, role) SELECT DISTINCT ON (n.kind, n.id) ${record.id}::bigint, n.kind, n.id, n.role FROM ${wanted}`,
  );
  await noteChanges(tx, userId, record.kind, record.id, [{ field: 'people', before, after: await namesOn(tx, record) }]);
  return {
    before: stood,
    after: await peopleOn(tx, record),
    concerned: { addresses: concerned.map((row) => row.address), domains: [], records: { kind: record.kind, ids: [record.id] } },
  };
}

const peopleOnRow = z.object({ kind: z.enum(['lead', 'contact']), id: z.number(), role: z.string() });

/** Who is on a record, always in the same order. */
export async function peopleOn(tx: Tx, record: WithPeople): Promise<PersonOnRecord[]> {
  const rows = await rowsOf(
    tx,
    peopleOnRow,
    sql`SELECT kind, person_id AS id, role FROM ${PEOPLE_OF[record.kind].table} WHERE ${PEOPLE_OF[record.kind].id} = ${record.id} ORDER BY kind, person_id`,
  );
  return rows;
}

const namesOnRow = z.object({ names: z.string().nullable() });

async function namesOn(tx: Tx, record: WithPeople): Promise<string> {
  const rows = await rowsOf(
    tx,
    namesOnRow,
    sql`
    SELECT string_agg(coalesce(c.name, l.name) || CASE WHEN p.role <> '' THEN ' (' || p.role || ')' ELSE '' END, ', ' ORDER BY lower(coalesce(c.name, l.name)), p.person_id) AS names
    FROM ${PEOPLE_OF[record.kind].table} p LEFT JOIN contacts c ON p.kind = 'contact' AND c.id = p.person_id LEFT JOIN leads l ON p.kind = 'lead' AND l.id = p.person_id WHERE p.${PEOPLE_OF[record.kind].id} = ${record.id}`,
  );
  return rows[0]?.names ?? '';
}
