import { describe, expect, test } from '@jest/globals';
import { randomFrom } from '../testing/random';
import type { RunSituation, SeriesStep } from './series';
import { firstDueAt, stepDone, turnOf } from './series';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
const days = { zone: 'Europe/Berlin', holidays: new Set(['2026-12-25']) };
const START = Date.parse('2026-12-01T09:00:00Z');
const steps: SeriesStep[] = [
  { kind: 'email', waitDays: 0 },
  { kind: 'email', waitDays: 3 },
];
const run = (more: Partial<RunSituation> = {}): RunSituation => ({
  state: 'waiting',
  steps,
  atStep: 0,
  dueAt: START,
  asks: false,
  email: null,
  stop: null,
  absentAt: null,
  isHeld: false,
  leftToday: 5,
  restsUntil: 0,
  ...more,
});
const turn = (more: Partial<RunSituation>, now = START): ReturnType<typeof turnOf> => turnOf(run(more), now, days);

describe('a series with someone', () => {
  test('begins its step when it is due, and shows what is late or what its member wants to see', () => {
    expect(turn({ dueAt: START + 1 })).toEqual({ does: 'nothing' });
    expect(turn({})).toEqual({ does: 'begin', asks: false });
    expect(turn({ asks: true })).toEqual({ does: 'begin', asks: true });
    expect(turn({}, START + 2 * HOUR)).toEqual({ does: 'begin', asks: true });
    expect(turn({ steps: [{ kind: 'task', waitDays: 0 }] })).toEqual({ does: 'say', state: 'to do' });
  });

  test('is held, waits for the day after where the mailbox has sent enough, and leaves the absent in peace', () => {
    expect(turn({ isHeld: true })).toEqual({ does: 'nothing' });
    expect(turn({ leftToday: 0 })).toEqual({ does: 'wait', dueAt: START + DAY, because: 'limit' });
    expect(turn({ absentAt: START - HOUR })).toEqual({ does: 'wait', dueAt: Date.parse('2026-12-08T08:00:00Z'), because: 'absent' });
    expect(turn({ absentAt: START - 9 * DAY })).toEqual({ does: 'begin', asks: false });
  });

  test('rests between two emails of a mailbox, and is not late by that', () => {
    expect(turn({ restsUntil: START + 9000 })).toEqual({ does: 'wait', dueAt: START + 9000, because: 'pace' });
    expect(turn({ restsUntil: START })).toEqual({ does: 'begin', asks: false });
  });

  test('goes on after its email was sent, ends after the last, and stops where it came back', () => {
    const sentAt = START + 60_000;
    expect(turn({ email: { state: 'sent', sentAt } })).toEqual({ does: 'go on', dueAt: Date.parse('2026-12-04T09:01:00Z') });
    expect(turn({ atStep: 1, email: { state: 'sent', sentAt } })).toEqual({ does: 'end' });
    expect(turn({ email: { state: 'bounced', sentAt } })).toEqual({ does: 'stop', why: 'bounced' });
    expect(turn({ email: { state: 'refused', sentAt: null } })).toEqual({ does: 'stop', why: 'refused' });
    expect(turn({ email: 'gone' })).toEqual({ does: 'stop', why: 'by hand' });
    expect(stepDone(run({ steps: [], atStep: 4 }), START, days)).toEqual({ does: 'end' });
  });

  test('stops at what was found, unless its email is being handed over', () => {
    expect(turn({ stop: 'answered' })).toEqual({ does: 'stop', why: 'answered' });
    expect(turn({ stop: 'answered', email: { state: 'due', sentAt: null } })).toEqual({ does: 'stop', why: 'answered' });
    expect(turn({ stop: 'answered', email: { state: 'handing over', sentAt: null } })).toEqual({ does: 'say', state: 'sending' });
    expect(turn({ stop: 'answered', state: 'ended' })).toEqual({ does: 'nothing' });
  });
});

