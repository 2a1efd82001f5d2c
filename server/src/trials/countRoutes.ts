import type { Handlers } from '../base/handler';
import { countOnPast, tryRule } from './countOnPast';

export const countRoutes: Pick<Handlers, 'countRule' | 'tryRule'> = {
  tryRule: ({ user, body, services }) => tryRule(services, user, body),

  countRule: ({ user, body, services }) => countOnPast(services, user, body, body),
};
