import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { subjectFallback, SUBJECT_REACH } from './subjectFallback';
import type { ThreadEmail } from './thread';
import { threadConversations } from './thread';

function email(key: string, references: string[] = [], more: Partial<ThreadEmail> = {}): ThreadEmail {
  return {
    key,
    messageId: key,
    references,
    at: Number(key.replace(/\D/g, '')) || 0,
    isForward: false,
    subjectKey: 's',
    subjectParent: null,
    ...more,
  };
}

/** Groups of keys, each in order, whatever their names. */
function groups(emails: ThreadEmail[]): string[] {
  const byName = new Map<string, string[]>();
  for (const [key, name] of threadConversations(emails)) byName.set(name, [...(byName.get(name) ?? []), key]);
  return [...byName.values()].map((keys) => keys.sort().join(' ')).sort();
}

describe('threadConversations', () => {
  test('answers belong to what they answer', () => {
    expect(groups([email('1'), email('2', ['1']), email('3', ['1', '2']), email('4')])).toEqual(['1 2 3', '4']);
  });

  test('a parent that was never seen holds its answers together', () => {
    expect(groups([email('2', ['1']), email('3', ['1'])])).toEqual(['2 3']);
  });

  test('a parent that arrives late joins two conversations', () => {
    const answers = [email('2', ['1']), email('5', ['4'])];
    expect(groups(answers)).toEqual(['2', '5']);
    expect(groups([...answers, email('4', ['1'])])).toEqual(['2 4 5']);
  });

  test('a reference chain links ids that no email has', () => {
    expect(groups([email('5', ['a', 'b']), email('6', ['b', 'c']), email('7', ['c'])])).toEqual(['5 6 7']);
  });

  test('an existing link is not overturned by another email’s references', () => {
    // 3 says that 2 follows x; 2 itself says that it follows 1. RFC 5256 step 1B: 2 knows best.
    expect(groups([email('1'), email('2', ['1']), email('3', ['x', '2']), email('4', ['x'])])).toEqual(['1 2 3', '4']);
  });

  test('references in a circle do no harm', () => {
    expect(groups([email('1', ['2']), email('2', ['1'])])).toEqual(['1 2']);
    expect(groups([email('1', ['1'])])).toEqual(['1']);
  });

  test('two emails that share a Message-ID are one conversation, unless the references of one lead elsewhere', () => {
    expect(groups([email('1'), email('2', ['1']), email('3', [], { messageId: '2' }), email('4', ['2'])])).toEqual(['1 2 3 4']);
    expect(groups([email('1'), email('2', ['1']), email('5'), email('6', ['5'], { messageId: '2' })])).toEqual(['1 2', '5 6']);
  });

  test('a forwarded email with a new subject starts a new conversation, and its answers go with it', () => {
    const forward = email('2', ['1'], { isForward: true, subjectKey: 'new' });
    expect(groups([email('1'), forward, email('3', ['1', '2'], { subjectKey: 'new' })])).toEqual(['1', '2 3']);
    expect(groups([email('1'), { ...forward, subjectKey: 's' }])).toEqual(['1 2']);
  });

  test('an email joined by subject goes with its peer', () => {
    expect(groups([email('1'), email('2', [], { subjectParent: '1' }), email('3', ['2'])])).toEqual(['1 2 3']);
  });

  test('the order of arrival does not matter', () => {
    const emails = fc.array(
      fc.tuple(fc.integer({ min: 0, max: 9 }), fc.array(fc.integer({ min: 0, max: 9 }), { maxLength: 3 }), fc.integer({ min: 0, max: 3 })),
      { maxLength: 9 },
    );
    fc.assert(
      fc.property(emails, fc.integer(), (drawn, seed) => {
        const made = drawn.map(([id, references, at], position) =>
          email(
            `k${position}`,
            references.map((reference) => `m${reference}`),
            { messageId: `m${id}`, at },
          ),
        );
        const shuffled = made
          .map((item, at) => ({ one: item, order: Math.sin(seed + at) }))
          .sort((a, b) => a.order - b.order)
          .map(({ one }) => one);
        expect(groups(shuffled)).toEqual(groups(made));
      }),
    );
  });

  test('ten thousand answers in one chain are threaded', () => {
    const chain = Array.from({ length: 10_000 }, (_, at) => email(`${at + 1}`, at === 0 ? [] : [`${at}`]));
    expect(groups(chain)).toHaveLength(1);
  });
});

