import type { CalendarEvent } from '../calendar/events';
import type { Guest } from '../calendar/eventParts';
import type { EmailFacts } from './emailFacts';
import { latin1 } from './mboxWriter';
import { readEmail } from './readEmail';

/**
 * An event as a message that carries it (RFC 6047): who invites as its sender, the guests as its recipients, what it is about as subject and text, and the
 * event itself as a calendar object. So an event is stored, searched, sealed, exported and erased like everything else that people wrote to each other.
 *
 * The same event gives the same bytes.
 *
 * @param owner whose calendar it is from; invites where the event does not say who does
 */
export function eventMessage(event: CalendarEvent, owner: { address: string; name: string }): Uint8Array {
  const organizer = event.organizer ?? owner;
  const others = event.guests.filter(({ address }) => address !== organizer.address);
  const boundary = 'fulvet-event';
  const lines = [
    `From: ${mailbox(organizer)}`,
    ...addressField(
      'To',
      others.filter((guest) => !guest.optional),
    ),
    ...addressField(
      'Cc',
      others.filter((guest) => guest.optional),
    ),
    `Subject: ${encodedWords(event.summary, 'Subject: '.length)}`,
    `Date: ${new Date(event.startsAt).toUTCString().replace('GMT', '+0000')}`,
    'MIME-Version: 1.0',
    `Content-Type: multipart/alternative; boundary="${boundary}"`,
    '',
    `--${boundary}`,
    'Content-Type: text/plain; charset=utf-8',
    'Content-Transfer-Encoding: base64',
    '',
    ...base64Lines(textOfEvent(event)),
    `--${boundary}`,
    'Content-Type: text/calendar; charset=utf-8; method=PUBLISH; name="event.ics"',
    'Content-Transfer-Encoding: base64',
    '',
    ...base64Lines(eventCalendar(event, organizer)),
    `--${boundary}--`,
    '',
  ];
  return new TextEncoder().encode(lines.join('\r\n'));
}

/**
 * What Fulvet decides and shows an event by, from the message that carries it. It has a class of its own, whatever the message says: no email can pass for an
 * event, since this is asked by where it came from.
 */
export async function readEvent(raw: Uint8Array, arrivedAt: number): Promise<EmailFacts> {
  const facts = await readEmail(raw, { arrivedAt });
  const [meeting] = facts.meetings;
  return {
    ...facts,
    messageId: null,
    references: [],
    // An answer without references is not to be taken for one to an event of the same name.
    baseSubject: '',
    isReply: false,
    isForward: false,
    date: { at: meeting?.startsAt ?? facts.date.at, written: facts.date.written, source: 'header', doubt: null },
    attachments: facts.attachments.map((file) => ({ ...file, inline: true })),
    mailClass: 'event',
    classProof: null,
    undelivered: [],
    problems: facts.problems.filter(({ code }) => code !== 'future-date'),
  };
}

function textOfEvent({ description, location, rooms }: CalendarEvent): string {
  const place = [location, ...rooms.filter((room) => room !== location)].filter(Boolean).join(', ');
  return [description.trim(), place].filter(Boolean).join('\n\n');
}

function mailbox({ address, name }: { address: string; name: string }): string {
  return name === '' ? address : `${encodedWords(name, 'From: '.length, true)} <${address}>`;
}

function addressField(name: string, guests: readonly Guest[]): string[] {
  return guests.length === 0 ? [] : [`${name}: ${guests.map(mailbox).join(',\r\n ')}`];
}

/** Bytes of UTF-8 in one encoded word: 75 characters with what stands around them (RFC 2047, 2). */
const WORD_BYTES = 39;

/** Text for a header field: as it is where that is safe, else in encoded words. */
function encodedWords(text: string, before: number, isName = false): string {
  if (/^[\w .,'()/+&#-]*$/.test(text) && before + text.length <= 76) return isName ? `"${text}"` : text;
  const encoder = new TextEncoder();
  const words: string[] = [];
  let word = '';
  for (const character of text) {
    if (encoder.encode(word + character).length > WORD_BYTES) {
      words.push(word);
      word = '';
    }
    word += character;
  }
  return [...words, word].map((part) => `=?utf-8?B?${base64(encoder.encode(part))}?=`).join('\r\n ');
}

const base64 = (bytes: Uint8Array): string => btoa(latin1(bytes));

function base64Lines(text: string): string[] {
  return base64(new TextEncoder().encode(text)).match(/.{1,76}/g) ?? [''];
}

/**
 * The event as a calendar object by itself (RFC 5545), its times in UTC.
 *
 * @param method what it asks of whoever gets it (RFC 5546)
 * @param stampAt when it was said, milliseconds
 */
export function eventCalendar(
  event: CalendarEvent,
  organizer: { address: string; name: string },
  { method = 'PUBLISH', stampAt = event.startsAt }: { method?: 'PUBLISH' | 'REQUEST' | 'CANCEL'; stampAt?: number } = {},
): string {
  const stamp = (at: number): string => new Date(at).toISOString().replace(/[-:]|\.\d+/g, '');
  const moment = (name: string, at: number): string =>
    event.wholeDay ? `${name};VALUE=DATE:${stamp(at).slice(0, 8)}` : `${name}:${stamp(at)}`;
  const lines = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Fulvet//Events//EN',
    `METHOD:${method}`,
    'BEGIN:VEVENT',
    `UID:${escaped(event.uid)}`,
    `DTSTAMP:${stamp(stampAt)}`,
    ...(event.occursAt === null ? [] : [moment('RECURRENCE-ID', event.occursAt)]),
    moment('DTSTART', event.startsAt),
    moment('DTEND', event.endsAt),
    `SEQUENCE:${event.sequence}`,
    `STATUS:${event.cancelled ? 'CANCELLED' : 'CONFIRMED'}`,
    `SUMMARY:${escaped(event.summary)}`,
    ...(event.location ? [`LOCATION:${escaped(event.location)}`] : []),
    ...(event.description ? [`DESCRIPTION:${escaped(event.description)}`] : []),
    `ORGANIZER${named(organizer)}:mailto:${organizer.address}`,
    ...event.guests.map(
      (guest) =>
        `ATTENDEE${named(guest)};ROLE=${guest.optional ? 'OPT-PARTICIPANT' : 'REQ-PARTICIPANT'};PARTSTAT=${PARTSTAT[guest.answer]}${method === 'REQUEST' && guest.answer === 'none' ? ';RSVP=TRUE' : ''}:mailto:${guest.address}`,
    ),
    ...event.rooms.map((room) => `ATTENDEE;CUTYPE=ROOM${named({ name: room })}:urn:room`),
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ];
  return lines.map(folded).join('\r\n');
}

const PARTSTAT = { accepted: 'ACCEPTED', declined: 'DECLINED', tentative: 'TENTATIVE', none: 'NEEDS-ACTION' } as const;

const named = ({ name }: { name: string }): string => (name === '' ? '' : `;CN="${name.replace(/["\r\n]/g, "'")}"`);

const escaped = (text: string): string => text.replace(/[\\;,]/g, '\\$&').replace(/\r?\n|\r/g, '\\n');

/** A line in pieces of 75 bytes at most (RFC 5545, 3.1). */
function folded(line: string): string {
  const encoder = new TextEncoder();
  const pieces: string[] = [];
  let piece = '';
  let bytes = 0;
  for (const character of line) {
    const more = encoder.encode(character).length;
    if (bytes + more > 74) {
      pieces.push(piece);
      piece = '';
      bytes = 0;
    }
    piece += character;
    bytes += more;
  }
  return [...pieces, piece].join('\r\n ');
}
