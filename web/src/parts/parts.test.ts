import { describe, expect, test } from '@jest/globals';
import { cautiousRulebook } from '@fulvet/core';
import { queryOf } from '../api/client';
import { inForce } from '../rulebook/sentences/defaultSentences';
import { clsx } from './clsx';
import { momentText } from './Moment';
import { bytes, counted, duration } from './numbers';
import { initialsOf, nameOf } from './people';

describe('momentText', () => {
  const now = new Date(2026, 4, 10, 12, 0).getTime();
  test.each([
    [new Date(2026, 4, 10, 11, 59, 30), 'now'],
    [new Date(2026, 4, 10, 11, 48), '12 min'],
    [new Date(2026, 4, 9, 23, 59), 'Yesterday'],
  ])('%s is %s', (date, text) => {
    expect(momentText(date, now)).toBe(text);
  });

  test('an hour ago is a time of day, other years are named', () => {
    expect(momentText(new Date(2026, 4, 10, 8, 5), now)).toMatch(/^0?8.05/);
    expect(momentText(new Date(2025, 4, 10), now)).toContain('2025');
    expect(momentText(new Date(2026, 2, 1), now)).not.toContain('2026');
  });
});

test('numbers are put as people say them', () => {
  expect([counted(1, 'email'), counted(1200, 'email'), counted(2, 'entry', 'entries')]).toEqual(['1 email', '1,200 emails', '2 entries']);
  expect([bytes(12), bytes(5300), bytes(1_500_000), bytes(40_000_000)]).toEqual(['12 B', '5 kB', '1.5 MB', '40 MB']);
  expect([duration(0.2), duration(59), duration(150), duration(7300)]).toEqual(['1 s', '59 s', '3 min', '2.0 h']);
});

test('people have initials, whatever their name is made of', () => {
  expect(initialsOf({ name: 'Ida van Brandt', address: 'x@h.example' })).toBe('IV');
  expect(initialsOf({ name: '', address: 'ida.brandt@h.example' })).toBe('IB');
  expect(initialsOf({ name: '守江', address: 'x@h.example' })).toBe('守');
  expect(nameOf({ name: '', address: 'x@h.example' })).toBe('x@h.example');
});

test('a query string holds what is set', () => {
  expect(queryOf({ text: 'a b', after: '', outcome: undefined, limit: 5 })).toBe('?text=a+b&limit=5');
  expect(queryOf({})).toBe('');
});

test('class names that hold are joined', () => {
  expect(clsx('a', false, undefined, 'b')).toBe('a b');
});

describe('what is in force, in sentences', () => {
  test('of a new installation: nothing is created, nothing is shared', () => {
    const sentences = inForce(cautiousRulebook(['quillmere.example'])).map((item) => item.text);
    expect(sentences).toHaveLength(5);
    expect(sentences[0]).toBe('Kept out: internal mail, newsletters, notices, automatic replies, bounces.');
    expect(sentences[3]).toBe('No records are created.');
    expect(sentences[4]).toBe('Filed mail is seen by only the owners of its mailboxes.');
  });

  test('of an open one', () => {
    const rulebook = cautiousRulebook(['quillmere.example']);
    Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail', accounts: true });
    rulebook.keepOut.machineMail = [];
    rulebook.keepOut.internal = false;
    const sentences = inForce(rulebook).map((item) => item.text);
    expect(sentences[0]).toBe('Nothing is kept out.');
    expect(sentences[3]).toBe('Unknown people become a contact from the first email on, with an account from the domain.');
  });
});
