import { nameInSignature, personName } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { personKeyInSql } from '../base/db/personKey';
import type { TellsApart } from '../base/db/personKey';
import { rowsOf } from '../base/db/rows';
import { noteChanges } from '../records/recordLog';

const guessedRow = z.object({
  kind: z.enum(['contact', 'lead']),
  id: z.number(),
  name: z.string(),
  confidence: z.number(),
  key: z.string(),
  address: z.string(),
  written: z.string(),
  body: z.string().nullable(),
});

/** How sure a name is that someone signs with. */
const SIGNED = 0.9;

/**
 * Gives people whose name was only guessed from their address the name that these emails have for them: as a display name, else as they sign.
 * A name that someone changed by hand stays.
 *
 * @param where a condition on participants `p` and the addresses `x` of known people
 * @returns addresses of those who got another name: what is said of their mail names them
 */
export async function improveNames(tx: Tx, where: SQL, rulebook: TellsApart): Promise<string[]> {
  const rows = await rowsOf(
    tx,
    guessedRow,
    sql`
    SELECT x.kind, x.person_id AS id, r.name, r.name_confidence::float8 AS confidence, x.address AS key, p.address, p.name AS written, CASE WHEN p.role = 'from' THEN c.body END AS body
    FROM participants p JOIN emails e ON e.id = p.email_id AND e.mail_class = 'person' AND e.sender_check <> 'failed' AND e.outcome IS DISTINCT FROM 'kept out' AND e.outcome IS DISTINCT FROM 'sealed'
      JOIN person_addresses x ON x.address = ${personKeyInSql(rulebook, sql`p.address`)}
      JOIN (SELECT 'contact' AS kind, id, name, name_confidence FROM contacts WHERE name_confidence < 1 UNION ALL SELECT 'lead', id, name, name_confidence FROM leads WHERE name_confidence < 1) r ON r.kind = x.kind AND r.id = x.person_id
      LEFT JOIN email_contents c ON c.email_id = e.id
    WHERE ${where} AND p.role IN ('from', 'to', 'cc')
      AND NOT EXISTS (SELECT FROM record_changes h WHERE h.kind = x.kind AND h.record_id = x.person_id AND h.field = 'name' AND h.user_id IS NOT NULL)
    ORDER BY x.kind, x.person_id, p.role = 'from' DESC, e.sent_at, e.id`,
  );
  const renamed = new Map<string, string>();
  for (const { kind, id, name, confidence, key, address, written, body } of rows) {
    if (renamed.has(`${kind}:${id}`)) continue;
    const better = betterName(written, address, body ?? '');
    if (better.confidence <= confidence || better.name === name) continue;
    await tx.execute(
      sql`UPDATE ${sql.identifier(`${kind}s`)} SET name = ${better.name}, name_confidence = ${better.confidence} WHERE id = ${id}`,
    );
    await noteChanges(tx, null, kind, id, [{ field: 'name', before: name, after: better.name }]);
    renamed.set(`${kind}:${id}`, key);
  }
  return [...new Set(renamed.values())];
}

function betterName(written: string, address: string, body: string): { name: string; confidence: number } {
  const guessed = personName(written, address);
  if (guessed.confidence === 1) return guessed;
  const signed = nameInSignature(body, address);
  return signed === '' ? guessed : { name: signed, confidence: SIGNED };
}
