import type { Handlers } from '../base/handler';
import { explanationOf, whyNotOf } from './explanation';

export const explanationRoutes: Pick<Handlers, 'explainEmail' | 'whyNot'> = {
  explainEmail: ({ user, params, services }) => explanationOf(services, user.id, params.id),

  whyNot: ({ user, params, query, services }) => whyNotOf(services, user.id, params.id, { kind: query.kind, id: query.record }),
};
