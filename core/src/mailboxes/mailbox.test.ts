import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { FAILURE_CODES, FAILURES, retryDelay } from './failures';
import { planFolder } from './folderPlan';
import { folderRoles, isFollowedAtFirst } from './folderRoles';
import type { MailboxFacts } from './health';
import { healthOf } from './health';

const folder = (path: string, specialUse: string | null = null) => ({ path, name: path.split('/').at(-1) ?? '', specialUse });

describe('folder roles', () => {
  test('what the server says goes before names', () => {
    const roles = folderRoles([folder('INBOX'), folder('Sent'), folder('Outgoing', '\\Sent'), folder('Trash')]);
    expect(Object.fromEntries(roles)).toEqual({ INBOX: 'inbox', Sent: 'other', Outgoing: 'sent', Trash: 'trash' });
  });

  test('the preset’s names go before common ones', () => {
    const roles = folderRoles([folder('inbox'), folder('Post/Weg'), folder('Sent Items')], { Weg: 'sent' });
    expect(Object.fromEntries(roles)).toEqual({ inbox: 'inbox', 'Post/Weg': 'sent', 'Sent Items': 'other' });
  });

  test('names in other languages are recognised', () => {
    expect(folderRoles([folder('Gesendete Objekte'), folder('Corbeille'), folder('Junk E-mail')])).toEqual(
      new Map([
        ['Gesendete Objekte', 'sent'],
        ['Corbeille', 'trash'],
        ['Junk E-mail', 'junk'],
      ]),
    );
  });

  test('drafts, junk, bin and the double of everything are not followed by themselves', () => {
    expect(
      (['inbox', 'sent', 'archive', 'other', 'all', 'drafts', 'junk', 'trash'] as const).filter((role) => isFollowedAtFirst(role, 'both')),
    ).toEqual(['inbox', 'sent', 'archive', 'other']);
    expect(isFollowedAtFirst('sent', 'received')).toBe(false);
    expect(isFollowedAtFirst('inbox', 'sent')).toBe(false);
  });
});

describe('trying again', () => {
  test('waits longer each time, up to half an hour', () => {
    const delays = [1, 2, 3, 4, 5, 6, 7, 50].map((attempts) => retryDelay('dropped', attempts));
    expect(delays).toEqual([5000, 15_000, 60_000, 180_000, 600_000, 1_800_000, 1_800_000, 1_800_000]);
  });

  test('a refused sign-in is never tried again by itself', () => {
    expect(retryDelay('sign-in-refused', 1)).toBeNull();
    expect(FAILURE_CODES.filter((code) => retryDelay(code, 1) === null)).toEqual(
      FAILURE_CODES.filter((code) => FAILURES[code].needsPerson),
    );
  });

  test('after being asked for a pause, at least a minute', () => {
    expect(retryDelay('throttled', 1)).toBe(60_000);
  });
});

describe('the plan of a folder', () => {
  test('reads the newest first, and says what is gone and what is back', () => {
    const known = [
      { uid: 1, settled: true, gone: false, tries: 1 },
      { uid: 2, settled: true, gone: false, tries: 1 },
      { uid: 3, settled: true, gone: true, tries: 1 },
      { uid: 4, settled: false, gone: false, tries: 2 },
      { uid: 5, settled: false, gone: false, tries: 3 },
    ];
    expect(planFolder([2, 3, 4, 5, 6, 9], known)).toEqual({ read: [9, 6, 4], gone: [1], back: [3] });
  });

  test('broken off at any point, the next plan reads exactly the rest', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 1, max: 500 })), fc.nat(100), (present, done) => {
        const first = planFolder(present, []).read;
        const stored = first.slice(0, done).map((uid) => ({ uid, settled: true, gone: false, tries: 1 }));
        expect(planFolder(present, stored).read).toEqual(first.slice(done));
      }),
    );
  });
});

describe('the state in words', () => {
  const now = Date.parse('2026-05-04T12:00:00Z');
  const facts: MailboxFacts = {
    state: 'running',
    problem: null,
    lastContactAt: now - 1000,
    backlog: 0,
    checked: true,
    startedAt: now - 90_000,
  };

  test('works only when it is followed, was just heard of, and nothing is wrong', () => {
    expect(healthOf(facts, now)).toEqual({ level: 'well', state: 'Working', problem: null });
    expect(healthOf({ ...facts, backlog: 5 }, now).state).toBe('Reading back');
    expect(healthOf({ ...facts, lastContactAt: now - 600_000 }, now)).toMatchObject({ level: 'trouble', state: 'Not being read' });
    expect(healthOf({ ...facts, state: 'connecting' }, now).state).toBe('Tried and ready to start');
    expect(healthOf({ ...facts, state: 'connecting', checked: false }, now).state).toBe('Being connected');
  });

  test('a problem says which days may be incomplete, what is done, and what is to be done', () => {
    const problem = { code: 'dropped' as const, since: now - 3_600_000, attempts: 3, retryAt: now + 60_000, remedy: '', said: 'BYE' };
    const health = healthOf({ ...facts, problem, lastContactAt: Date.parse('2026-05-02T08:00:00Z') }, now);
    expect(health).toMatchObject({ level: 'trouble', state: 'In trouble: trying again' });
    expect(health.problem).toMatchObject({
      means:
        'Histories may lack this mailbox’s emails from 2026-05-02 to 2026-05-04. They are read as soon as it works again; nothing is lost.',
      doing: 'Fulvet has tried 3 times and tries again in 60 seconds.',
      todo: FAILURES.dropped.remedy,
      said: 'BYE',
    });
  });

  test('a refused sign-in stops and asks, in the provider’s own terms', () => {
    const problem = { code: 'sign-in-refused' as const, since: now, attempts: 1, retryAt: null, remedy: 'Use the door key.', said: '' };
    expect(healthOf({ ...facts, state: 'stopped', problem }, now)).toMatchObject({
      level: 'stopped',
      state: 'Stopped: needs you',
      problem: { todo: 'Use the door key.' },
    });
  });

  test('no state but a working one is said to be working', () => {
    for (const state of ['imported', 'connecting', 'paused', 'stopped', 'closed'] as const) {
      const problem =
        state === 'stopped' ? { code: 'imap-off' as const, since: now, attempts: 1, retryAt: null, remedy: '', said: '' } : null;
      expect(healthOf({ ...facts, state, problem }, now).level).not.toBe('well');
    }
  });
});
