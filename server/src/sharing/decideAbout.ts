import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import type { SharingChoice } from '@fulvet/contract';
import type { ShareLevel } from '@fulvet/core';
import { domainOf } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { mayBePersonIn } from '../base/db/personKey';
import type { Services } from '../base/services';
import { decideUnsealed } from '../decision/decideConversations';
import { takeOffTrials } from '../decision/takeOffTrials';
import type { RulebookInForce } from '../rulebook/rulebookInForce';

/** More conversations than this are decided by a job instead of while the caller waits. */
const AT_ONCE = 1500;

export interface Row {
  [column: string]: unknown;
  id: number;
  does: SharingChoice['does'];
  scope: SharingChoice['scope'];
  email_id: number | null;
  value: string | null;
  level: ShareLevel | null;
  teams: string[];
  existence_only: boolean;
  until: string | null;
  at: string;
  subject: string | null;
}

interface DecidedAbout {
  emails: number;
  pending: boolean;
  addresses: string[];
  domains: string[];
}

const emailRow = z.object({ id: z.number(), conversation_id: z.number(), sure: z.boolean() });

/** Decides again what a choice is about. Of very much mail, what is sealed is hidden at once, and decided by a job. */
export async function decideAbout(
  tx: Tx,
  { blobs }: Services,
  userId: number,
  choice: Pick<Row, 'does' | 'scope' | 'email_id' | 'value'>,
  inForce: RulebookInForce,
): Promise<DecidedAbout> {
  const domain = domainOf(choice.value ?? '');
  const about = {
    email: sql`e.id = ${choice.email_id}`,
    conversation: sql`e.conversation_id = (SELECT conversation_id FROM emails WHERE id = ${choice.email_id})`,
    person: sql`EXISTS (SELECT FROM participants p WHERE p.email_id = e.id AND ${mayBePersonIn(sql`p.address`, sql`ARRAY[${choice.value}]`)})`,
    domain: sql`EXISTS (SELECT FROM participants p WHERE p.email_id = e.id AND (p.domain = ${choice.value} OR p.domain LIKE '%.' || ${choice.value}))`,
  }[choice.scope];
  // What was kept out has no names any more: its domain tells that it may be concerned.
  const keptOut =
    choice.value === null
      ? sql`false`
      : sql`(e.outcome = 'kept out' AND EXISTS (SELECT FROM unnest(e.external_domains) x WHERE x = ${domain} OR x LIKE '%.' || ${domain}))`;
  const rows = await rowsOf(
    tx,
    emailRow,
    sql`SELECT e.id, e.conversation_id, e.outcome IS DISTINCT FROM 'kept out' AS sure FROM emails e WHERE ${userId} = ANY(e.owner_ids) AND (${about} OR ${keptOut})`,
  );
  const ids = rows.map((row) => row.id);
  const conversations = [...new Set(rows.map((row) => row.conversation_id))];
  await tx.execute(sql`UPDATE emails SET decided_at = NULL WHERE id = ANY(${sql.param(ids)}::bigint[])`);
  const emails = rows.filter((row) => row.sure).length;
  if (conversations.length > AT_ONCE) {
    if (choice.does === 'seal') {
      await takeOffTrials(tx, ids);
      await tx.execute(sql`UPDATE emails SET outcome = NULL WHERE id = ANY(${sql.param(ids)}::bigint[])`);
    }
    return { emails, pending: true, addresses: [], domains: [] };
  }
  const { addresses, domains } = await decideUnsealed(tx, blobs, conversations, inForce);
  return { emails, pending: false, addresses, domains };
}

/** What is left for a job: very much mail, or mail of people and companies whose records came or went. */
export async function decideFurther({ jobs }: Services, { pending, addresses, domains }: DecidedAbout): Promise<void> {
  if (pending) await jobs.decidePending();
  else if (addresses.length + domains.length > 0) await jobs.decideConcerned({ addresses, domains });
}
