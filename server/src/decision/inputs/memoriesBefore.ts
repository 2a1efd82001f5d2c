import { z } from 'zod';
import { manyRowsOf } from '../../base/db/rows';
import { direction } from '@fulvet/contract';
import { NO_MEMORY, remember } from '@fulvet/core';
import type { ConversationMemory } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
import { filedUnder } from '../../emails/filingsText';

const earlierRow = z.object({
  conversation_id: z.number(),
  filings: z.string().nullable(),
  direction: direction.nullable(),
  outcome: z.string().nullable(),
  subject: z.string().nullable(),
  at: z.number(),
  externals: z.array(z.string()).nullable(),
});

/** What the conversations of these emails say before the first of them, by what stands; by conversation. */
export async function memoriesBefore(tx: Tx, emailIds: readonly number[]): Promise<Map<number, ConversationMemory>> {
  const rows = await manyRowsOf(
    tx,
    earlierRow,
    sql`
    SELECT e.conversation_id, e.direction, e.outcome, (extract(epoch FROM e.sent_at) * 1000)::float8 AS at, (SELECT c.subject FROM email_contents c WHERE c.email_id = e.id) AS subject,
      (SELECT array_agg(DISTINCT p.address) FROM participants p WHERE p.email_id = e.id AND p.role IN ('from', 'to', 'cc', 'bcc') AND p.domain = ANY (e.external_domains)) AS externals, (SELECT string_agg(f.kind || ':' || f.record_id || ':' || f.rule, ',' ORDER BY f.kind, f.record_id) FROM filings f WHERE f.email_id = e.id) AS filings
    FROM emails e JOIN (SELECT DISTINCT ON (conversation_id) conversation_id, sent_at, id FROM emails WHERE id = ANY(${sql.param([...emailIds])}::bigint[]) ORDER BY conversation_id, sent_at, id) first ON first.conversation_id = e.conversation_id
    WHERE (e.sent_at, e.id) < (first.sent_at, first.id) ORDER BY e.sent_at, e.id`,
  );
  const memories = new Map<number, ConversationMemory>();
  for (const { conversation_id: conversation, filings, subject, at, externals, ...row } of rows)
    memories.set(
      conversation,
      remember(
        memories.get(conversation) ?? NO_MEMORY,
        { ...row, externals: externals ?? [], filings: filedUnder(filings ?? '') },
        { subject, at },
      ),
    );
  return memories;
}
