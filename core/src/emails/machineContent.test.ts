import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { classifyContent, CONTENT } from './machineContent';
import { MACHINE_SIGNS } from './machineSigns';

const IDA = { address: 'ida.brandt@harbour.example', name: 'Ida Brandt' };
const classOf = (subject: string, text: string, sender = IDA): string => classifyContent({ subject, text, sender })?.mailClass ?? 'person';

describe('mail of machines without their headers', () => {
  test.each([
    ['auto-reply', 'Abwesenheitsnotiz', 'Ich bin bis zum 12.05. nicht im Büro. In dringenden Fällen hilft Ole Tamm.'],
    ['auto-reply', 'Réponse automatique : Devis', 'Je suis absent du bureau jusqu’au 12 mai.'],
    [
      'auto-reply',
      'Re: Gauge',
      'I am out of the office until Monday. For urgent matters please contact Ole. Your email will not be forwarded.',
    ],
    ['notice', 'Gelesen: Angebot', 'Ihre Nachricht wurde gelesen am 4. Mai.'],
    ['notice', 'Your shipment is on its way', 'Your parcel has been dispatched. Tracking number: 00340434161094042557.'],
    ['newsletter', 'Spring', 'New gauges. https://a.example/1\nhttps://a.example/2\nTo unsubscribe, click here.'],
  ])('are found: %s, “%s”', (mailClass, subject, text) => expect(classOf(subject, text)).toBe(mailClass));

  test('is a bounce by sender and reason, from the customer’s own domain as well', () => {
    const daemon = { address: 'mailer-daemon@harbour.example', name: 'Mail Delivery System' };
    expect(classOf('Undelivered Mail Returned to Sender', '550 5.1.1 <jo@harbour.example>: user unknown', daemon)).toBe('bounce');
    expect(classOf('Fehler', 'Die folgende Adresse: jo@harbour.example. Empfänger unbekannt', daemon)).toBe('bounce');
  });

  test('names the signs that it was known by', () => {
    const found = classifyContent({ subject: 'Gelesen: Angebot', text: 'Ihre Nachricht wurde gelesen am 4. Mai.', sender: IDA });
    expect(found?.proof).toEqual({ header: CONTENT, value: 'text “ihre nachricht wurde gelesen”, subject “gelesen”' });
  });
});

describe('a person’s email is never taken for it', () => {
  test.each([
    ['Out of office hours delivery', 'Could your driver come outside office hours?'],
    ['Out of office on Friday', 'Can we talk on Monday instead?'],
    ['Re: Gauge', 'I will be out of the office on Friday, can we talk on Monday instead?'],
    ['Re: Automatic reply: Gauge', 'He is back on Monday, as I see. Then call him.'],
    ['AW: Unzustellbar: Angebot', 'Die Adresse ist falsch, bitte an Frau Lund senden. Meine Mail kam als unzustellbar zurück.'],
    ['Undeliverable', 'My last mail to Ole came back as undeliverable, what is his address?'],
    ['Please unsubscribe us', 'Please unsubscribe us from the price list, and send the offer again.'],
    ['Newsletter', 'I saw your newsletter https://a.example/1 and have a question: what does the gauge cost?'],
    ['Read: the manual, chapter 4', 'As you asked I read the manual. It does not say how to reset the logger.'],
    ['Tracking number', 'The parcel has not come. Your tracking number is not known to the carrier.'],
    ['Please sign the contract', 'I put it into the post, please sign it and send it back by Friday.'],
    ['Ticket 4471', 'What happens with our ticket 4471? The pump still stands still.'],
    ['Urlaub', 'Ich bin nächste Woche im Urlaub. Können wir vorher sprechen?'],
  ])('“%s”: %s', (subject, text) => expect(classOf(subject, text)).toBe('person'));

  test('whatever it quotes or forwards', () => {
    const notes = [
      'I am out of the office until Monday. For urgent matters contact Ole.',
      'To unsubscribe, click here: https://a.example/1 https://a.example/2',
      '550 5.1.1 user unknown',
    ];
    for (const note of notes) {
      expect(classOf('Re: Gauge', `Thanks, see below.\n\nOn 4 May, Ole wrote:\n> ${note}\n`)).toBe('person');
      expect(
        classOf('Gauge', `Look at this.\n\n-----Original Message-----\nFrom: Ole\nSent: Monday\nTo: Ida\nSubject: x\n\n${note}\n`),
      ).toBe('person');
    }
  });

  test('by any one sign alone, wherever it stands', () => {
    const phrases = MACHINE_SIGNS.flatMap((sign) => sign.phrases.map((phrase) => ({ ...sign, phrase: phrase.replace('…', 'so') })));
    fc.assert(
      fc.property(
        fc.constantFrom(...phrases),
        fc.constantFrom('Please have a look.', 'Wir melden uns morgen.', ''),
        ({ place, phrase, weight }, more) => {
          if (place === 'sender' || weight >= 1) return;
          const [subject, text] = place === 'subject' ? [phrase, more] : ['Gauge', `${more} ${phrase}.`];
          expect(classOf(subject, text)).toBe('person');
        },
      ),
      { numRuns: 600 },
    );
  });
});

test('what goes on without end tells nothing', () => {
  for (const text of ['your message '.repeat(2000), 'ich bin '.repeat(3000), 'a'.repeat(30_000), '… '.repeat(9000)])
    expect(classOf(text.slice(0, 900), text)).toBe('person');
});
