import type { Handlers } from '../../base/handler';
import type { Span } from './decidePast';
import { emailsOfSpan } from './decidePast';
import { decideRun, newestRuns } from './queries';
import { cancelRun, startRun } from './startRun';
import { undoRun } from './undoRunStep';

const DAY = 86_400_000;

const spanOf = ({ days, mailboxes }: { days: number | null; mailboxes: string[] }): Span => ({
  since: days === null ? null : new Date(Date.now() - days * DAY).toISOString(),
  mailboxes,
});

export const pastRoutes: Pick<Handlers, 'countPast' | 'decide' | 'listDecideRuns' | 'undoDecideRun' | 'getDecideRun' | 'cancelDecideRun'> =
  {
    countPast: async ({ body, services }) => {
      const { inSpan } = await emailsOfSpan(services.database.worker, spanOf(body));
      return { emails: inSpan };
    },

    decide: ({ user, body, services }) => startRun(services, user, { ...spanOf(body), withoutMade: body.withoutMade }),

    listDecideRuns: async ({ user, services }) => ({ runs: await services.database.as(user.id, newestRuns) }),

    undoDecideRun: ({ user, params, body, services }) => undoRun(services, user.id, params.id, { rulebook: body.rulebook }),

    getDecideRun: ({ user, params, services }) => services.database.as(user.id, (tx) => decideRun(tx, params.id)),

    cancelDecideRun: ({ user, params, services }) => cancelRun(services.database, user, params.id),
  };
