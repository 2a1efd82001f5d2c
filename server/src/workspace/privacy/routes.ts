import { retention } from '../../base/db/schema';
import { z } from 'zod';
import { json, moment, rowsOf } from '../../base/db/rows';
import { sql, eq } from 'drizzle-orm';
import { writeDown } from '../../base/audit';
import type { Handlers } from '../../base/handler';
import { notFound } from '../../base/refusal';
import type { Services } from '../../base/services';
import { liveRulebook } from '../../rulebook/liveRulebook';
import { erasePerson } from './erasePerson';
import type { Person } from './findPerson';
import { personAt, personExport, personHeld } from './findPerson';
import { KIND_WORDS, letGo, retentionRules, wouldGo } from './retention';

const personOf = async (services: Services, addresses: readonly string[]): Promise<Person> =>
  personAt(addresses, (await liveRulebook(services.database)).compiled);

const erasureRow = z.object({
  id: z.number(),
  at: moment,
  by: z.string(),
  reference: z.string(),
  counts: json<Record<string, number>>(),
  certificate: z.string(),
});

export const privacyRoutes: Pick<
  Handlers,
  'findPerson' | 'exportPerson' | 'erasePerson' | 'listErasures' | 'getRetention' | 'previewRetention' | 'putRetention' | 'runRetention'
> = {
  findPerson: async ({ user, body, services }) => {
    const person = await personOf(services, body.addresses);
    return services.database.as(user.id, (tx) => personHeld(tx, person));
  },

  exportPerson: async ({ user, body, services, res }) => {
    const person = await personOf(services, body.addresses);
    const made = await services.database.as(user.id, async (tx) => {
      const found = await personExport(tx, person);
      await writeDown(tx, user, { kind: 'export', about: 'exported what is stored about an external person' });
      return found;
    });
    res.set({ 'Content-Type': 'application/json; charset=utf-8', 'Content-Disposition': 'attachment; filename="person.json"' });
    res.send(JSON.stringify(made, null, 2));
    return undefined;
  },

  erasePerson: ({ user, body, services }) => erasePerson(services, user, body),

  listErasures: async ({ user, services }) => {
    const rows = await services.database.as(user.id, (tx) =>
      rowsOf(
        tx,
        erasureRow,
        sql`SELECT e.id, e.at, u.name AS by, e.reference, e.counts, e.certificate FROM erasures e JOIN users u ON u.id = e.by_user_id ORDER BY e.id DESC LIMIT 200`,
      ),
    );
    return { erasures: rows.map((row) => ({ ...row, at: row.at })) };
  },

  getRetention: async ({ user, services }) => ({ rules: await services.database.as(user.id, retentionRules) }),

  previewRetention: ({ user, query, services }) => services.database.as(user.id, (tx) => wouldGo(tx, query.kind, query.days)),

  putRetention: ({ user, body, services }) =>
    services.database.as(user.id, async (tx) => {
      await tx
        .update(retention)
        .set({ days: body.days, changedBy: user.id, changedAt: sql`now()` })
        .where(eq(retention.kind, body.kind));
      const kept = body.days === null ? 'kept for ever' : `kept for ${body.days} days`;
      await writeDown(tx, user, { kind: 'retention', about: `${KIND_WORDS[body.kind]}: ${kept}` });
      const rule = (await retentionRules(tx)).find((retentionRule) => retentionRule.kind === body.kind);
      if (!rule) return notFound('kind of mail');
      return rule;
    }),

  runRetention: async ({ user, services }) => ({ gone: await letGo(services.database, services.blobs, user) }),
};
