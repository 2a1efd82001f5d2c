import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { rowsOf } from '../base/db/rows';
import { recordMail } from './recordMail';

const MOST_PROPOSED = 5;

const proposedRow = z.object({ kind: z.enum(['contact', 'lead']), id: z.number(), name: z.string(), emails: z.number() });

/** People who take part in the mail of a deal and are not on it, those with the most emails first. */
export const proposedPeople = (tx: Tx, dealId: number): Promise<z.infer<typeof proposedRow>[]> =>
  rowsOf(
    tx,
    proposedRow,
    sql`SELECT a.kind, a.person_id AS id, r.name, count(DISTINCT m.email_id)::int AS emails
      FROM (${recordMail('deal', [dealId])}) m JOIN participants p ON p.email_id = m.email_id AND p.role IN ('from', 'to', 'cc')
        JOIN person_addresses a ON a.address = p.address JOIN records r ON r.kind = a.kind AND r.id = a.person_id
      WHERE NOT EXISTS (SELECT FROM deal_people d WHERE d.deal_id = ${dealId} AND d.kind = a.kind AND d.person_id = a.person_id)
      GROUP BY a.kind, a.person_id, r.name ORDER BY emails DESC, r.name LIMIT ${MOST_PROPOSED}`,
  );
