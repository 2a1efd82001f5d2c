/** Words of the noisy worlds: trades with what they sell, and what people write around it, in several languages. */
export interface Trade {
  name: string;
  /** What deals are about; no two of them share a word. */
  goods: readonly string[];
  /** Shape of a code: `N` stands for its number. */
  codes: readonly string[];
}

export const TRADES: readonly Trade[] = [
  {
    name: 'lifts',
    goods: ['goods lift', 'stair platform', 'scissor table', 'hoist refit', 'facade cradle', 'dumb waiter', 'loading ramp', 'shaft survey'],
    codes: ['LF-N', 'L/N'],
  },
  {
    name: 'bakery machines',
    goods: ['dough divider', 'deck oven', 'proofing cabinet', 'rye sifter', 'tray washer', 'spiral cooler', 'flour silo', 'bun moulder'],
    codes: ['BM N', 'BK.N'],
  },
  {
    name: 'harbour gauges',
    goods: [
      'radar gauges',
      'lock telemetry',
      'wave buoys',
      'salinity probes',
      'mast replacement',
      'alarm sirens',
      'cable ducts',
      'weir cameras',
    ],
    codes: ['QG-N', 'QG_N'],
  },
  {
    name: 'glasshouses',
    goods: ['shade screens', 'drip lines', 'boiler room', 'vent motors', 'seedling benches', 'rain tanks', 'pollen traps', 'cold frames'],
    codes: ['GH-N-26', 'G#N'],
  },
];

/** Subjects that name nothing. */
export const PLAIN_SUBJECTS = [
  'Question about the date',
  'Visit next week',
  'Missing certificate',
  'Rückfrage zur Lieferung',
  'Termin am Donnerstag',
  'Demande de précision',
  'Spørsmål om levering',
  'Pregunta sobre el plazo',
  'Papers for customs',
  'Who comes on Monday?',
  'Kurze Frage',
  'Photos from the site',
  'Petite question',
] as const;

export const REPLY_MARKS = ['Re: ', 'AW: ', 'SV: ', 'RE: ', 'Antw: ', 'Re[2]: ', 'Odp: '] as const;

/** Sentences that name nothing, some with numbers that are no codes of ours. */
export const SENTENCES = [
  'Could you have a look at this before Friday?',
  'Wir würden uns über eine kurze Antwort freuen.',
  'Merci de nous confirmer la date.',
  'We meet in room NUMBER on the second floor.',
  'Our order NUMBER went to your colleague in the meantime.',
  'Unsere Bestellung NUMBER ist unterwegs.',
  'You reach me at +49 40 5NUMBER-11 until five.',
  'The invoice of 12.03.NUMBER is paid.',
  'Kan du sende tegningene på nytt?',
  'The lorry takes NUMBER kg at most.',
  'Please see below.',
  'Saludos y hasta pronto.',
] as const;

/** Words before a bare number that make it a quote's or an order's. */
export const NUMBER_WORDS = [
  'quote',
  'offer',
  'Angebot',
  'Angebot Nr.',
  'devis',
  'offer no.',
  '#',
  'quotation',
  'Tilbud',
  'oferta',
] as const;

export const OTHER_HOUSE = [
  'See our reference CODE at another house, which runs well.',
  'We built the same for others as CODE last year.',
  'Like CODE, if that tells you anything.',
] as const;
