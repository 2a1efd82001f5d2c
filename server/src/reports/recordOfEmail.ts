import type { RecordKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { json } from '../base/db/rows';

/** A record that an email is named with on the home page. */
export const recordBeside = json<{ kind: RecordKind; id: number; name: string }>().nullable();

/** The account of an email, else the person: the record that says most in one line. */
export const recordOfEmail = (
  emailId: SQL,
): SQL => sql`(SELECT json_build_object('kind', f.kind, 'id', f.record_id, 'name', r.name) FROM filings f LEFT JOIN records r ON r.kind = f.kind AND r.id = f.record_id
        WHERE f.email_id = ${emailId} AND f.kind <> 'deal' ORDER BY f.kind LIMIT 1)`;
