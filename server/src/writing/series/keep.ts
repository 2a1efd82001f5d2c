import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { SeriesDetail, User, seriesContent } from '@fulvet/contract';
import { writeDown } from '../../base/audit';
import type { Tx } from '../../base/db/database';
import { idRow, rowsOf } from '../../base/db/rows';
import { isRefusal, notFound, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { demandChangeable } from '../demandChangeable';
import { demandShareable } from '../demandShareable';
import { seriesOf } from './queries';

type Parts = Pick<Services, 'database'>;
type Content = z.output<typeof seriesContent>;

const MOST_SERIES = 200;

const countRow = z.object({ count: z.number() });

export function createSeries({ database }: Parts, user: User, content: Content): Promise<SeriesDetail | Refusal> {
  return database.as(user.id, async (tx) => {
    const refused = await demandKeepable(tx, user, content);
    if (refused) return refused;
    const [many] = await rowsOf(
      tx,
      countRow,
      sql`SELECT count(*)::int AS count FROM series WHERE owner_id = ${user.id} AND removed_at IS NULL`,
    );
    if ((many?.count ?? 0) >= MOST_SERIES)
      return new Refusal('conflict', 'too-many', `You have ${MOST_SERIES} series. Remove some of them first.`);
    const [made] = await rowsOf(
      tx,
      idRow,
      sql`INSERT INTO series (owner_id, scope, team_id, language, name, steps)
        VALUES (${user.id}, ${content.scope}, ${teamOf(content)}, ${content.language}, ${content.name}, ${JSON.stringify(content.steps)}::jsonb) RETURNING id`,
    );
    await noteSharing(tx, user, content);
    return (await seriesOf(tx, made?.id ?? 0)) ?? notFound('series');
  });
}

const teamOf = ({ scope, teamId }: Content): number | null => (scope === 'team' ? teamId : null);

/** Its texts must be there, and found by its owner. */
async function demandKeepable(tx: Tx, user: User, content: Content): Promise<Refusal | null> {
  const refused = await demandShareable(tx, user, content, 'series');
  if (refused) return refused;
  const wanted = content.steps.flatMap(({ templateId }) => templateId ?? []);
  const found = await rowsOf(
    tx,
    idRow,
    sql`SELECT id FROM templates WHERE id = ANY(${sql.param(wanted)}::bigint[]) AND kind = 'template' AND removed_at IS NULL`,
  );
  const missing = content.steps.findIndex(({ templateId }) => templateId !== null && !found.some(({ id }) => id === templateId));
  return missing < 0
    ? null
    : new Refusal('unfit', 'bad-input', `Step ${missing + 1} has no template any more. Choose another one.`, {
        [`steps.${missing}.templateId`]: 'is not there any more',
      });
}

export function saveSeries({ database }: Parts, user: User, id: number, { revision, ...content }: Content & { revision: number }) {
  return database.as(user.id, async (tx): Promise<SeriesDetail | Refusal> => {
    const found = await demandMine(tx, id, revision);
    if (isRefusal(found)) return found;
    const refused = await demandKeepable(tx, user, content);
    if (refused) return refused;
    await tx.execute(
      sql`UPDATE series SET scope = ${content.scope}, team_id = ${teamOf(content)}, language = ${content.language}, name = ${content.name}, steps = ${JSON.stringify(content.steps)}::jsonb, revision = revision + 1, changed_at = now() WHERE id = ${id}`,
    );
    if (content.scope !== found.scope) await noteSharing(tx, user, content);
    return (await seriesOf(tx, id)) ?? notFound('series');
  });
}

async function noteSharing(tx: Tx, user: User, { scope, name }: Content): Promise<void> {
  if (scope === 'own') return;
  await writeDown(tx, user, { kind: 'settings', about: `shared the series ${name} with ${scope === 'all' ? 'everyone' : 'a team'}` });
}

async function demandMine(tx: Tx, id: number, revision: number | null): Promise<SeriesDetail | Refusal> {
  await tx.execute(sql`SELECT FROM series WHERE id = ${id} FOR UPDATE`);
  const found = await seriesOf(tx, id);
  return found ? demandChangeable(found, 'series', revision) : notFound('series');
}

/** Removes a series, or brings it back. */
export function setRemoved({ database }: Parts, user: User, id: number, isRemoved: boolean) {
  return database.as(user.id, async (tx): Promise<SeriesDetail | Refusal> => {
    const found = await demandMine(tx, id, null);
    if (isRefusal(found)) return found;
    await tx.execute(sql`UPDATE series SET removed_at = ${isRemoved ? sql`now()` : sql`NULL`} WHERE id = ${id}`);
    return (await seriesOf(tx, id)) ?? notFound('series');
  });
}