describe('subjectFallback', () => {
  const day = 86_400_000;
  const candidate = {
    subjectKey: 'quote',
    hasReferences: false,
    isReply: true,
    isForward: false,
    at: 100 * day,
    externals: ['ida@x.example'],
    copied: [],
  };
  const peer = (conversation: string, at: number, externals = ['ida@x.example'], copied: string[] = []) => ({
    conversation,
    at: at * day,
    externals,
    copied,
  });

  test('takes the nearest earlier email with a common participant', () => {
    expect(subjectFallback(candidate, [peer('a', 80), peer('b', 95), peer('c', 99, ['jo@x.example'])])).toBe('b');
  });

  test.each([
    ['with references', { ...candidate, hasReferences: true }],
    ['without a reply prefix', { ...candidate, isReply: false }],
    ['when forwarded', { ...candidate, isForward: true }],
    ['without a subject', { ...candidate, subjectKey: '' }],
  ])('does nothing %s', (_, item) => {
    expect(subjectFallback(item, [peer('a', 99)])).toBeNull();
  });

  test('who is in copy on both makes no conversation; who writes one of them does', () => {
    const lawyer = 'law@y.example';
    const copied = { ...candidate, externals: ['ida@x.example', lawyer], copied: [lawyer] };
    expect(subjectFallback(copied, [peer('a', 99, ['jo@z.example', lawyer], [lawyer])])).toBeNull();
    expect(subjectFallback(copied, [peer('a', 99, [lawyer])])).toBe('a');
    expect(subjectFallback(candidate, [peer('a', 99, ['jo@z.example', 'ida@x.example'], ['ida@x.example'])])).toBe('a');
  });

  test('reaches 30 days back and not ahead', () => {
    expect(subjectFallback(candidate, [peer('a', 70)])).toBe('a');
    expect(subjectFallback({ ...candidate, at: 70 * day + SUBJECT_REACH + 1 }, [peer('a', 70)])).toBeNull();
    expect(subjectFallback(candidate, [peer('a', 101)])).toBeNull();
  });
});

describe('emails of one subject', () => {
  const addresses = ['a@x.example', 'b@x.example', 'c@y.example', 'd@z.example'];
  const peer = fc.record({
    at: fc.integer({ min: 0, max: 50 }).map((day) => day * 86_400_000),
    externals: fc.subarray(addresses),
    copied: fc.subarray(addresses),
  });

  /** The nearest by comparing each, as the rule is written. */
  function plainly(
    email: { at: number; externals: string[]; copied: string[] },
    peers: { at: number; externals: string[]; copied: string[] }[],
  ): number | null {
    const fits = peers
      .map((other, place) => ({ other, place }))
      .filter(({ other }) => other.at <= email.at && email.at - other.at <= SUBJECT_REACH)
      .filter(({ other }) =>
        other.externals.some(
          (external) => email.externals.includes(external) && !(email.copied.includes(external) && other.copied.includes(external)),
        ),
      );
    fits.sort((first, second) => second.other.at - first.other.at || first.place - second.place);
    return fits[0]?.place ?? null;
  }

  test('are joined to the nearest that has a person in common, however many there are', () => {
    fc.assert(
      fc.property(fc.array(peer, { maxLength: 12 }), peer, (unordered, email) => {
        const peers = [...unordered].sort((first, second) => first.at - second.at);
        const found = subjectFallback(
          { ...email, subjectKey: 'gauge', hasReferences: false, isReply: true, isForward: false },
          peers.map((item, place) => ({ ...item, conversation: String(place) })),
        );
        expect(found === null ? null : Number(found)).toBe(plainly(email, peers));
      }),
      { numRuns: 500 },
    );
  });
});
