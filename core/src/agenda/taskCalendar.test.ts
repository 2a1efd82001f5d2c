import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import ICAL from 'ical.js';
import { tasksAsCalendar } from './taskCalendar';
import type { CalendarTask } from './taskCalendar';
import { REPEAT_UNITS } from './tasks';

const NOW = new Date('2026-12-02T05:00:00Z');
const task = (more: Partial<CalendarTask>): CalendarTask => ({
  id: 7,
  text: 'Call Ida',
  details: '',
  due: null,
  dueAt: null,
  repeat: null,
  done: null,
  revision: 2,
  createdAt: '2026-12-01T08:00:00Z',
  ...more,
});
const todos = (text: string): ICAL.Component[] => new ICAL.Component(ICAL.parse(text) as never).getAllSubcomponents('vtodo');
const out = (more: Partial<CalendarTask>): string => tasksAsCalendar([task(more)], 'fulvet.example', NOW);

describe('tasks as iCalendar', () => {
  test('have a lasting UID, a day or a moment, and a state', () => {
    expect(out({ due: { day: '2026-12-24', time: null }, dueAt: '2026-12-24T22:59:59Z' })).toContain('DUE;VALUE=DATE:20261224');
    const timed = out({ due: { day: '2026-12-24', time: '09:30' }, dueAt: '2026-12-24T08:30:00Z' });
    for (const line of ['UID:task-7@fulvet.example', 'SEQUENCE:2', 'DUE:20261224T083000Z', 'STATUS:NEEDS-ACTION'])
      expect(timed).toContain(line);
    expect(out({ done: { at: '2026-12-02T04:00:00Z' } })).toContain('COMPLETED:20261202T040000Z');
  });

  test('that come back say how often, from the day on which they are due', () => {
    const text = out({ due: { day: '2026-12-24', time: null }, repeat: { every: 2, unit: 'week' } });
    expect(text).toContain('DTSTART;VALUE=DATE:20261224');
    expect(text).toMatch(/RRULE:FREQ=WEEKLY;INTERVAL=2/);
    expect(text).not.toContain('DUE');
  });

  test('say what they said, whatever stands in it', () => {
    const some = fc.record({
      text: fc.string({ minLength: 1, unit: 'grapheme' }).map((text) => text.replace(/[\r\n]/g, ' ')),
      details: fc.string(),
      repeat: fc.option(fc.record({ every: fc.integer({ min: 1, max: 99 }), unit: fc.constantFrom(...REPEAT_UNITS) })),
    });
    fc.assert(
      fc.property(fc.array(some, { maxLength: 5 }), (all) => {
        const plain = all.map((one, at) => task({ ...one, id: at + 1, text: clean(one.text), details: clean(one.details) }));
        const read = todos(tasksAsCalendar(plain, 'fulvet.example', NOW));
        expect(read.map((todo) => todo.getFirstPropertyValue('summary'))).toEqual(plain.map(({ text }) => text));
      }),
    );
  });
});

/** Without control characters, which no calendar object has. */
const clean = (text: string): string => text.replace(/\p{Cc}/gu, '');
