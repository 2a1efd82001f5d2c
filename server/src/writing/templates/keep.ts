import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Template, User, templateContent } from '@fulvet/contract';
import { writeDown } from '../../base/audit';
import type { Tx } from '../../base/db/database';
import { rowsOf } from '../../base/db/rows';
import { isRefusal, notFound, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { demandChangeable } from '../demandChangeable';
import { demandShareable } from '../demandShareable';
import { storeTemplate, templateOf } from './queries';

type Parts = Pick<Services, 'database'>;
type Content = z.output<typeof templateContent>;

const MOST_TEMPLATES = 500;

const countRow = z.object({ count: z.number() });
export function createTemplate({ database }: Parts, user: User, content: Content): Promise<Template | Refusal> {
  return database.as(user.id, async (tx) => {
    const refused = await demandShareable(tx, user, content, 'templates');
    if (refused) return refused;
    const [many] = await rowsOf(
      tx,
      countRow,
      sql`SELECT count(*)::int AS count FROM templates WHERE owner_id = ${user.id} AND removed_at IS NULL`,
    );
    if ((many?.count ?? 0) >= MOST_TEMPLATES)
      return new Refusal('conflict', 'too-many', `You have ${MOST_TEMPLATES} templates. Remove some of them first.`);
    const id = await storeTemplate(tx, user.id, null, content);
    await noteSharing(tx, user, content);
    return (await templateOf(tx, id)) ?? notFound('template');
  });
}

export function saveTemplate({ database }: Parts, user: User, id: number, { revision, ...content }: Content & { revision: number }) {
  return database.as(user.id, async (tx): Promise<Template | Refusal> => {
    const found = await demandMine(tx, id, revision);
    if (isRefusal(found)) return found;
    const refused = await demandShareable(tx, user, content, 'templates');
    if (refused) return refused;
    await storeTemplate(tx, user.id, id, content);
    if (content.scope !== found.scope) await noteSharing(tx, user, content);
    return (await templateOf(tx, id)) ?? notFound('template');
  });
}

async function noteSharing(tx: Tx, user: User, { scope, name }: Content): Promise<void> {
  if (scope === 'own') return;
  await writeDown(tx, user, { kind: 'settings', about: `shared the template ${name} with ${scope === 'all' ? 'everyone' : 'a team'}` });
}

async function demandMine(tx: Tx, id: number, revision: number | null): Promise<Template | Refusal> {
  await tx.execute(sql`SELECT FROM templates WHERE id = ${id} FOR UPDATE`);
  const found = await templateOf(tx, id);
  return found ? demandChangeable(found, 'template', revision) : notFound('template');
}

/** Removes a template, or brings it back. */
export function setRemoved({ database }: Parts, user: User, id: number, isRemoved: boolean) {
  return database.as(user.id, async (tx): Promise<Template | Refusal> => {
    const found = await demandMine(tx, id, null);
    if (isRefusal(found)) return found;
    await tx.execute(sql`UPDATE templates SET removed_at = ${isRemoved ? sql`now()` : sql`NULL`} WHERE id = ${id}`);
    return (await templateOf(tx, id)) ?? notFound('template');
  });
}
