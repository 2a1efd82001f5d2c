import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { CalendarEvent } from '../calendar/events';
import { eventMessage, readEvent } from './eventMessage';

const at = (text: string): number => Date.parse(text);

test('what is kept of an event says all of it again', async () => {
  const text = fc.string({ unit: 'grapheme', maxLength: 120 });
  const person = fc.record({
    address: fc.stringMatching(/^[a-z]{1,8}$/).map((local) => `${local}@harbour.example`),
    name: text.map((name) => name.replace(/\s+/g, ' ').trim()),
    answer: fc.constantFrom('accepted', 'declined', 'tentative', 'none'),
    optional: fc.boolean(),
  });
  const events = fc.record({
    uid: fc.stringMatching(/^[\w@.,;\\-]{1,40}$/),
    occursAt: fc.option(fc.constant(at('2026-05-04T09:00:00Z')), { nil: null }),
    sequence: fc.nat(50),
    cancelled: fc.boolean(),
    startsAt: fc.integer({ min: 0, max: 20_000 }).map((n) => at('2020-01-01T00:00:00Z') + n * 3_600_000),
    summary: text,
    location: text,
    description: text,
    guests: fc.uniqueArray(person, { selector: ({ address }) => address, maxLength: 5 }),
  });
  await fc.assert(
    fc.asyncProperty(events, async (parts) => {
      const made: CalendarEvent = {
        ...parts,
        endsAt: parts.startsAt + 3_600_000,
        wholeDay: false,
        organizer: null,
        guests: parts.guests.map((guest) => ({ ...guest, answer: guest.answer as 'none', domain: 'harbour.example' })),
        rooms: ['Room 4'],
        isFree: false,
        isPrivate: false,
      };
      const line = (value: string): string => value.replace(/\s+/g, ' ').trim();
      const raw = eventMessage(
        { ...made, summary: line(made.summary), location: line(made.location) },
        { address: 'nadia@quillmere.example', name: '' },
      );
      const facts = await readEvent(raw, at('2021-01-01T00:00:00Z'));
      expect(facts).toMatchObject({
        mailClass: 'event',
        messageId: null,
        problems: [],
        attachments: [{ name: 'event.ics', inline: true }],
      });
      expect(facts.date.at).toBe(made.startsAt);
      expect(facts.participants.map(({ role, address }) => `${role} ${address}`).sort()).toEqual(
        ['from nadia@quillmere.example', ...made.guests.map(({ optional, address }) => `${optional ? 'cc' : 'to'} ${address}`)].sort(),
      );
      expect(facts.meetings).toEqual([
        expect.objectContaining({
          uid: made.uid,
          occursAt: made.occursAt,
          sequence: made.sequence,
          cancelled: made.cancelled,
          startsAt: made.startsAt,
          endsAt: made.endsAt,
          answers: Object.fromEntries(
            made.guests.filter(({ answer }) => answer !== 'none').map(({ address, answer }) => [address, answer]),
          ),
        }),
      ]);
      expect(line(facts.subject)).toBe(line(made.summary));
    }),
    { numRuns: 200 },
  );
});