// A world around it that knows only what it is for: a member's process that dies anywhere, people who answer when they like, clocks that change.
describe('a thousand random series', () => {
  const zones = ['Europe/Berlin', 'America/New_York', 'Australia/Lord_Howe', 'America/Sao_Paulo', 'Asia/Kolkata'];
  const formats = new Map(zones.map((timeZone) => [timeZone, new Intl.DateTimeFormat('sv-SE', { timeZone, dateStyle: 'short' })]));
  const dayIn = (at: number, zone: string): string => formats.get(zone)?.format(at) ?? '';

  /** Working days that begin after a moment and until another, as a calendar on the wall counts them. */
  function workingDaysBetween(from: number, to: number, zone: string, holidays: ReadonlySet<string>): number {
    const seen = new Set<string>();
    for (let at = from; at <= to; at += 6 * HOUR) seen.add(dayIn(at, zone));
    seen.add(dayIn(to, zone));
    seen.delete(dayIn(from, zone));
    return [...seen].filter((day) => {
      const weekday = new Date(`${day}T12:00:00Z`).getUTCDay();
      return weekday !== 6 && weekday !== 0 && !holidays.has(day);
    }).length;
  }

  function play(seed: number) {
    const random = randomFrom(seed);
    const below = (most: number): number => Math.floor(random() * most);
    const zone = zones[below(zones.length)] ?? 'UTC';
    const begun = Date.parse('2026-01-01T00:00:00Z') + below(330 * 24) * HOUR + below(HOUR);
    const holidays = new Set(Array.from({ length: below(4) }, () => dayIn(begun + below(20) * DAY, zone)));
    const plan = Array.from({ length: 1 + below(5) }, (): SeriesStep => ({ kind: random() < 0.8 ? 'email' : 'task', waitDays: below(6) }));
    const answeredAt = random() < 0.5 ? begun + below(25 * 24) * HOUR : Infinity;
    const absentAt = random() < 0.3 ? begun + below(15 * 24) * HOUR : Infinity;
    const asks = random() < 0.3;
    const stored = {
      state: 'waiting' as RunSituation['state'],
      atStep: 0,
      dueAt: firstDueAt(plan, begun, { zone, holidays }),
      email: null as RunSituation['email'],
    };
    const sent: { step: number; at: number; begunAt: number }[] = [];
    let begunAt = 0;
    const done: { step: number; at: number }[] = [];
    let now = begun;
    for (let tick = 0; tick < 900 && stored.state !== 'ended' && stored.state !== 'stopped'; tick += 1) {
      // Looked at by several processes, at any time; some ticks long after, as when none ran.
      now += random() < 0.05 ? below(30) * HOUR : below(2 * HOUR);
      // The mail server takes what is due; the member sends what is to be looked at.
      if (stored.email !== null && stored.email !== 'gone') {
        if (stored.email.state === 'draft' && stored.state === 'to look at' && random() < 0.2 && answeredAt > now)
          stored.email = { state: 'due', sentAt: null };
        else if (stored.email.state === 'due' && answeredAt > now && random() < 0.7) {
          stored.email = { state: 'sent', sentAt: now };
          sent.push({ step: stored.atStep, at: now, begunAt });
          done.push({ step: stored.atStep, at: now });
        }
      }
      const finishes = stored.state === 'to do' && random() < 0.2;
      const sentToday = sent.filter(({ at }) => dayIn(at, zone) === dayIn(now, zone)).length;
      const situation: RunSituation = {
        ...stored,
        steps: plan,
        asks,
        stop: answeredAt <= now ? 'answered' : null,
        absentAt: absentAt <= now && absentAt > (done.at(-1)?.at ?? begun) ? absentAt : null,
        isHeld: random() < 0.05,
        leftToday: 1 - sentToday,
        restsUntil: (sent.at(-1)?.at ?? 0) + 60_000,
      };
      const action =
        finishes && situation.stop === null ? stepDone(situation, now, { zone, holidays }) : turnOf(situation, now, { zone, holidays });
      // The process dies before anything is stored.
      if (random() < 0.2) continue;
      if (finishes && situation.stop === null) done.push({ step: stored.atStep, at: now });
      if (action.does === 'go on') Object.assign(stored, { state: 'waiting', atStep: stored.atStep + 1, dueAt: action.dueAt, email: null });
      else if (action.does === 'wait') stored.dueAt = action.dueAt;
      else if (action.does === 'begin') {
        Object.assign(stored, { state: 'preparing', email: { state: 'draft', sentAt: null } });
        begunAt = now;
      } else if (action.does === 'prepare') {
        stored.state = asks || now - stored.dueAt > HOUR ? 'to look at' : 'sending';
        if (stored.state === 'sending') stored.email = { state: 'due', sentAt: null };
      } else if (action.does === 'say') stored.state = action.state;
      else if (action.does === 'end') stored.state = 'ended';
      else if (action.does === 'stop') stored.state = 'stopped';
    }
    return { plan, sent, done, answeredAt, absentAt, zone, holidays, begun, state: stored.state };
  }

  test('send nothing after an answer, nothing early, nothing twice, and come to their end', () => {
    let emails = 0;
    let ended = 0;
    const wrong: unknown[] = [];
    for (let seed = 1; seed <= 1000; seed += 1) {
      const { plan, sent, done, answeredAt, zone, holidays, begun, state, absentAt } = play(seed);
      emails += sent.length;
      ended += state === 'ended' ? 1 : 0;
      if (sent.some(({ at }) => at > answeredAt)) wrong.push({ seed, what: 'after an answer' });
      if (new Set(sent.map(({ step }) => step)).size < sent.length) wrong.push({ seed, what: 'twice' });
      done.forEach(({ step, at }, place) => {
        const before = place === 0 ? begun : (done[place - 1]?.at ?? begun);
        if (step !== place) wrong.push({ seed, what: 'a step was left out' });
        if (at < before) wrong.push({ seed, what: 'before the step before' });
        if (workingDaysBetween(before, at, zone, holidays) < (plan[step]?.waitDays ?? 0)) wrong.push({ seed, what: 'early', step });
        // An absence note that came between the step before and the beginning of this one postpones it.
        const begunEmail = sent.find((email) => email.step === step)?.begunAt ?? 0;
        if (absentAt > before && absentAt < begunEmail && workingDaysBetween(absentAt, begunEmail, zone, holidays) < 5)
          wrong.push({ seed, what: 'while they were absent', step });
      });
      if (state !== 'ended' && state !== 'stopped') wrong.push({ seed, what: 'it goes on for ever', state });
      if (state === 'ended' && done.length !== plan.length) wrong.push({ seed, what: 'ended too early' });
      if (state === 'stopped' && answeredAt === Infinity) wrong.push({ seed, what: 'stopped without a reason' });
    }
    expect(wrong).toEqual([]);
    expect({ enoughSent: emails > 700, enoughEnded: ended > 300 }).toEqual({ enoughSent: true, enoughEnded: true });
  }, 60_000);
});
