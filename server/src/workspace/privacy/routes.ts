import { writeDown } from '../../base/audit';
import type { Handlers } from '../../base/handler';
import type { Services } from '../../base/services';
import { liveRulebook } from '../../rulebook/liveRulebook';
import { erasePerson } from './erasePerson';
import type { Person } from './findPerson';
import { personAt, personExport, personHeld } from './findPerson';
import { newestErasures } from './queries';
import { letGo, retentionRules, setRetention, wouldGo } from './retention';

const personOf = async (services: Services, addresses: readonly string[]): Promise<Person> =>
  personAt(addresses, (await liveRulebook(services.database)).compiled);

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

  listErasures: async ({ user, services }) => ({ erasures: await services.database.as(user.id, newestErasures) }),

  getRetention: async ({ user, services }) => ({ rules: await services.database.as(user.id, retentionRules) }),

  previewRetention: ({ user, query, services }) => services.database.as(user.id, (tx) => wouldGo(tx, query.kind, query.days)),

  putRetention: ({ user, body, services }) => setRetention(services.database, user, body),

  runRetention: async ({ user, services }) => ({ gone: await letGo(services.database, services.blobs, user) }),
};
