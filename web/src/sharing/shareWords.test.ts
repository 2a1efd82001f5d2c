import { describe, expect, test } from '@jest/globals';
import { sharingChoiceText, subjectText } from './shareWords';

type Word = Parameters<typeof sharingChoiceText>[0];
const WORD: Word = {
  does: 'seal',
  scope: 'email',
  value: null,
  subject: 'Gauges',
  level: null,
  teams: [],
  existenceOnly: false,
  until: null,
};

describe('what a member said of their own mail', () => {
  test.each<[Partial<Word>, string]>([
    [{}, '“Gauges”: sealed, no one else learns of it'],
    [{ subject: null }, '“an email”: sealed, no one else learns of it'],
    [{ scope: 'conversation' }, 'the conversation “Gauges”: sealed, no one else learns of it'],
    [{ scope: 'person', value: 'ida@harbour.example' }, 'everything with ida@harbour.example: sealed, no one else learns of it'],
    [
      { scope: 'domain', value: 'harbour.example', until: '2026-05-04T10:00:00.000Z' },
      'everything with harbour.example up to then: sealed, no one else learns of it',
    ],
    [{ does: 'share', level: 'everyone' }, '“Gauges”: seen by everyone'],
    [{ does: 'share', level: 'teams', teams: ['coast', 'rivers'] }, '“Gauges”: seen by the team coast and rivers'],
    [{ does: 'share', level: 'record', existenceOnly: true }, '“Gauges”: seen by those who own its records, that it exists only'],
    [{ does: 'share', level: null }, '“Gauges”: seen by the owners of its mailboxes'],
  ])('%j', (change, text) => {
    expect(sharingChoiceText({ ...WORD, ...change })).toBe(text);
  });
});

describe('what a request or a grant is about', () => {
  test.each<[Parameters<typeof subjectText>[0], string]>([
    [{ scope: 'email', record: null, subject: 'Gauges', emails: 1 }, '“Gauges”'],
    [{ scope: 'email', record: null, subject: null, emails: 1 }, 'an email'],
    [{ scope: 'conversation', record: null, subject: 'Gauges', emails: 4 }, 'the conversation “Gauges”'],
    [
      { scope: 'record', record: { kind: 'deal', id: 3, name: 'Outer harbour' }, subject: null, emails: 9 },
      'all mail of the deal Outer harbour',
    ],
    [{ scope: 'record', record: null, subject: null, emails: 0 }, 'all mail of a record'],
  ])('%j', (about, text) => {
    expect(subjectText(about)).toBe(text);
  });
});
