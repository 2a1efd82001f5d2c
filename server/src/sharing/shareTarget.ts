import type { Refusal } from '../base/refusal';
import { z } from 'zod';
import { moment } from '../base/db/rows';
import { accessScope, recordKind } from '@fulvet/contract';
import type { AccessScope, RecordKind } from '@fulvet/contract';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { demandEmail } from '../emails/demandEmail';
import { recordMail } from '../records/recordMail';
import { demandSeen } from '../records/seenRecords';

/** What is asked for or shared: an email, its conversation, or all mail of a record. */
export interface ShareTarget {
  scope: AccessScope;
  emailId: number | null;
  record: { kind: RecordKind; id: number } | null;
}

/** What rows of grants and of requests say alike: of which target, with its record's name and its email's subject and time. */
export const targetRow = z.object({
  id: z.number(),
  scope: accessScope,
  email_id: z.number().nullable(),
  record_kind: recordKind.nullable(),
  record_id: z.number().nullable(),
  record_name: z.string().nullable(),
  subject: z.string().nullable(),
  sent_at: moment.nullable(),
  at: moment,
});

export const subjectOf = (order: {
  scope: AccessScope;
  emailId?: number | undefined;
  record?: { kind: RecordKind; id: number } | undefined;
}): ShareTarget => ({ scope: order.scope, emailId: order.emailId ?? null, record: order.record ?? null });

/** A condition on `e`: the emails that it is about. */
export function emailsOfSubject({ scope, emailId, record }: ShareTarget): SQL {
  if (scope === 'email') return sql`e.id = ${emailId}`;
  if (scope === 'conversation') return sql`e.conversation_id = (SELECT conversation_id FROM emails WHERE id = ${emailId})`;
  return sql`e.id IN (SELECT email_id FROM (${recordMail(record?.kind ?? 'account', [record?.id ?? 0])}) m)`;
}

/** A condition on grants or requests: those about this very subject. */
export function isAbout({ scope, emailId, record }: ShareTarget): SQL {
  return sql`scope = ${scope} AND email_id IS NOT DISTINCT FROM ${emailId}::bigint AND record_kind IS NOT DISTINCT FROM ${record?.kind ?? null}::text AND record_id IS NOT DISTINCT FROM ${record?.id ?? null}::bigint`;
}

/** Makes sure that the acting user may know of it. @returns a refusal otherwise */
export function demandKnown(tx: Tx, { emailId, record }: ShareTarget): Promise<Refusal | null> {
  return record ? demandSeen(tx, [record]) : demandEmail(tx, emailId ?? 0);
}
