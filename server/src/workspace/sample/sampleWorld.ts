import type { RecordKind } from '@fulvet/contract';
import { stringify } from 'csv-stringify/sync';
import { PEOPLE, MAIL } from './sampleMail';
import type { Who, Written } from './sampleMail';

const DAY_MS = 86_400_000;
const HOUR_MS = 3_600_000;

/** A small made-up world around the member who asks for it: a few records, and mail of some weeks with them. */
export interface SampleWorld {
  /** Records as CSV, in the order in which they have to be imported. */
  records: { kind: RecordKind; csv: string }[];
  /** The member's mail, as an mbox. */
  mbox: string;
}

const RECORDS: Record<'account' | 'contact' | 'lead' | 'deal', string[][]> = {
  account: [
    ['name', 'domains', 'type'],
    ['Merrowgate Harbour', 'merrowgate-harbour.example', 'harbour authority'],
    ['Aldermouth Water Board', 'aldermouth-water.example', 'water board'],
    ['Tessaly Seafarms', 'tessaly-seafarms.example', 'fish farm'],
  ],
  contact: [
    ['name', 'emails', 'account', 'title'],
    ['Ruta Lindholm', 'ruta.lindholm@merrowgate-harbour.example', 'Merrowgate Harbour', 'Harbour engineer'],
    ['Oskar Vale', 'oskar.vale@merrowgate-harbour.example', 'Merrowgate Harbour', 'Purchasing'],
    ['Imre Castell', 'i.castell@aldermouth-water.example', 'Aldermouth Water Board', 'Head of monitoring'],
    ['Tessa Ockley', 'tessa@tessaly-seafarms.example', 'Tessaly Seafarms', 'Site manager'],
  ],
  lead: [
    ['name', 'emails', 'company', 'status'],
    ['Ondra Belmont', 'ondra.belmont@kelpness-farms.example', 'Kelpness Farms', 'new'],
  ],
  deal: [
    ['code', 'name', 'account', 'stage', 'open', 'amount', 'currency', 'people'],
    [
      'SMP-101',
      'Tide gauges for the north quay',
      'Merrowgate Harbour',
      'Quoted',
      'yes',
      '48000',
      'EUR',
      'ruta.lindholm@merrowgate-harbour.example;oskar.vale@merrowgate-harbour.example',
    ],
    [
      'SMP-102',
      'River level sensors',
      'Aldermouth Water Board',
      'Site survey',
      'yes',
      '31500',
      'EUR',
      'i.castell@aldermouth-water.example',
    ],
    ['SMP-103', 'Yearly maintenance', 'Aldermouth Water Board', 'Negotiation', 'yes', '7200', 'EUR', 'i.castell@aldermouth-water.example'],
    ['SMP-104', 'Cage monitoring', 'Tessaly Seafarms', 'Enquiry', 'yes', '12400', 'EUR', 'tessa@tessaly-seafarms.example'],
  ],
};

/** The sample world around a member. @param now milliseconds; the mail ends before it */
export function sampleWorld(me: { name: string; email: string }, now: number): SampleWorld {
  const domain = me.email.slice(me.email.indexOf('@') + 1);
  const addressOf = (who: Who): string => (who === 'me' ? `"${me.name.replace(/["\\\r\n]/g, '')}" <${me.email}>` : PEOPLE[who]);
  const idOf = (id: string): string => `<sample-${id}@${domain}>`;
  const mbox = MAIL.map((mail, at) => {
    // Within the working day, each at a minute of its own.
    const sent = new Date(Math.floor((now - mail.daysAgo * DAY_MS) / DAY_MS) * DAY_MS + 8 * HOUR_MS + at * 17 * 60_000);
    const lines = [
      `From sample ${sent.toUTCString()}`,
      `Date: ${sent.toUTCString()}`,
      `Message-ID: ${idOf(mail.id)}`,
      `From: ${addressOf(mail.from)}`,
      `To: ${addressOf(mail.to)}`,
      ...(mail.copies ? [`Cc: ${mail.copies.map(addressOf).join(', ')}`] : []),
      `Subject: ${mail.subject}`,
      ...(mail.answers ? [`In-Reply-To: ${idOf(mail.answers)}`, `References: ${idOf(mail.answers)}`] : []),
      ...(mail.headers ?? []),
      'MIME-Version: 1.0',
      mail.meetingIn === undefined
        ? 'Content-Type: text/plain; charset=utf-8'
        : 'Content-Type: text/calendar; method=REQUEST; charset=utf-8',
      '',
      mail.meetingIn === undefined ? mail.text : invitation(mail, now + mail.meetingIn * DAY_MS),
      '',
    ];
    return lines.join('\n');
  }).join('\n');
  const kinds = ['account', 'contact', 'lead', 'deal'] as const;
  return { records: kinds.map((kind) => ({ kind, csv: stringify(RECORDS[kind]) })), mbox };
}

/** An invitation by iTIP (RFC 5546) to an hour at nine o'clock of a day. */
function invitation({ id, subject }: Written, day: number): string {
  const stamp = (at: number): string => `${new Date(at).toISOString().replace(/[-:]/g, '').slice(0, 15)}Z`;
  const start = Math.floor(day / DAY_MS) * DAY_MS + 9 * HOUR_MS;
  return [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Fulvet//Sample//EN',
    'METHOD:REQUEST',
    'BEGIN:VEVENT',
    `UID:sample-${id}`,
    'SEQUENCE:0',
    `DTSTART:${stamp(start)}`,
    `DTEND:${stamp(start + HOUR_MS)}`,
    `SUMMARY:${subject}`,
    'LOCATION:Weir at the old mill',
    'END:VEVENT',
    'END:VCALENDAR',
  ].join('\n');
}
