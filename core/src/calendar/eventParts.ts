import { addressKey } from '../address/address';
import { cleanText } from '../text/cleanText';
import type { CalendarComponent, CalendarProperty } from './jCal';
import { propertiesOf, propertyOf } from './jCal';

export const GUEST_ANSWERS = ['accepted', 'declined', 'tentative', 'none'] as const;
/** What a guest answered to an invitation (RFC 5545, 3.2.12). */
export type GuestAnswer = (typeof GUEST_ANSWERS)[number];

/** Someone who is invited to an event, or who invites. */
export interface Guest {
  /** In the form in which addresses are compared, its `+tag` kept. */
  address: string;
  /** ASCII domain of the address. */
  domain: string;
  name: string;
  answer: GuestAnswer;
  /** Whether the event takes place without them. */
  optional: boolean;
}

/** More than anyone invites by hand. */
const MOST_GUESTS = 1_000;
const MOST_LINE = 300;
const MOST_TEXT = 100_000;
const ANSWERS: Readonly<Record<string, GuestAnswer>> = { ACCEPTED: 'accepted', DECLINED: 'declined', TENTATIVE: 'tentative' };

/** The same for all that is about one event; an empty string where there is none. */
export const uidOf = (event: CalendarComponent): string => cleanText(propertyOf(event, 'uid')?.text ?? '').slice(0, 500);

export const sequenceOf = (event: CalendarComponent): number => {
  const sequence = Math.trunc(Number(propertyOf(event, 'sequence')?.value)) || 0;
  return Math.max(0, Math.min(sequence, 2 ** 31 - 1));
};

export const isCancelled = (event: CalendarComponent): boolean => propertyOf(event, 'status')?.text.toUpperCase() === 'CANCELLED';

/** A property as one line of text. */
export const lineOf = (event: CalendarComponent, name: string): string =>
  cleanText(propertyOf(event, name)?.text ?? '')
    .replace(/\s+/g, ' ')
    .trim()
    .slice(0, MOST_LINE)
    .toWellFormed();

export const descriptionOf = (event: CalendarComponent): string =>
  cleanText(propertyOf(event, 'description')?.text ?? '')
    .slice(0, MOST_TEXT)
    .toWellFormed();

/** The zone that a calendar says its times are in where they name none; a property that many programs write. */
export const usualZoneOf = (calendar: CalendarComponent): string | undefined => propertyOf(calendar, 'x-wr-timezone')?.text;

/** Who invites; null where the event does not say. */
export function organizerOf(event: CalendarComponent): Guest | null {
  const property = propertyOf(event, 'organizer');
  return property ? guestOf(property) : null;
}

/** The people who are invited, each once; rooms and equipment are none of them. */
export function guestsOf(event: CalendarComponent): Guest[] {
  const guests = new Map<string, Guest>();
  for (const property of propertiesOf(event, 'attendee')) {
    if (isPlace(property)) continue;
    const guest = guestOf(property);
    if (guest && !guests.has(guest.address)) guests.set(guest.address, guest);
    if (guests.size === MOST_GUESTS) break;
  }
  return [...guests.values()];
}

/** Rooms and equipment, by their names. */
export function roomsOf(event: CalendarComponent): string[] {
  return propertiesOf(event, 'attendee')
    .filter(isPlace)
    .map((property) => parameter(property, 'cn') || property.text.replace(/^mailto:/i, ''))
    .slice(0, 20)
    .map((name) => cleanText(name).slice(0, 100).toWellFormed());
}

const isPlace = (property: CalendarProperty): boolean => ['ROOM', 'RESOURCE'].includes(parameter(property, 'cutype').toUpperCase());

function guestOf(property: CalendarProperty): Guest | null {
  const written = /^mailto:/i.test(property.text) ? decoded(property.text.slice('mailto:'.length)) : parameter(property, 'email');
  const key = addressKey(written.trim(), { tagsTellApart: true });
  if (!key || key.key.length > 320) return null;
  return {
    address: key.key,
    domain: key.domain,
    name: cleanText(parameter(property, 'cn')).trim().slice(0, 200).toWellFormed(),
    answer: ANSWERS[parameter(property, 'partstat').toUpperCase()] ?? 'none',
    optional: ['OPT-PARTICIPANT', 'NON-PARTICIPANT'].includes(parameter(property, 'role').toUpperCase()),
  };
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

function parameter(property: CalendarProperty, name: string): string {
  const value = property.parameters[name];
  return typeof value === 'string' ? value : '';
}
