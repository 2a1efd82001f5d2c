import type { Handlers } from '../../base/handler';
import { cancelByMember } from './book';
import { createKind, listKinds, removeKind, saveKind } from './keep';
import { listBookings } from './listBookings';
import { offerTimes } from './offer';

export const bookingRoutes: Pick<
  Handlers,
  'listMeetingKinds' | 'createMeetingKind' | 'saveMeetingKind' | 'removeMeetingKind' | 'offerTimes' | 'listBookings' | 'cancelBooking'
> = {
  listMeetingKinds: async ({ user, services }) => ({ kinds: await listKinds(services, user) }),

  createMeetingKind: ({ user, body, services }) => createKind(services, user, body),

  saveMeetingKind: ({ user, params, body, services }) => saveKind(services, user, params.id, body),

  removeMeetingKind: async ({ user, params, body, services }) => (await removeKind(services, user, params.id, body.removed)) ?? {},

  offerTimes: ({ user, params, body, services }) => offerTimes(services, user, params.id, body),

  listBookings: async ({ user, services }) => ({ bookings: await listBookings(services, user) }),

  cancelBooking: async ({ user, params, services }) => (await cancelByMember(services, user, params.id)) ?? {},
};
