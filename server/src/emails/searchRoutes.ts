import { Refusal, isRefusal } from '../base/refusal';
import { setTimeout as pause } from 'node:timers/promises';
import type { Handlers } from '../base/handler';
import { searchRecords } from '../records/recordList';
import { liveRulebook } from '../rulebook/liveRulebook';
import { emailRows } from './emailRows';
import { allMailPage } from './allMail';
import { emailOfMessageId } from './queries';

/** Longer than the lookup takes. */
const ALIKE_MS = 25;

export const searchRoutes: Pick<Handlers, 'search' | 'findByMessageId'> = {
  search: async ({ user, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, async (tx) => {
      const page = await allMailPage(tx, { text: query.text, limit: 12 });
      if (isRefusal(page)) return page;
      return {
        records: await searchRecords(tx, query.text),
        emails: await emailRows(tx, page.ids, compiled),
        emailTotal: page.total,
        isMore: page.isMore,
      };
    });
  },

  findByMessageId: async ({ user, query, services }) => {
    const wanted = query.id.trim().replace(/^<|>$/g, '');
    // Answers take alike long, whether there is no such email or one that is not the reader's to know of.
    const alike = pause(ALIKE_MS);
    const id = await services.database.as(user.id, (tx) => emailOfMessageId(tx, user.id, wanted));
    await alike;
    if (id === null)
      return new Refusal(
        'unknown',
        'not-found',
        'Fulvet has no email of this Message-ID that is yours to read. It may not have come in yet.',
      );
    return { id };
  },
};
