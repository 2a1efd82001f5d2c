import { describe, expect, test } from '@jest/globals';
import { dueFromList, isSameState, listedDue, mergedState, readTodo, writtenTodo } from './taskList';
import type { ListState } from './taskList';

const AT = Date.UTC(2026, 10, 5, 9);
const state = (more: Partial<ListState> = {}): ListState => ({ text: 'Call Ida', details: '', due: null, done: false, ...more });
const object = (...lines: string[]): string =>
  ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//X//X//EN', 'BEGIN:VTODO', 'UID:a@x', ...lines, 'END:VTODO', 'END:VCALENDAR', ''].join(
    '\r\n',
  );

/** Numbers that look random and are the same in each run. */
function random(seed: number): (below: number) => number {
  let now = seed;
  return (below) => (now = (now * 48_271) % 2_147_483_647) % below;
}

const PIECES = ['Quay', '; DROP', 'a,b', 'Zürich', '\\n', '𝄞 tide', '"q"', ':', 'BEGIN:VTODO', '  ', '🙂', 'x'.repeat(90)];
function randomState(below: (n: number) => number): ListState {
  const text = () => Array.from({ length: 1 + below(5) }, () => PIECES[below(PIECES.length)]).join(' ');
  const moment = new Date(Date.UTC(2020 + below(30), below(12), 1 + below(28), below(24), below(60))).toISOString();
  return {
    text: `T ${text()}`.replace(/\s+/g, ' ').trim(),
    details: below(2) ? '' : `${text()}\n${text()}`.trim(),
    due: [null, moment, moment.slice(0, 10)][below(3)] ?? null,
    done: below(2) === 0,
  };
}

describe('a to-do of a list', () => {
  test('says what was written, and what is changed later, 300 times at random', () => {
    const below = random(7);
    for (let turn = 0; turn < 300; turn += 1) {
      const first = randomState(below);
      const second = randomState(below);
      const made = writtenTodo(null, 'task-1@x', first, AT);
      expect(readTodo(made ?? '')).toEqual({ uid: 'task-1@x', state: first, recurs: false });
      const changed = writtenTodo(made, 'other', second, AT + 60_000);
      expect(readTodo(changed ?? '')).toEqual({ uid: 'task-1@x', state: second, recurs: false });
    }
  });

  test('keeps all that a task does not have', () => {
    const before = object(
      'SUMMARY:Old',
      'CATEGORIES:Boats',
      'X-COLOUR;X-A=b:green',
      'PRIORITY:2',
      'DUE;TZID=Europe/Berlin:20261224T093000',
      'BEGIN:VALARM',
      'ACTION:DISPLAY',
      'TRIGGER:-PT5M',
      'DESCRIPTION:x',
      'END:VALARM',
    );
    const after = writtenTodo(before, '', { ...readTodo(before)!.state, text: 'New' }, AT) ?? '';
    for (const kept of ['CATEGORIES:Boats', 'X-COLOUR;X-A=b:green', 'PRIORITY:2', 'DUE;TZID=Europe/Berlin:20261224T093000', 'BEGIN:VALARM'])
      expect(after).toContain(kept);
    expect(after).toContain('SUMMARY:New');
    expect(after).not.toContain('SUMMARY:Old');
  });

  test.each([
    [['SUMMARY:Buy rope', 'DUE;VALUE=DATE:20261224'], { text: 'Buy rope', due: '2026-12-24' }],
    [['DUE;TZID=Europe/Berlin:20261224T093000'], { text: '', due: '2026-12-24T08:30:00.000Z' }],
    [
      ['SUMMARY:a\\nb\\,c', 'DTSTART:20261224T093000Z', 'STATUS:IN-PROCESS'],
      { text: 'a b,c', due: '2026-12-24T09:30:00.000Z', done: false },
    ],
    [['SUMMARY:a', 'STATUS:COMPLETED'], { done: true }],
    [['SUMMARY:a', 'COMPLETED:20261104T080000Z'], { done: true }],
    [['SUMMARY:a', 'STATUS:CANCELLED'], { done: true }],
    [['SUMMARY:a', 'STATUS:NEEDS-ACTION', 'COMPLETED:20261104T080000Z'], { done: false }],
    [['SUMMARY:a', 'DUE:99999999T999999'], { due: null }],
    [['SUMMARY:a', 'DUE:nonsense'], { due: null }],
    [['SUMMARY:' + 'y'.repeat(3000)], { text: 'y'.repeat(500) }],
  ])('%j', (lines, expected) => expect(readTodo(object(...lines))?.state).toMatchObject(expected));

  test('that comes back is known as such, by its first part', () => {
    const text = object('SUMMARY:a', 'RRULE:FREQ=WEEKLY').replace(
      'END:VTODO',
      'END:VTODO\r\nBEGIN:VTODO\r\nUID:a@x\r\nRECURRENCE-ID:20261224T093000Z\r\nSUMMARY:b\r\nEND:VTODO',
    );
    expect(readTodo(text)).toMatchObject({ recurs: true, state: { text: 'a' } });
  });

  test.each([
    '',
    'nonsense',
    'BEGIN:VCALENDAR',
    object().replaceAll('VTODO', 'VEVENT'),
    object().replace('UID:a@x\r\n', ''),
    '\u0000'.repeat(50),
  ])('what is none is none: %j', (text) => {
    expect(readTodo(text)).toBeNull();
    expect(writtenTodo(text, 'u', state(), AT)).toBeNull();
  });
});

describe('a due day', () => {
  test('is the same by way of a list, in three zones and across changes of the clock', () => {
    for (const zone of ['Europe/Berlin', 'America/New_York', 'Australia/Lord_Howe'])
      for (const day of ['2026-03-28', '2026-03-29', '2026-07-01', '2026-10-25', '2026-11-01'])
        for (const time of [null, '00:15', '09:30', '23:45']) {
          const due = { day, time, zone };
          expect(dueFromList(listedDue(due), zone)).toEqual(due);
        }
    expect(dueFromList(listedDue(null), 'UTC')).toBeNull();
  });
});

describe('what both sides changed', () => {
  test('goes field by field; where both did, the task stands; 300 times at random', () => {
    const below = random(11);
    for (let turn = 0; turn < 300; turn += 1) {
      const [base, mine, yours] = [randomState(below), randomState(below), randomState(below)];
      const pick = (from: ListState, other: ListState): ListState => (below(2) ? from : other);
      const ours = { ...base, text: pick(base, mine).text, due: pick(base, mine).due };
      const theirs = { ...base, text: pick(base, yours).text, done: pick(base, yours).done };
      const merged = mergedState(base, ours, theirs);
      for (const field of ['text', 'details', 'due', 'done'] as const)
        expect(merged[field]).toBe(ours[field] === base[field] ? theirs[field] : ours[field]);
      // Who said the same before is not asked again.
      expect(isSameState(mergedState(merged, merged, merged), merged)).toBe(true);
    }
  });

  test('leaves no task without a text', () => expect(mergedState(state(), state(), state({ text: '' })).text).toBe('Call Ida'));
});
