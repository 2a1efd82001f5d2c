import type { RecordKind } from '@fulvet/contract';
import { stringify } from 'csv-stringify/sync';

const DAY_MS = 86_400_000;
const HOUR_MS = 3_600_000;

/** A small made-up world around the member who asks for it: a few records, and mail of some weeks with them. */
export interface SampleWorld {
  /** Records as CSV, in the order in which they have to be imported. */
  records: { kind: RecordKind; csv: string }[];
  /** The member's mail, as an mbox. */
  mbox: string;
}

const PEOPLE = {
  ruta: 'Ruta Lindholm <ruta.lindholm@merrowgate-harbour.example>',
  osk: 'Oskar Vale <oskar.vale@merrowgate-harbour.example>',
  imre: 'Imre Castell <i.castell@aldermouth-water.example>',
  noor: 'Noor Halloran <n.halloran@aldermouth-water.example>',
  tessa: 'Tessa Ockley <tessa@tessaly-seafarms.example>',
  ondra: 'Ondra Belmont <ondra.belmont@kelpness-farms.example>',
  dagny: 'Dagny Storrow <dagny.storrow@storrow-survey.example>',
  news: 'Harbour World <letters@harbour-world.example>',
  parcels: 'Kestrel Couriers <no-reply@kestrel-couriers.example>',
} as const;

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

type Who = keyof typeof PEOPLE | 'me';

interface Written {
  id: string;
  daysAgo: number;
  from: Who;
  to: Who;
  copies?: Who[];
  subject: string;
  text: string;
  answers?: string;
  headers?: string[];
  /** The body is an invitation to a meeting so many days from now. */
  meetingIn?: number;
}

/** Among them: a question that a person has to answer, someone unknown who writes often, a newsletter, a notice, and an invitation. */
const MAIL: readonly Written[] = [
  {
    id: 'a1',
    daysAgo: 38,
    from: 'ruta',
    to: 'me',
    subject: 'Tide gauges for our north quay',
    text: 'Two gauges, one on each side of the lock. Can you quote by the end of the month?',
  },
  {
    id: 'a2',
    daysAgo: 37,
    from: 'me',
    to: 'ruta',
    copies: ['osk'],
    subject: 'Re: Tide gauges for our north quay',
    text: 'With pleasure. Which depth do you have at low water?',
    answers: 'a1',
  },
  {
    id: 'a3',
    daysAgo: 36,
    from: 'osk',
    to: 'me',
    copies: ['ruta'],
    subject: 'Re: Tide gauges for our north quay',
    text: 'Four metres at the lowest. Our order number will follow.',
    answers: 'a2',
  },
  {
    id: 'a4',
    daysAgo: 30,
    from: 'me',
    to: 'ruta',
    copies: ['osk'],
    subject: 'Quote SMP-101',
    text: 'Here is our quote for two gauges with housing and one year of service.',
  },
  {
    id: 'a5',
    daysAgo: 24,
    from: 'ruta',
    to: 'me',
    subject: 'Re: Quote SMP-101',
    text: 'Thank you. The board meets next week.',
    answers: 'a4',
  },
  {
    id: 'a6',
    daysAgo: 3,
    from: 'osk',
    to: 'me',
    subject: 'Re: Quote SMP-101',
    text: 'One question: does the price include the brackets?',
    answers: 'a5',
  },
  {
    id: 'b1',
    daysAgo: 33,
    from: 'imre',
    to: 'me',
    subject: 'River level sensors',
    text: 'We would like sensors at three weirs. When could you visit us?',
  },
  {
    id: 'b2',
    daysAgo: 32,
    from: 'me',
    to: 'imre',
    subject: 'Re: River level sensors',
    text: 'Week after next would suit us. I bring two of them along.',
    answers: 'b1',
  },
  {
    id: 'b3',
    daysAgo: 20,
    from: 'imre',
    to: 'me',
    copies: ['noor'],
    subject: 'Access to the site',
    text: 'Noor will open the gate for you. Please call her when you arrive.',
  },
  {
    id: 'b4',
    daysAgo: 19,
    from: 'noor',
    to: 'me',
    copies: ['imre'],
    subject: 'Re: Access to the site',
    text: 'I am there from eight. Bring boots, it is muddy.',
    answers: 'b3',
  },
  { id: 'b5', daysAgo: 6, from: 'imre', to: 'me', subject: 'A short question', text: 'Could you send me the papers once more? Thank you.' },
  { id: 'b6', daysAgo: 2, from: 'imre', to: 'me', subject: 'Site visit', text: '', meetingIn: 6 },
  { id: 'c1', daysAgo: 28, from: 'tessa', to: 'me', subject: 'Cage monitoring', text: 'Do your sensors also measure oxygen?' },
  {
    id: 'c2',
    daysAgo: 27,
    from: 'me',
    to: 'tessa',
    subject: 'Re: Cage monitoring',
    text: 'Yes, with the second probe. I enclose the data sheet.',
    answers: 'c1',
  },
  {
    id: 'c3',
    daysAgo: 9,
    from: 'tessa',
    to: 'me',
    subject: 'Re: Cage monitoring',
    text: 'Then we take the second probe as well. What would six cages cost?',
    answers: 'c2',
  },
  {
    id: 'd1',
    daysAgo: 15,
    from: 'ondra',
    to: 'me',
    subject: 'Loggers for our moorings',
    text: 'A colleague at Tessaly recommended you. Do you have a price list?',
  },
  {
    id: 'd2',
    daysAgo: 14,
    from: 'me',
    to: 'ondra',
    subject: 'Re: Loggers for our moorings',
    text: 'Here it is. How many moorings do you have?',
    answers: 'd1',
  },
  {
    id: 'e1',
    daysAgo: 12,
    from: 'dagny',
    to: 'me',
    subject: 'Survey of the estuary',
    text: 'We survey the estuary for three towns and need six gauges for a month.',
  },
  {
    id: 'e2',
    daysAgo: 11,
    from: 'me',
    to: 'dagny',
    subject: 'Re: Survey of the estuary',
    text: 'We rent them out as well. From which day on?',
    answers: 'e1',
  },
  {
    id: 'e3',
    daysAgo: 10,
    from: 'dagny',
    to: 'me',
    subject: 'Re: Survey of the estuary',
    text: 'From the first of the month. Please send an offer.',
    answers: 'e2',
  },
  {
    id: 'n1',
    daysAgo: 21,
    from: 'news',
    to: 'me',
    subject: 'Harbour World: what is new in dredging',
    text: 'The news of the month.',
    headers: ['List-Unsubscribe: <mailto:leave@harbour-world.example>', 'Precedence: bulk'],
  },
  {
    id: 'n2',
    daysAgo: 5,
    from: 'news',
    to: 'me',
    subject: 'Harbour World: quays and locks',
    text: 'The news of the month.',
    headers: ['List-Unsubscribe: <mailto:leave@harbour-world.example>', 'Precedence: bulk'],
  },
  {
    id: 'n3',
    daysAgo: 4,
    from: 'parcels',
    to: 'me',
    subject: 'Your parcel 5561 is on its way',
    text: 'It arrives tomorrow.',
    headers: ['Auto-Submitted: auto-generated'],
  },
];

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
