import { leads } from '../base/db/schema';
import { z } from 'zod';
import { mayBePersonIn } from '../base/db/personKey';
import { rowsOf } from '../base/db/rows';
import { nameKey, readSignature } from '@fulvet/core';
import { sql, eq } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

interface NewPerson {
  kind: string;
  id: number;
  name: string;
  /** The email that the record comes from. */
  emailId: number;
}

const openFieldsRow = z.object({
  kind: z.string(),
  id: z.number(),
  name: z.string(),
  domain: z.string(),
  body: z.string(),
  account_id: z.number().nullable(),
  account: z.string().nullable(),
});

/**
 * Fills title, telephone numbers and a lead's company from the signature of the email that a new record comes from, where the person wrote it and
 * the signature is certain. A new account gets its name as they write it, where it is the one that the domain tells.
 */
export async function fillFromSignatures(tx: Tx, people: readonly NewPerson[], newAccounts: readonly number[]): Promise<void> {
  if (people.length === 0) return;
  const rows = await rowsOf(
    tx,
    openFieldsRow,
    sql`
    SELECT n.kind, n.id, n.name, p.domain, c.body, a.id AS account_id, a.name AS account FROM json_to_recordset(${JSON.stringify(people.map(({ kind, id, name, emailId }) => ({ kind, id, name, email: emailId })))}::json) AS n(kind text, id bigint, name text, email bigint)
      JOIN person_addresses x ON x.kind = n.kind AND x.person_id = n.id JOIN participants p ON p.email_id = n.email AND p.role = 'from' AND ${mayBePersonIn(sql`p.address`, sql`ARRAY[x.address]`)}
      JOIN email_contents c ON c.email_id = n.email LEFT JOIN contacts k ON n.kind = 'contact' AND k.id = n.id LEFT JOIN accounts a ON a.id = k.account_id`,
  );
  for (const row of rows) {
    const { title, phones, company } = readSignature(row.body, row.name, row.domain);
    if (title !== '' || phones.length > 0) {
      await tx.execute(
        sql`UPDATE ${sql.identifier(`${row.kind}s`)} SET title = ${title}, phones = ${sql.param(phones)}::text[] WHERE id = ${row.id}`,
      );
    }
    if (company === '') continue;
    if (row.kind === 'lead') await tx.update(leads).set({ company }).where(eq(leads.id, row.id));
    const renamed =
      row.account_id !== null &&
      newAccounts.includes(row.account_id) &&
      company !== row.account &&
      nameKey(company) === nameKey(row.account ?? '');
    if (renamed)
      await tx.execute(
        sql`UPDATE accounts SET name = ${company} WHERE id = ${row.account_id} AND NOT EXISTS (SELECT FROM accounts o WHERE lower(o.name) = lower(${company}) AND o.id <> ${row.account_id})`,
      );
  }
}
