import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { fromForm, identityOf, withCompanyAuthor } from '@fulvet/core';
import type { CompiledRulebook } from '@fulvet/core';
import type { Db } from '../../base/db/database';
import { rowsOf } from '../../base/db/rows';
import type { Sources } from '../../base/reading/sources';
import type { ReadMessage } from './readMessage';

const formRow = z.object({ identity: z.string(), kept_as: z.string(), source: z.instanceof(Buffer).nullable() });

/**
 * Messages with their identities. One that was handed over from here in another form than the one that is kept is taken for the kept one: the provider's own
 * copy can be read before the email is filed.
 */
export async function asKept(
  db: Db,
  blobs: Sources,
  arrived: readonly ReadMessage[],
  rulebook: CompiledRulebook,
): Promise<{ read: ReadMessage[]; identities: string[] }> {
  const read = [...arrived];
  const identities = read.map(({ facts, identity }) => identity ?? identityOf(facts));
  const forms = await rowsOf(
    db,
    formRow,
    sql`SELECT f.identity, f.kept_as, o.source FROM sent_forms f LEFT JOIN outgoing o ON o.message_id = f.message_id AND o.source IS NOT NULL WHERE f.identity = ANY(${sql.param(identities)}::text[])`,
  );
  for (const { identity, kept_as: kept, source } of forms)
    for (const [at, message] of read.entries()) {
      if (identities[at] !== identity) continue;
      identities[at] = kept;
      if (source) read[at] = await withSource(blobs, message, source, rulebook);
    }
  return { read, identities };
}

async function withSource(blobs: Sources, message: ReadMessage, raw: Buffer, rulebook: CompiledRulebook): Promise<ReadMessage> {
  const [found] = await blobs.read([{ raw, options: { arrivedAt: Date.now() } }]);
  if (!found) return message;
  return { ...message, raw, facts: fromForm(withCompanyAuthor(found, rulebook.isPublicProvider), rulebook) };
}
