import type { Handlers } from '../../base/handler';
import { loadSample, sampleState } from './loadSample';

export const sampleRoutes: Pick<Handlers, 'getSample' | 'loadSample'> = {
  getSample: ({ services }) => services.database.work(sampleState),
  loadSample: ({ user, services }) => loadSample(services, user),
};
