import { expect, test } from '@jest/globals';
import { questionWords, reachWords } from './deskWords';

test.each([
  [{ about: 'deal', domain: null, candidates: [1, 2, 3] }, 'Which of these 3 deals?'],
  [{ about: 'account', domain: 'reef.example', candidates: [] }, 'Which account of reef.example?'],
  [{ about: 'person', domain: 'kim@reef.example', candidates: [] }, 'Is kim@reef.example to become a record?'],
  [
    { about: 'person', domain: 'kim@driftpost.example', candidates: [{ id: 1, name: 'Kim Aster' }] },
    'Is kim@driftpost.example another address of Kim Aster?',
  ],
  [{ about: 'hold', domain: 'Tenders', candidates: [] }, 'A rule asks: Tenders'],
] as const)('%j asks %j', (item, words) => {
  expect(questionWords(item as never)).toBe(words);
});

test.each([
  [{ count: 1, conversations: 1, about: 'deal', candidates: [] }, 'One email; what follows in its conversation goes the same way.'],
  [{ count: 34, conversations: 1, about: 'deal', candidates: [] }, 'One answer for these 34 emails of one conversation.'],
  [{ count: 5, conversations: 3, about: 'person', candidates: [] }, 'One answer for 5 emails in 3 conversations.'],
  [
    { count: 2, conversations: 2, about: 'person', candidates: [{ id: 1 }] },
    '2 emails ask; the answer applies to all mail with this address.',
  ],
] as const)('%j settles: %j', (item, words) => {
  expect(reachWords(item as never)).toBe(words);
});
