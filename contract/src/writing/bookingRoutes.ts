import { z } from 'zod';
import { idParam, nothing } from '../base/params';
import type { RouteShape } from '../base/route';
import { EDITORS } from '../base/route';
import { booking, meetingKind, meetingKindContent, offer, offered } from './bookingShapes';

export const bookingRoutes = {
  listMeetingKinds: {
    method: 'get',
    path: '/meeting-kinds',
    access: EDITORS,
    summary: 'Kinds of meeting that times are offered for',
    response: z.object({ kinds: z.array(meetingKind) }),
  },
  createMeetingKind: {
    method: 'post',
    path: '/meeting-kinds',
    access: EDITORS,
    summary: 'Keep a kind of meeting; reps with themselves, managers and administrators with any members',
    body: meetingKindContent,
    response: meetingKind,
    errors: ['others-time', 'no-such-member'],
  },
  saveMeetingKind: {
    method: 'put',
    path: '/meeting-kinds/{id}',
    access: EDITORS,
    summary: 'Change a kind of meeting; links that were sent go on with it',
    params: idParam,
    body: z.strictObject({ revision: z.number().int(), content: meetingKindContent }),
    response: meetingKind,
    errors: ['others-time', 'no-such-member', 'changed-meanwhile'],
  },
  removeMeetingKind: {
    method: 'post',
    path: '/meeting-kinds/{id}/removed',
    access: EDITORS,
    summary: 'Offer no more times of a kind, or again; what was booked stays',
    params: idParam,
    body: z.strictObject({ removed: z.boolean() }),
    response: nothing,
  },
  offerTimes: {
    method: 'post',
    path: '/meeting-kinds/{id}/offer',
    access: EDITORS,
    summary: 'A link by which one guest books a time, and some times to choose from',
    params: idParam,
    body: offer,
    response: offered,
    errors: ['no-link-address', 'no-sender'],
  },
  listBookings: {
    method: 'get',
    path: '/bookings',
    access: EDITORS,
    summary: 'What guests booked with the reader, from now on',
    response: z.object({ bookings: z.array(booking) }),
  },
  cancelBooking: {
    method: 'post',
    path: '/bookings/{id}/cancel',
    access: EDITORS,
    summary: 'Cancel what a guest booked; the guest and the members get a cancellation',
    params: idParam,
    response: nothing,
  },
} as const satisfies Record<string, RouteShape>;
