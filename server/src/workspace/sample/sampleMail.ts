export const PEOPLE = {
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

export type Who = keyof typeof PEOPLE | 'me';

export interface Written {
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
export const MAIL: readonly Written[] = [
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
